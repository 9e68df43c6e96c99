"""Thin places and the names they have by themselves, until the user gives one."""

from collections.abc import Sequence
from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict

from ulvet.core.bench.limits import WallLimits
from ulvet.core.findings.location import location_in_words
from ulvet.core.gauge.walls.kinds import Kind, few_of, kind_among, kinds_of, limit_for
from ulvet.core.gauge.walls.thickness import Thickness
from ulvet.core.gauge.walls.thin_places import ThinPlace, thin_places
from ulvet.core.geometry.mesh import Mesh, bounds
from ulvet.core.recipe.stance import Vector

__all__ = ["KINDS", "PlaceKind", "ThinPlaceRow", "places_with_kinds", "thin_place_rows"]

PlaceKind = Literal["held", "free-standing", "pin", "edge"]
KINDS: dict[Kind, PlaceKind] = {Kind.HELD: "held", Kind.FREE: "free-standing", Kind.PIN: "pin", Kind.EDGE: "edge"}
_NOUNS = {Kind.HELD: "wall", Kind.FREE: "sheet", Kind.PIN: "pin", Kind.EDGE: "edge"}
_TIP = 8.0
"""Times its limit: a pin that is thin for longer is more than a tip (bench default)."""


class ThinPlaceRow(BaseModel):
    """A thin place in words and print mm; its point and normal are of the figure."""

    model_config = ConfigDict(frozen=True)

    part: str
    name: str
    given: bool = False
    """Whether the user named it."""
    kind: PlaceKind
    least_mm: float
    extent_mm: float
    stops: bool
    """Whether it is under the limit that stops."""
    limit_mm: float
    """The limit of the material it is under: the graver one, if it is under both."""
    point: Vector
    normal: Vector


def places_with_kinds(
    mesh: Mesh, thickness: Thickness, limits: WallLimits, factor: float
) -> list[tuple[ThinPlace, Kind]]:
    """Places whose wall, printed at ``factor``, is under what its kind has to have, the thinnest first, and which kind
    of wall each is."""
    most = limits.thin_from / factor
    places = thin_places(mesh, thickness, most)
    if not places:
        return []
    few = [few_of(place.samples) for place in places]
    kinds = kinds_of(mesh, thickness, most, np.concatenate(few))
    kinded = [(place, kind_among(kinds[samples])) for place, samples in zip(places, few, strict=True)]
    return [(place, kind) for place, kind in kinded if place.wall * factor < limit_for(limits, kind).caution]


def thin_place_rows(
    part: str, mesh: Mesh, places: Sequence[tuple[ThinPlace, Kind]], factor: float, limits: WallLimits
) -> list[ThinPlaceRow]:
    """Places with the names they have by themselves: "tip, high, front right"."""
    low, high = bounds(mesh)
    said = []
    for place, kind in places:
        wall = place.wall * factor
        asked = limit_for(limits, kind)
        stops = wall < asked.stop
        limit = asked.stop if stops else asked.caution
        tip = kind is Kind.PIN and place.extent * factor <= _TIP * limit
        said.append(
            ThinPlaceRow(
                part=part,
                name=f"{'tip' if tip else _NOUNS[kind]}, {location_in_words(place.point, low, high)}",
                kind=KINDS[kind],
                least_mm=wall,
                extent_mm=place.extent * factor,
                stops=stops,
                limit_mm=limit,
                point=_vector(place.point),
                normal=_vector(place.normal),
            )
        )
    return said


def _vector(values: np.ndarray[tuple[int], np.dtype[np.float64]]) -> Vector:
    x, y, z = map(float, values)
    return x, y, z
