"""Where keys go in a joint, how many, and how large. Print mm."""

from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from ulvet.core.geometry.mesh import Floats, Mesh, Points, faces_in_box
from ulvet.core.geometry.plane_cut import plane_axes
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.topology import submesh
from ulvet.core.part.caps import widths_of
from ulvet.core.part.key_shapes import TIP_CLEAR, reach_of
from ulvet.core.recipe.seams import KeyShape

__all__ = ["LARGEST", "SMALLEST", "JointRoom", "KeyPlan", "KeyWish", "plan_at", "plan_keys", "usual_number"]

SMALLEST, LARGEST = 1.2, 8.0
"""Widths of a key that is sought, mm: a thinner one snaps, a wider one is worth a second (bench defaults)."""
_REACH = 2 * LARGEST
"""How far behind a joint its parts are looked at: beyond the deepest key that is sought, and the wall behind it."""
_OF_WIDTH = 0.42
"""A key's width as a share of the joint's, which leaves the rim as strong as the key (bench default)."""
_TWO_FROM, _THREE_FROM = 30.0, 500.0
"""Joints from so many mm² on have two keys, or three (bench defaults)."""
_SECOND = 0.75
"""Width of every further key as a share of the first's, so that neither goes into the other's hole (bench default)."""
_DEEP = 1.3
"""How deep a key is, in widths (bench default)."""
_LEAST_DEEP = 0.6
"""In widths: a shallower key does not guide."""
_SMALLER = 0.85
"""Share to which keys shrink that do not fit, before they are tried again."""
_RATHER_FEWER = 0.4
"""Share of the width they begin with under which fewer keys are rather set than smaller ones (bench default)."""
_ACROSS = 48
"""Places across a joint that are tried."""
_LOOKS, _AROUND = 5, 24
"""Depths and directions in which the wall about a key is measured."""
_ROOTED = 0.4
"""In widths: what stands behind the root of a peg, at least (bench default)."""
_ROUNDED = 0.01
"""By which a wall may be less than was asked for, mm: the sides of rings are flat."""
_OFF_EDGE = 0.5
"""Of the widest place of what is allowed, by which several keys keep off its edge (bench default)."""
Polygon = Any


@dataclass(frozen=True)
class KeyPlan:
    """One key: its middle (2,) in the plane of the joint, its width, how deep it goes, the turn of its outline in
    radians, whether the socket is in the first of both parts, and the least wall about it."""

    middle: Floats
    size: float
    deep: float
    turned: float
    socket_first: bool
    wall: float


@dataclass(frozen=True)
class JointRoom:
    """How much room both parts of a joint have behind it."""

    first: Rays
    second: Rays
    origin: Points
    axes: Points
    way: Points
    """Out of the first part into the second."""

    @classmethod
    def of(cls, first: Mesh, second: Mesh, origin: Points, way: Points, outline: Polygon) -> "JointRoom":
        """Of two meshes whose caps meet in a plane through ``origin`` (3,), along ``way`` (3,) out of the first."""
        axes = plane_axes(way)
        left, front, right, back = shapely.bounds(outline)
        corners = np.array([[left, front], [right, front], [right, back], [left, back]]) @ axes + origin
        corners = np.concatenate([corners + side * _REACH * way for side in (-1.0, 1.0)])
        low, high = corners.min(axis=0), corners.max(axis=0)
        near = [Rays(submesh(mesh, faces_in_box(mesh, low, high))[0], mesh) for mesh in (first, second)]
        return cls(near[0], near[1], origin, axes, way)

    def behind(self, in_first: bool, middle: Floats, radius: float, deep: float) -> tuple[float, float]:
        """How deep a hole of a radius may go at a place (2,) until it comes out, and the least wall beside it down to
        ``deep``."""
        rays, inward = (self.first, -self.way) if in_first else (self.second, self.way)
        angle = np.arange(_AROUND) * 2 * np.pi / _AROUND
        out = np.stack([np.cos(angle), np.sin(angle)], axis=1) @ self.axes
        at = self.origin + middle @ self.axes
        start = at + np.vstack([np.zeros(3), out * radius]) + inward * rays.grain * 2
        ahead, _ = rays.first(start, np.broadcast_to(inward, start.shape))
        beside = np.inf
        for depth in np.linspace(deep / _LOOKS, deep, _LOOKS):
            origins = np.broadcast_to(at + inward * depth, out.shape)
            beside = min(beside, float(rays.first(origins, out)[0].min()) - radius)
        return float(ahead.min()), beside


@dataclass(frozen=True)
class KeyWish:
    """What is asked of the keys of a joint: their outline, the air a side of their holes, and the wall about those; a
    width and a depth that are given are not changed."""

    shape: KeyShape
    gap: float
    wall: float
    size: float | None = None
    deep: float | None = None
    both: bool = False
    """Whether there is a hole on both sides, and no peg."""

    def hole(self, size: float) -> float:
        """How far the hole of a key reaches from its middle."""
        return reach_of(self.shape, size) + self.gap


def usual_number(area: float) -> int:
    """How many keys a joint of so many mm² has."""
    return 1 + (area >= _TWO_FROM) + (area >= _THREE_FROM)


def plan_keys(outline: Polygon, room: JointRoom, wish: KeyWish, number: int) -> list[KeyPlan]:
    """Keys for a joint with an ``outline``.

    The first is the largest; the others lie as far from it and from each other as the outline allows. Where as many do
    not fit they shrink, and then get fewer; none where not even one of the smallest fits.
    """
    widest, _ = widths_of(outline)
    for count in range(number, 0, -1):
        wide = wish.size or min(_OF_WIDTH * widest, LARGEST)
        least = wish.size or max(SMALLEST, _RATHER_FEWER * wide if count > 1 else 0.0)
        while wide >= least:
            found = _planned(outline, room, wish, count, wide)
            if found:
                return found
            wide *= _SMALLER
    return []


def _planned(outline: Polygon, room: JointRoom, wish: KeyWish, count: int, wide: float) -> list[KeyPlan] | None:
    # What is bought is all of one size.
    sizes = [wide if k == 0 or wish.deep else wide * _SECOND for k in range(count)]
    middles = _spread(outline, wish.hole(wide) + wish.wall, count, 2 * wish.hole(wide) + wish.wall)
    if middles is None:
        return None
    socket_first = _has_more_flesh(room, middles, wide / 2)
    found = []
    for middle, size in zip(middles, sizes, strict=True):
        plan = plan_at(room, middle, size, wish, socket_first)
        if plan is None:
            return None
        found.append(plan)
    return found


def plan_at(
    room: JointRoom, middle: Floats, size: float, wish: KeyWish, socket_first: bool, turned: float = 0.0
) -> KeyPlan | None:
    """One key at a place (2,), as deep as it usually is or as the side of its socket allows; None where that leaves
    less wall about its hole than is wished, or makes it too shallow to guide."""
    radius, possible = wish.hole(size), wish.deep or _DEEP * size
    least, sides = wish.deep or _LEAST_DEEP * size, [socket_first, not socket_first][: 1 + wish.both]
    through = [room.behind(side, middle, radius, possible)[0] for side in sides]
    possible = min(possible, min(through) - wish.wall - TIP_CLEAR)
    if possible < least:
        return None
    beside = min(room.behind(side, middle, radius, possible + TIP_CLEAR)[1] for side in sides)
    rooted, _ = room.behind(not socket_first, middle, size / 2, possible)
    if beside < wish.wall - _ROUNDED or rooted < min(_ROOTED * size, possible):
        return None
    return KeyPlan(middle, size, possible, turned, socket_first, min(beside, min(through) - possible - TIP_CLEAR))


def _has_more_flesh(room: JointRoom, middles: Floats, radius: float) -> bool:
    """Whether the first part has more room behind the joint than the second."""
    depths = [[room.behind(side, middle, radius, radius)[0] for middle in middles] for side in (True, False)]
    return min(depths[0]) >= min(depths[1])


def _spread(outline: Polygon, inset: float, count: int, apart: float) -> Floats | None:
    """Places (count, 2) at least ``inset`` from the rim and ``apart`` from each other; None where there are none."""
    region = outline.buffer(-inset)
    if region.is_empty:
        return None
    if count == 1:
        # The middle of the largest circle lies deepest in the outline.
        circle = shapely.maximum_inscribed_circle(outline.simplify(inset * 0.05))
        middle = shapely.get_coordinates(circle)[0]
        return middle[None] if region.covers(shapely.Point(middle)) else None
    # Not at the very edge of what is allowed, where that leaves any room.
    widest = max(float(shapely.length(shapely.maximum_inscribed_circle(one))) for one in shapely.get_parts(region))
    inner = region.buffer(-widest * _OFF_EDGE)
    low, high = np.array(shapely.bounds(inner)).reshape(2, 2)
    steps = [np.linspace(a, b, _ACROSS) for a, b in zip(low, high, strict=True)]
    grid = np.stack(np.meshgrid(*steps, indexing="ij"), axis=-1).reshape(-1, 2)
    grid = np.vstack([grid, shapely.get_coordinates(inner)])
    grid = grid[shapely.contains_xy(region, grid[:, 0], grid[:, 1])]
    if not len(grid):
        return None
    centre = shapely.get_coordinates(outline.centroid)[0]
    chosen = [grid[np.argmax(((grid - centre) ** 2).sum(axis=1))]]
    while len(chosen) < count:
        away = np.min([((grid - one) ** 2).sum(axis=1) for one in chosen], axis=0)
        if away.max() < apart**2:
            return None
        chosen.append(grid[np.argmax(away)])
    return np.array(chosen)
