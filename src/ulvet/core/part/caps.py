"""The flat caps of a joint: their outline, and what is set out or sunk there without touching any other face."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ulvet.core.geometry.holes import directed_loops, flat_triangles
from ulvet.core.geometry.mesh import Floats, Mesh, Points, bounds
from ulvet.core.geometry.plane_cut import plane_axes
from ulvet.core.geometry.topology import connected_groups, without_unused_vertices

__all__ = ["Cap", "Embossed", "cap_in_plane", "embossed", "lofted", "widths_of"]

_FLAT = 1e-6
"""Of a mesh's longest side: so near a plane a face lies in it."""
_STEPS = 12
"""Halvings in which the narrowest place of an outline is found, to 1/4096 of its width."""
_ROUNDED = 1e-3
"""Of an outline's own width, by which it is smoothed where only its widths are asked."""
Polygon = Any
"""Of shapely, which comes without types."""


@dataclass(frozen=True)
class Cap:
    """The faces of a mesh in a plane, by number; the rims that bound them, as vertices; and their outline in the axes
    of the plane."""

    faces: NDArray[np.int64]
    rims: tuple[NDArray[np.int64], ...]
    outline: Polygon
    axes: Points
    """Across and up, (2, 3); with the way out they turn counter-clockwise."""
    origin: Points

    def to_plane(self, points: Points) -> Floats:
        """Points (n, 3) in the plane's axes, (n, 2)."""
        return np.asarray((points - self.origin) @ self.axes.T)

    def to_space(self, flat: Floats) -> Points:
        """Points (n, 2) of the plane in space, (n, 3)."""
        return np.asarray(self.origin + flat @ self.axes)


@dataclass(frozen=True)
class Embossed:
    """Something set out of a plane or sunk into it: rings (n, 2) of as many corners each, counter-clockwise, and how
    far out of the plane each lies, mm; the first lies in it, at 0, and below it where it is less."""

    rings: tuple[Floats, ...]
    heights: tuple[float, ...]


def cap_in_plane(mesh: Mesh, point: Points, normal: Points) -> Cap | None:
    """The faces of a closed mesh that lie in a plane and look along its normal; None where there are none."""
    flat = np.abs((mesh.vertices - point) @ normal) <= _FLAT * float(np.ptp(bounds(mesh), axis=0).max())
    which = np.flatnonzero(flat[mesh.faces].all(axis=1))
    a, b, c = (mesh.vertices[mesh.faces[which, k]] for k in range(3))
    which = which[np.cross(b - a, c - a) @ normal > 0]
    if not len(which):
        return None
    axes = plane_axes(normal)
    rims = tuple(_rims(mesh.faces[which], len(mesh.vertices)))
    flats = [(mesh.vertices[rim] - point) @ axes.T for rim in rims]
    # Rims run with the faces on their left, so that those of holes turn the other way.
    turns = [shapely.LinearRing(one).is_ccw for one in flats]
    areas = [shapely.Polygon(one).buffer(0) for one in flats]
    outer, holes = ([area for area, ccw in zip(areas, turns, strict=True) if ccw is wanted] for wanted in (True, False))
    outline = shapely.difference(shapely.union_all(outer), shapely.union_all(holes))
    return Cap(which, rims, outline, axes, point)


def embossed(mesh: Mesh, cap: Cap, normal: Points, made: Sequence[Embossed]) -> Mesh | None:
    """The mesh with its cap drawn anew round what is set there; every other face stays as it is.

    None where the rings touch each other or the rim.
    """
    points, faces, numbers = [mesh.vertices], [], list[NDArray[np.int64]]()
    count = len(mesh.vertices)
    for one in made:
        points += [cap.to_space(ring) + normal * high for ring, high in zip(one.rings, one.heights, strict=True)]
        numbers.append(count + np.arange(len(one.rings[0])))
        walls = _walls(one)
        if walls is None:
            return None
        faces.append(count + walls)
        count += len(one.rings[0]) * len(one.rings)
    lids = _lids(mesh, cap, made, numbers)
    if lids is None:
        return None
    faces += lids
    kept = np.ones(len(mesh.faces), bool)
    kept[cap.faces] = False
    new = np.concatenate(faces).astype(np.int32)
    return without_unused_vertices(Mesh(np.concatenate(points), np.concatenate([mesh.faces[kept], new])))


def _lids(
    mesh: Mesh, cap: Cap, made: Sequence[Embossed], numbers: Sequence[NDArray[np.int64]]
) -> list[NDArray[np.int64]] | None:
    """The faces of a cap about rings whose corners have these numbers; where shells that reach into each other have
    caps of their own, each by itself."""
    corners = mesh.faces[cap.faces]
    used, local = np.unique(corners, return_inverse=True)
    count, group = connected_groups(len(used), local.reshape(-1, 3)[:, [0, 1, 1, 2]].reshape(-1, 2).astype(np.int64))
    of_rim = [int(group[np.searchsorted(used, rim[0])]) for rim in cap.rims]
    flat = [cap.to_plane(mesh.vertices[rim]) for rim in cap.rims]
    left, lids = list(range(len(made))), []
    for one in range(count):
        rims = [k for k, of in enumerate(of_rim) if of == one]
        whole = shapely.union_all([shapely.Polygon(flat[k]).buffer(0) for k in rims])
        here = [k for k in left if whole.contains(shapely.Point(made[k].rings[0].mean(axis=0)))]
        left = [k for k in left if k not in here]
        lid = flat_triangles([*(flat[k] for k in rims), *(made[k].rings[0] for k in here)])
        if lid is None:
            return None
        lids.append(np.concatenate([*(cap.rims[k] for k in rims), *(numbers[k] for k in here)])[lid])
    return None if left else lids


def lofted(made: Embossed, axes: Points, normal: Points) -> Mesh:
    """A closed body of rings over a plane with two ``axes`` (2, 3) through the origin.

    Raises ValueError where a ring crosses itself.
    """
    walls, foot = _walls(made), flat_triangles([made.rings[0]])
    if walls is None or foot is None:
        raise ValueError("A ring crosses itself.")
    points = [ring @ axes + normal * high for ring, high in zip(made.rings, made.heights, strict=True)]
    return Mesh(np.concatenate(points), np.concatenate([walls, foot[:, ::-1]]).astype(np.int32))


def _walls(made: Embossed) -> NDArray[np.int64] | None:
    """Faces between the rings and over the last, whose corners are counted from the first ring on."""
    sides, faces = len(made.rings[0]), []
    ring = np.arange(sides)
    for level in range(len(made.rings) - 1):
        low, high = ring + level * sides, ring + (level + 1) * sides
        on = np.roll(low, -1), np.roll(high, -1)
        faces += [np.stack([low, on[0], on[1]], axis=1), np.stack([low, on[1], high], axis=1)]
    end = flat_triangles([made.rings[-1]])
    if end is None:
        return None
    return np.concatenate([*faces, end + (len(made.rings) - 1) * sides])


def widths_of(outline: Polygon) -> tuple[float, float]:
    """The width of the widest and of the narrowest place of an outline: of the largest circle in it, and of the largest
    that can be rolled all through it."""
    widest, narrowest = 0.0, np.inf
    for piece in shapely.get_parts(outline):
        whole = float(shapely.length(shapely.maximum_inscribed_circle(piece)))
        smooth = piece.simplify(_ROUNDED * whole)
        low, high = 0.0, whole
        for _ in range(_STEPS):
            middle = (low + high) / 2
            left = smooth.buffer(-middle)
            low, high = (middle, high) if not left.is_empty and left.geom_type == "Polygon" else (low, middle)
        widest, narrowest = max(widest, 2 * whole), min(narrowest, 2 * low)
    return widest, narrowest if np.isfinite(narrowest) else 0.0


def _rims(faces: NDArray[np.int32], count: int) -> list[NDArray[np.int64]]:
    """What bounds some faces, as loops of vertices with the faces on their left."""
    starts, ends = faces.ravel().astype(np.int64), np.roll(faces, -1, axis=1).ravel().astype(np.int64)
    lone = ~np.isin(starts * count + ends, ends * count + starts)
    return directed_loops(starts[lone], ends[lone])
