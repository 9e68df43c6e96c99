"""Supports by hand: what somebody added to a proposal, moved, took away or forbade, at places of the figure."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from ulvet.core.bench.support_limits import SupportLimits
from ulvet.core.geometry.mesh import Mesh, Points, bounds
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.anchors import Anchor, LostAnchor, anchors_on_skin

__all__ = ["BEGINNINGS", "THICKER", "Beginning", "HandAct", "PlacedAct", "Skin", "begun_with", "placed_acts"]

Beginning = Literal["proposal", "light", "strong", "none"]
"""What acts by hand begin with."""
BEGINNINGS: dict[Beginning, tuple[float, float]] = {"proposal": (1.0, 1.0), "light": (1.3, 0.8), "strong": (0.75, 1.25)}
"""Times the spacing of contacts and the width of their tips (bench defaults); "none" has no contact at all."""
THICKER = 1.25
"""Times as wide a tip gets that is made thicker, and as much narrower one that is made thinner (bench default)."""
Does = Literal["add", "take", "move", "thicken", "thin", "forbid", "ask"]


class HandAct(BaseModel):
    """One act on the supports of a part at a place that was picked, by its number among the step's places.

    "forbid" and "ask" are of all skin within ``radius`` of the place, the others of one contact: the nearest within it.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    does: Does
    place: int = Field(ge=0)
    to: int | None = Field(default=None, ge=0)
    """The place it is moved to."""
    radius: Annotated[PrintMM, Field(gt=0, le=200)] = PrintMM(2.0)
    mirrored: bool = False
    """Whether it is done on the other side of the part's middle too."""


@dataclass(frozen=True)
class Skin:
    """A place on a part: point (3,) and outward normal (3,)."""

    point: Points
    normal: Points


@dataclass(frozen=True)
class PlacedAct:
    """An act where it falls on a part: the place, and where it goes."""

    does: Does
    at: Skin
    to: Skin | None
    radius: float
    """Print mm."""
    number: int
    """Of the act as it was given: one that is mirrored falls in two places."""

    def moved(self, turn: Points, factor: float, offset: Points) -> "PlacedAct":
        """The act after a turn (3, 3), growing by a factor and then an offset (3,)."""

        def there(skin: Skin) -> Skin:
            return Skin(turn @ skin.point * factor + offset, turn @ skin.normal)

        return replace(self, at=there(self.at), to=None if self.to is None else there(self.to))


def begun_with(holding: SupportLimits, beginning: Beginning) -> SupportLimits:
    """The limits of a setting as a lighter or a stronger beginning has them."""
    apart, wide = BEGINNINGS.get(beginning, (1.0, 1.0))
    if apart == wide == 1.0:
        return holding
    return holding.model_copy(
        update={
            "spacing": PrintMM(holding.spacing * apart),
            "tip_least": PrintMM(holding.tip_least * wide),
            "tip_most": PrintMM(holding.tip_most * wide),
        }
    )


def placed_acts(
    acts: Sequence[HandAct], places: Sequence[Anchor], mesh: Mesh, part: str, source: str
) -> tuple[tuple[PlacedAct, ...], tuple[LostAnchor, ...]]:
    """Acts where they fall on a part, in figure mm; and the places that found no skin, with which their acts go."""
    points, normals, lost = anchors_on_skin(places, mesh, part, source)
    gone = {one.number for one in lost}
    landed = (k for k in range(len(places)) if k not in gone)
    at = {k: Skin(point, normal) for k, point, normal in zip(landed, points, normals, strict=True)}
    across = _mirrored({k for act in acts if act.mirrored for k in (act.place, act.to)}, at, mesh, part, source)
    found: list[PlacedAct] = []
    for number, act in enumerate(acts):
        for held in (at, across) if act.mirrored else (at,):
            to = None if act.to is None else held.get(act.to)
            if act.place in held and (act.to is None or to is not None):
                found.append(PlacedAct(act.does, held[act.place], to, float(act.radius), number))
    return tuple(found), lost


def _mirrored(
    wanted: Collection[int | None], at: dict[int, Skin], mesh: Mesh, part: str, source: str
) -> dict[int, Skin]:
    """Places on the other side of the middle of a part, left for right, where there is skin that looks as much."""
    middle = float(bounds(mesh)[:, 0].mean()) if len(mesh.faces) else 0.0
    found = {}
    for k in (k for k in at if k in wanted):
        point, normal = at[k].point * [-1, 1, 1] + [2 * middle, 0, 0], at[k].normal * [-1, 1, 1]
        points, normals, lost = anchors_on_skin((Anchor.at(point, normal, source),), mesh, part, source)
        if not lost:
            found[k] = Skin(points[0], normals[0])
    return found
