"""What would win time: changes to a plan, each tried on the layers as they are. Estimates."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import partial

import numpy as np
from pydantic import BaseModel, ConfigDict

from ulvet.core.bench.bench import Bench
from ulvet.core.bench.setup import Setup
from ulvet.core.plates.planning import WantedPiece
from ulvet.core.plates.plate import Piece
from ulvet.core.recipe.step import plural

__all__ = ["Change", "Won", "changes_to_try", "in_setup", "scaled", "thinned"]

_SMALLER = 0.9
"""The size that is tried (bench default)."""
_WALL_MM = 2.0
"""Wall of a hollow part that is tried (bench default)."""
_MOST_SETTINGS = 4
"""Other settings that are tried (bench default)."""


@dataclass(frozen=True)
class Change:
    """A change to a plan: what it is, in what it is tried only roughly, and what becomes of pieces."""

    says: str
    roughly: str
    of: Callable[[Sequence[WantedPiece]], list[WantedPiece]]


class Won(BaseModel):
    """A change that was tried: what printing, hands, material and money it saves, and how much sooner all is ready,
    None where there are no days; less than nothing is lost by it."""

    model_config = ConfigDict(frozen=True)

    says: str
    roughly: str
    printing_s: float
    hands_min: float
    material_ml: float
    money: float
    ready: datetime | None
    sooner_min: float | None
    unfit: int
    """Pieces that fit no plate then."""


def changes_to_try(pieces: Sequence[WantedPiece], bench: Bench, lines: Sequence[str]) -> Iterator[Change]:
    """Changes worth trying: a line left out, another setting of the same process, smaller, hollow. ``lines`` are what
    each line is called."""
    settings = sorted({one.setting for one in pieces})
    layers = {setting: float(bench.setup(setting).layer) for setting in settings}
    wanted = sorted({one.line for one in pieces})
    for line in wanted if len(wanted) > 1 else ():
        yield Change(f"without {lines[line]}", "", partial(_without, line))
    for used in settings:
        setup = bench.setup(used)
        others = [one for one in bench.settings if one.id != used and not one.retired]
        others = [one for one in others if bench.setup(one.id).process == setup.process]
        for other in others[:_MOST_SETTINGS]:
            new = bench.setup(other.id)
            yield Change(
                f"{_those(used, settings, bench)} in {new.setting.name}",
                "with the supports they have" if new.layer != layers[used] else "",
                partial(_in_other, used, new, layers[used]),
            )  # fmt: skip
    yield Change(
        f"all at {_SMALLER:.0%} of their size", "supports shrunk with them",
        lambda held: [_smaller(one, layers[one.setting]) for one in held],
    )  # fmt: skip
    solid = [one for one in pieces if _share_of_wall(one) < 1.0]
    if solid:
        yield Change(
            f"{plural(len(solid), 'solid part')} hollow, walls of {_WALL_MM:g} mm", "by area and volume alone",
            lambda held: [replace(one, piece=thinned(one.piece, _share_of_wall(one))) for one in held],
        )  # fmt: skip


def in_setup(piece: Piece, layer: float, setup: Setup) -> Piece:
    """A piece whose layers of ``layer`` mm are cut anew for another setup: area by height stays."""
    count = max(round(len(piece.areas) * layer / float(setup.layer)), 1)
    middles = (np.arange(count) + 0.5) * float(setup.layer) / layer - 0.5
    areas = np.interp(middles, np.arange(len(piece.areas)), piece.areas) if len(piece.areas) else piece.areas
    look = None if piece.look is None else min(int(piece.look * layer / float(setup.layer)), count - 1)
    return replace(piece, areas=areas, look=look)


def scaled(piece: Piece, layer: float, factor: float) -> Piece:
    """A piece at another size, cut in layers of the same ``layer`` mm."""
    count = max(round(len(piece.areas) * factor), 1)
    middles = (np.arange(count) + 0.5) / factor - 0.5
    areas = np.interp(middles, np.arange(len(piece.areas)), piece.areas) * factor**2
    shadow = piece.shadow
    smaller = replace(shadow, pixel=shadow.pixel * factor, origin=shadow.origin * factor, tall=count * layer)
    look = None if piece.look is None else min(int(piece.look * factor), count - 1)
    return replace(piece, shadow=smaller, areas=areas, look=look)


def thinned(piece: Piece, share: float) -> Piece:
    """A piece of which only a share of every layer is solid."""
    return replace(piece, areas=piece.areas * share)


def _without(line: int, held: Sequence[WantedPiece]) -> list[WantedPiece]:
    return [one for one in held if one.line != line]


def _in_other(used: str, new: Setup, layer: float, held: Sequence[WantedPiece]) -> list[WantedPiece]:
    return [
        replace(one, setting=new.setting.id, piece=in_setup(one.piece, layer, new)) if one.setting == used else one
        for one in held
    ]


def _smaller(one: WantedPiece, layer: float) -> WantedPiece:
    wide, deep, tall = (side * _SMALLER for side in one.size_mm)
    return replace(one, piece=scaled(one.piece, layer, _SMALLER), size_mm=(wide, deep, tall))


def _share_of_wall(one: WantedPiece) -> float:
    """Of a solid piece's volume, what its walls would be; 1 of one that is hollow, or all wall."""
    return 1.0 if one.solid_mm3 <= 0 else min(one.area_mm2 * _WALL_MM / one.solid_mm3, 1.0)


def _those(setting: str, settings: Sequence[str], bench: Bench) -> str:
    return "all" if len(settings) == 1 else f"what is in {bench.setup(setting).setting.name}"
