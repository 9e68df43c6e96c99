"""One file stood and held as it lies, without a recipe."""

import time
from pathlib import Path
from typing import Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict

from ulvet.core.bench.edition import AskedSize
from ulvet.core.bench.setup import Setup
from ulvet.core.files.as_it_lies import mesh_as_it_lies
from ulvet.core.formats.write import bytes_for
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.layers.check import check_layers
from ulvet.core.layers.raster import TooManyLayers
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.stance import Vector, unit_vector
from ulvet.core.recipe.step import Context, Part
from ulvet.core.size.check import fits_printer
from ulvet.core.stand.by_hand import Beginning, HandAct
from ulvet.core.stand.steps import Orient, Support, SupportReceipt
from ulvet.core.stand.ways import cleanup_of, ways_to_stand

__all__ = ["ActsFile", "stand_file"]

_AS_IT_IS = AskedSize(height=None, factor=1.0)
"""A file on its own is looked at in the size it has."""


class ActsFile(BaseModel):
    """Supports by hand as a file has them: places in mm of the file that is stood, as it lies."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    begin: Beginning = "proposal"
    places: tuple[Anchor, ...] = ()
    acts: tuple[HandAct, ...] = ()


def stand_file(
    path: Path,
    out: Path,
    setup: Setup,
    show_side: Vector | None,
    orient: Literal["auto", "keep"],
    way: int | None = None,
    by_hand: ActsFile | None = None,
) -> tuple[bytes, dict[str, Any]]:
    """A file turned for a printer and held: the bytes of ``out``, and what was done as plain values.

    ``way`` takes one of the ways that are set beside each other, counted from 1; ``by_hand`` changes what is proposed.
    Points are mm in the axes of ``out``: z up, the plate at 0. ``up`` is the direction of the file that points up.

    Raises UnreadableFile, TooManyLayers and ValueError for a direction without length or a way that there is not, each
    with a text for the user.
    """
    mesh, _, unit = mesh_as_it_lies(path)
    part, show = Part("figure", mesh), unit_vector(show_side)
    given = {"factor": 1.0, "setup": setup, "show_side": show, "size": _AS_IT_IS}
    began = time.perf_counter()
    ways = ways_to_stand(mesh, setup, None if show is None else np.array(show)) if way is not None else ()
    if way is not None and not 1 <= way <= len(ways):
        raise ValueError(f"There is no way {way}: {len(ways)} were found, counted from 1; nothing was written.")
    turn = Orient(up=ways[way - 1].up if way else None if orient == "auto" else (0, 0, 1))
    turned, oriented = turn.change(part, Context(given, Orient.needs))
    between = time.perf_counter()
    hold = Support() if by_hand is None else Support(**by_hand.model_dump())
    stood, held = hold.change(turned, Context(given, Support.needs))
    ended = time.perf_counter()
    if refusal := oriented.not_done or held.not_done:
        raise TooManyLayers(refusal)
    return bytes_for(out, _pieces_of(stood)), {
        "file": str(path),
        "out": str(out),
        "unit": unit,
        "setting": setup.setting.id,
        "printer": setup.printer.id,
        "material": setup.material.id,
        "candidates": [one.model_dump(mode="json") for one in ways],
        "chosen": way,
        "directions": oriented.screened,
        **_as_held(stood, held, setup),
        "took": {"orient": round(between - began, 3), "support": round(ended - between, 3)},
    }


def _pieces_of(stood: Part) -> list[tuple[str, Mesh]]:
    figure = stood.stance.in_print(stood.mesh, 1.0)
    return [("figure", figure), *([] if stood.supports is None else [("supports", stood.supports)])]


def _as_held(stood: Part, held: SupportReceipt, setup: Setup) -> dict[str, Any]:
    """How a part stands and what holds it, as plain values."""
    report, stance = check_layers(stood, 1.0, setup), stood.stance
    contacts = [contact.model_dump(mode="json") for contact in stance.contacts]
    shown, trapped = sum(one.shows for one in stance.contacts), sum(not one.reachable for one in stance.contacts)
    return {
        "up": list(stance.up),
        "turn": stance.turn.tolist(),
        "lean_degrees": stance.lean,
        "lift_mm": stance.lift,
        "height_mm": max(float(piece.vertices[:, 2].max()) for _, piece in _pieces_of(stood)),
        "layers": report.estimate.layers,
        "seconds": report.estimate.seconds,
        "resin_ml": report.estimate.material_ml,
        "support_volume_ml": stance.support_ml,
        "contacts": contacts,
        "islands_before": held.islands,
        "unheld_islands": len(report.islands),
        "trapped_supports": trapped,
        "scars_on_show": shown,
        "cleanup_min": cleanup_of(stance.contacts),
        "acts_without_effect": sorted(set(held.undone)),
        "places_lost": [one.number for one in held.lost],
        "open_layers": int((report.stack.unbalanced > 0).sum()),
        "fits": fits_printer(stood.whole(1.0), setup.printer),
    }
