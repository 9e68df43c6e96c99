"""Where openings are proposed: at the plate end and at the film end of a space, where they cost least."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ulvet.core.geometry.mesh import Mesh, Points, face_normals
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.samples import spread_points
from ulvet.core.hollow.opening_cuts import CannotOpen, Drill, mouth_at
from ulvet.core.hollow.spaces import Mouth, Space
from ulvet.core.recipe.stance import Stance

__all__ = ["FRONT", "LARGE_DIAMETER", "LEAST_DIAMETER", "ProposedOpening", "diameter_for", "propose_openings"]

FRONT = (0.0, -1.0, 0.0)
"""The side that is taken to show where nobody said which does."""
LEAST_DIAMETER, LARGE_DIAMETER = 1.5, 3.0
"""Mm that an opening is wide at least, and that of a large space: what drains and is washed (bench defaults)."""
_LARGE_ML = 8.0
"""Millilitres from which a space is large (bench default): eight times as much as one of 1 ml, twice as wide."""
_END = 0.15
"""Share of a space's height, from its end, in which an opening is sought (bench default)."""
_END_LEAST = 2.0
"""Mm of that at the least, so that a low space has a choice (bench default)."""
_CANDIDATES = 3_000
"""Places at an end that are looked at."""
_TRIED = 60
"""Of which so many are tried, the best first, until one can be drilled."""
_DRILL_LENGTH = 30.0
"""Mm in front of a mouth that a straight drill needs (bench default)."""
_ON_PLATE = 0.5
"""Mm over the plate under which a mouth is shut by it (bench default)."""
_APART = 3.0
"""Diameters that two mouths of a space keep from each other (bench default)."""
_SLANT = 0.6
"""Cosine between the way out and the skin's normal, at least (bench default)."""
_SHOWS, _FAR_FROM_END, _THICK, _SLANTING = 12.0, 3.0, 1.5, 6.0
"""What it costs, as mm of space that does not drain: to lie on the side that shows, each mm from the end, each mm of
wall, and to go aslant (bench defaults)."""


@dataclass(frozen=True)
class ProposedOpening:
    """An opening that could be cut, mm, and the number of the space it leads out of."""

    space: int
    drill: Drill


def diameter_for(millilitres: float) -> float:
    """The diameter of an opening by the volume of its space, mm.

    >>> diameter_for(0.2), diameter_for(3.375), diameter_for(40)
    (1.5, 2.2, 3.0)
    """
    wide = np.clip(LARGE_DIAMETER * (millilitres / _LARGE_ML) ** (1 / 3), LEAST_DIAMETER, LARGE_DIAMETER)
    return round(float(wide), 1)


def propose_openings(
    rays: Rays,
    mesh: Mesh,
    spaces: Sequence[Space],
    mouths: Sequence[Mouth],
    lacking: Mapping[int, Sequence[bool]],
    stance: Stance,
    show: Points | None,
    diameter: float | None = None,
) -> Iterator[ProposedOpening]:
    """Openings for the ends that spaces lack, by number: of the plate end (True), of the film end (False).

    The part is in print mm, ``rays`` are of its mesh, and it stands as its stance says. Print axes hang from the plate:
    a space's lowest place is its plate end, its highest its film end. An opening goes straight through the wall, away
    from the side that shows (``show`` (3,) is its direction), where a drill reaches it and no plate shuts it; of those
    the one that costs least.
    An end at which there is none is left out.
    """
    up = stance.turn[2]
    plate = float((mesh.vertices @ up).min()) - float(stance.lift)
    for number, ends in lacking.items():
        space = spaces[number]
        wide = diameter or diameter_for(space.millilitres)
        taken = [mouths[k].point for k in space.mouths]
        for at_plate_end in ends:
            place = _best(rays, spaces, number, up if at_plate_end else -up, (up, plate), show, wide, taken)
            if place is not None:
                taken.append(place.mouth.point)
                yield ProposedOpening(number, place)


def _best(
    rays: Rays, spaces: Sequence[Space], number: int, away_from_end: Points, plate: tuple[Points, float],
    show: Points | None, diameter: float, taken: Sequence[Points],
) -> Drill | None:  # fmt: skip
    """The opening that costs least at the end of a space that lies against ``away_from_end`` (3,)."""
    inner, normals = _inner_places(spaces[number].mesh, away_from_end)
    wall, face = rays.first(inner + normals * rays.grain * 2, normals)
    through = np.isfinite(wall)
    inner, normals, wall, face = inner[through], normals[through], wall[through], face[through]
    point = inner + normals * (wall + rays.grain * 2)[:, None]
    straight = np.einsum("ij,ij->i", rays.normals[face], normals)
    up, level = plate
    ahead, _ = rays.first(point + normals * rays.grain * 2, normals)
    may = (straight > _SLANT) & (ahead > _DRILL_LENGTH) & (point @ up - level > _ON_PLATE)
    for other in taken:
        may &= np.linalg.norm(point - other, axis=1) > _APART * diameter
    height = inner @ away_from_end
    cost = _FAR_FROM_END * (height - (spaces[number].mesh.vertices @ away_from_end).min()) + _THICK * wall
    cost += _SLANTING * (1 - straight)
    if show is not None:
        cost += _SHOWS * np.clip(normals @ show + 0.2, 0, 1)
    order = np.flatnonzero(may)[np.argsort(cost[may], kind="stable")]
    for k in order[:: max(1, len(order) // _TRIED)]:
        try:
            drill, into = mouth_at(rays, spaces, point[k], normals[k], diameter)
        except CannotOpen:
            continue
        if into == number:
            return drill
    return None


def _inner_places(space: Mesh, away_from_end: Points) -> tuple[Points, Points]:
    """Places (n, 3) on the surface of a space near one end of it, and its outward normals there."""
    height = space.vertices @ away_from_end
    reach = max(_END * float(np.ptp(height)), _END_LEAST)
    middles = space.vertices[space.faces].mean(axis=1)
    at = np.flatnonzero(middles @ away_from_end < height.min() + reach)
    points, face = spread_points(space, _CANDIDATES, at)
    return points, face_normals(space)[face]
