"""Joints: where two parts that were cut apart lie against each other."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import shapely

from ulvet.core.geometry.mesh import Mesh, Points, scaled
from ulvet.core.geometry.plane_cut import plane_axes
from ulvet.core.part.caps import Cap, cap_in_plane
from ulvet.core.recipe.seams import MadeKey, Seam
from ulvet.core.recipe.step import Part

__all__ = ["LEAST_JOINT", "Joint", "joints_between", "keys_at"]

LEAST_JOINT = 0.05
"""Square mm of print from which on two parts have a joint: less is the rounding of outlines (bench default)."""
_ONE_PLANE = 1e-6
"""Of the longest side: so near each other two planes are one."""
_BESIDE = 1e-3
"""Mm off its plane within which a key is of a joint."""
Polygon = Any


@dataclass(frozen=True)
class Joint:
    """Two parts that lie against each other in a plane, print mm.

    ``first`` and ``second`` are their places among the parts. The plane goes through ``origin`` (3,); ``way`` (3,)
    leads out of the first part into the second. ``outline``, in the plane's axes, is where both lie against each other,
    without what their keys take.
    """

    cut: int
    first: int
    second: int
    origin: Points
    way: Points
    outline: Polygon

    @cached_property
    def axes(self) -> Points:
        """Across and up in the plane, (2, 3)."""
        return plane_axes(self.way)

    @property
    def sides(self) -> tuple[tuple[int, float], tuple[int, float]]:
        """Both parts, each with the sign by which ``way`` leads out of it."""
        return (self.first, 1.0), (self.second, -1.0)

    def on_cap(self, cap: Cap, factor: float) -> Polygon:
        """Its outline in the axes of a cap, figure mm, without what keys take of that cap."""
        across = shapely.transform(self.outline, lambda flat: cap.to_plane((self.origin + flat @ self.axes) / factor))
        return shapely.intersection(across, cap.outline)

    @property
    def whole(self) -> Polygon:
        """Its outline with the places of keys filled in."""
        return shapely.union_all([shapely.Polygon(one.exterior) for one in shapely.get_parts(self.outline)])


@dataclass(frozen=True)
class _Face:
    """One cap of one part."""

    part: int
    seam: Seam
    cap: Cap
    low: Points
    high: Points


def joints_between(parts: Sequence[Part], factor: float, cut: int | None = None) -> list[Joint]:
    """The joints of parts, in the order of the cuts that made them; those of one ``cut`` where that is given."""
    faces = []
    for number, part in enumerate(parts):
        mesh = scaled(part.mesh, factor) if factor != 1 else part.mesh
        faces += [_face(number, mesh, seam, factor) for seam in part.seams if cut in (None, seam.step)]
    known = [face for face in faces if face is not None]
    found = []
    for k, one in enumerate(known):
        for other in known[k + 1 :]:
            joint = _joint(one, other)
            if joint is not None:
                found.append(joint)
    return sorted(found, key=lambda joint: (joint.cut, joint.first, joint.second))


def keys_at(part: Part, joint: Joint, factor: float) -> list[MadeKey]:
    """The keys of a part that lie in a joint."""
    whole, found = joint.whole, []
    for key in part.keys:
        at = np.array(key.point) * factor - joint.origin
        there = abs(at @ joint.way) < _BESIDE and whole.contains(shapely.Point(at @ joint.axes.T))
        found += [key] if there and key.cut == joint.cut else []
    return found


def _face(number: int, mesh: Mesh, seam: Seam, factor: float) -> _Face | None:
    cap = cap_in_plane(mesh, np.array(seam.point) * factor, np.array(seam.normal))
    if cap is None:
        return None
    corners = mesh.vertices[np.concatenate(cap.rims)]
    return _Face(number, seam, cap, corners.min(axis=0), corners.max(axis=0))


def _joint(one: _Face, other: _Face) -> Joint | None:
    """Where two caps lie against each other."""
    size = float((np.maximum(one.high, other.high) - np.minimum(one.low, other.low)).max())
    reach = _ONE_PLANE * size
    if one.part == other.part or one.seam.step != other.seam.step:
        return None
    if (one.low > other.high + reach).any() or (other.low > one.high + reach).any():
        return None
    way = np.array(one.seam.normal)
    if np.dot(way, other.seam.normal) > -1 + 1e-9 or abs((other.cap.origin - one.cap.origin) @ way) > reach:
        return None
    axes = plane_axes(way)

    def flat(cap: Cap) -> Polygon:
        return shapely.transform(cap.outline, lambda corners: (cap.to_space(corners) - one.cap.origin) @ axes.T)

    outline = shapely.intersection(flat(one.cap), flat(other.cap), grid_size=reach)
    outline = shapely.union_all([part for part in shapely.get_parts(outline) if part.geom_type == "Polygon"])
    if outline.area < LEAST_JOINT:
        return None
    return Joint(one.seam.step, one.part, other.part, one.cap.origin, way, outline)
