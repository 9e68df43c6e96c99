"""Cutting an opening from the skin into a space, and its plug."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ulvet.core.geometry.mesh import Floats, Mesh, Points
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.rods import rod_body, tangents_of
from ulvet.core.geometry.solids import Body, mesh_of, solids_of
from ulvet.core.hollow.spaces import Mouth, Space, lies_in

__all__ = ["CannotOpen", "Drill", "mouth_at", "plug_for"]

_RIM = 12
"""Places on the rim of a mouth at which the wall is measured."""
_UNEVEN = 2.0
"""Greatest share by which the wall at the rim may pass that in the middle: beyond it the hole runs along the wall
(bench default)."""
_NOTCHED = 0.5
"""Share of a vent's rim that has wall behind it, at least (bench default)."""
_PLUG_TAPER = 0.05
"""Mm by which a plug is narrower at its inner end, so that it goes in (bench default)."""


class CannotOpen(Exception):
    """An opening that cannot be cut; the message says why and what to do."""


@dataclass(frozen=True)
class Drill:
    """A mouth and how far its drill has to go, mm, to come out into the space all round, and how far above the mouth it
    begins."""

    mouth: Mouth
    deepest: float
    above: float

    def body(self) -> Body:
        """What the drill takes away."""
        mouth = self.mouth
        start = mouth.point + mouth.way * self.above
        return rod_body(start, -mouth.way, mouth.diameter / 2, self.above + self.deepest)


def mouth_at(
    rays: Rays, spaces: Sequence[Space] | None, point: Points, way: Points, diameter: float
) -> tuple[Drill, int | None]:
    """How an opening of ``diameter`` mm at a ``point`` (3,) of the skin, with the way out ``way`` (3,), is cut into one
    of the spaces, and the number of that space; without spaces through whatever wall is there.

    Raises CannotOpen where it would lead into nothing, or come out beside the wall.
    """
    u, v = (axis[0] for axis in tangents_of(way[None]))
    angle = np.arange(_RIM) * 2 * np.pi / _RIM
    # A rod has flat sides, so that its corners lie on the circle.
    rim = np.vstack([np.zeros(3), diameter / 2 * (np.cos(angle)[:, None] * u + np.sin(angle)[:, None] * v)])
    above = diameter
    start = point + rim + way * above
    skin, wall = _through(rays, start, -way)
    entry, leaves = skin - above, skin + wall - above
    if not np.isfinite(leaves[0]):
        raise CannotOpen("Nothing lies behind that place: choose one that lies over the space")
    into = None if spaces is None else _space_at(spaces, point - way * (leaves[0] + rays.grain * 4))
    if into is None and spaces is not None:
        raise CannotOpen("No space lies behind that place, so the opening would lead into nothing: choose another")
    even = np.isfinite(leaves) & (wall <= (1 + _UNEVEN) * wall[0]) & (np.abs(entry) <= diameter)
    if into is not None and spaces is not None:
        even &= lies_in(spaces[into].mesh, point + rim - way * (leaves + rays.grain * 4)[:, None])
    # A vent may be a notch in a rim; what drains has wall all round.
    if even.mean() < (_NOTCHED if into is None else 1.0):
        raise CannotOpen("The opening would run out beside the wall: choose a flatter place, or a smaller diameter")
    leaves, wall = leaves[even], wall[even]
    mouth = Mouth(point, way, diameter, float(max(leaves.min(), wall.min())))
    deepest = float(leaves.max())
    return Drill(mouth, deepest + min(0.25 * diameter, _room_below(rays, mouth, deepest) / 2), above), into


def plug_for(mouth: Mouth, gap: float, mesh: Mesh) -> Mesh:
    """A plug for an opening, where it goes: as long as the wall, ``gap`` mm less wide on each side, ending in the skin
    as that was before the opening (``mesh``)."""
    above = mouth.diameter
    rod = rod_body(
        mouth.point + mouth.way * above, -mouth.way, mouth.diameter / 2 - gap, above + mouth.wall,
        mouth.diameter / 2 - gap - _PLUG_TAPER,
    )  # fmt: skip
    return mesh_of(rod ^ solids_of(mesh)[0].body)[0]


def _through(rays: Rays, start: Points, way: Points) -> tuple[Floats, Floats]:
    """How far rays go until they enter a solid, and how far in it they go until they leave it."""
    ways = np.broadcast_to(way, start.shape)
    skin, _ = rays.first(start, ways)
    inside = start + ways * (np.where(np.isfinite(skin), skin, 0) + rays.grain)[:, None]
    wall, _ = rays.first(inside, ways)
    return skin, np.where(np.isfinite(skin), wall + rays.grain, np.inf)


def _space_at(spaces: Sequence[Space], point: Points) -> int | None:
    return next((number for number, one in enumerate(spaces) if lies_in(one.mesh, point[None])[0]), None)


def _room_below(rays: Rays, mouth: Mouth, deepest: float) -> float:
    """How far it is from the inner end to the other side of the space."""
    start = mouth.point - mouth.way * (deepest + rays.grain * 2)
    ahead, _ = rays.first(start[None], -mouth.way[None])
    return float(ahead[0]) if np.isfinite(ahead[0]) else 0.0
