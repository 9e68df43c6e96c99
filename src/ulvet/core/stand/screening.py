"""Screening many ways a figure could stand, cheaply, by sums over its faces, edges and vertices."""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Floats, Mesh, Points, bounds, face_cross, vertex_normals
from ulvet.core.geometry.samples import even_directions
from ulvet.core.geometry.topology import edges_of, without_collapsed_faces
from ulvet.core.kernels import THREADS, kernel, typed

__all__ = ["DIRECTIONS", "SHOWN", "Screened", "directions_for", "screen_directions"]

DIRECTIONS = 560
"""Ways spread evenly over the sphere, besides the upright ones and the largest flats."""
SHOWN = 0.5
"""Cosine of 60°: how far from the show side the skin still shows (bench default)."""
_FLATS = 24
"""Largest flats that are laid down."""
_BINS = 96
"""Bands of height in which the area of layers is estimated."""
_AT_ONCE = 8
"""Directions screened by one call."""
_FLAT = 0.9995
"""Cosine from which a face lies level on the plate, 1.8°."""
_f8s = typed.Array(typed.float64, 1, "C", readonly=True)
_f8, _i8 = typed.Array(typed.float64, 2, "C", readonly=True), typed.Array(typed.int64, 2, "C", readonly=True)


@dataclass(frozen=True)
class Screened:
    """What each direction (d,) would cost, in print mm: by surface alone, without layers.

    ``overhang`` projected underside that wants holding (mm²), ``shown`` the part of it on the show side, ``minima``
    lowest points of undersides, ``height``, ``peak`` greatest cross-section (mm²), ``support`` volume between
    undersides and plate (mm³), ``flat`` area that lies on the plate (mm²).
    """

    directions: Points
    overhang: Floats
    shown: Floats
    minima: NDArray[np.int64]
    height: Floats
    peak: Floats
    support: Floats
    flat: Floats


def directions_for(mesh: Mesh) -> Points:
    """Unit vectors (d, 3) worth trying as up: as it stands, the six axes, the largest flats laid down, and 560 spread
    evenly."""
    axes = np.concatenate([np.eye(3)[::-1], -np.eye(3)])
    return np.concatenate([axes, _flats(mesh), even_directions(DIRECTIONS)])


def _flats(mesh: Mesh) -> Points:
    """Directions that lay the largest flat areas on the plate, (f, 3)."""
    cross = face_cross(mesh)
    twice = np.linalg.norm(cross, axis=1)
    usable = twice > 0
    grid = np.round(cross[usable] / twice[usable, None] * 64).astype(np.int64)
    _, group = np.unique(grid @ np.array([1 << 16, 1 << 8, 1]), return_inverse=True)
    total = np.stack([np.bincount(group, cross[usable, axis]) for axis in range(3)], axis=1)
    size = np.linalg.norm(total, axis=1)
    largest = np.argsort(-size, kind="stable")[:_FLATS]
    return -total[largest] / np.maximum(size[largest], 1e-300)[:, None]


def screen_directions(mesh: Mesh, directions: Points, flattest: float, show: Points | None, near: float) -> Screened:
    """Screen ``directions`` (d, 3) as up for a mesh in print mm.

    ``flattest`` degrees: undersides nearer to level want holding; ``show`` (3,): the show side, if one is set;
    ``near`` mm: what lies within so much of the lowest point and level is laid on the plate.

    The cross-section at a height is the sum of the signed, projected areas of the faces above it (divergence
    theorem); overlapping shells count twice there.
    """
    mesh = without_collapsed_faces(mesh)
    middle = bounds(mesh).mean(axis=0)
    centres = mesh.vertices[mesh.faces].mean(axis=1) - middle
    halves = face_cross(mesh) / 2
    areas = np.linalg.norm(halves, axis=1)
    shown = np.zeros(len(areas)) if show is None else (halves @ show > SHOWN * areas).astype(float)
    ends = edges_of(mesh).ends
    points = np.ascontiguousarray(mesh.vertices - middle)
    normals = vertex_normals(mesh)
    limit = float(np.cos(np.radians(flattest)))

    def screened(ups: Points) -> Floats:
        return np.asarray(_screen(points, normals, centres, halves, areas, shown, ends, ups, limit, near))

    # Several at a time, since fetching the mesh from memory takes longer than the sums.
    blocks = [np.ascontiguousarray(directions[k : k + _AT_ONCE]) for k in range(0, len(directions), _AT_ONCE)]
    with ThreadPoolExecutor(THREADS) as pool:
        found = np.concatenate(list(pool.map(screened, blocks)))
    overhang, hidden, minima, height, peak, support, flat = found.T
    return Screened(directions, overhang, hidden, minima.astype(np.int64), height, peak, support, flat)


@kernel(typed.float64[:, ::1](_f8, _f8, _f8, _f8, _f8s, _f8s, _i8, typed.float64[:, ::1], typed.float64, typed.float64))
def _screen(points, normals, centres, halves, areas, shown, ends, ups, limit, near):  # type: ignore[no-untyped-def]
    n, count = len(points), len(ups)
    height = np.empty((n, count))
    low, high = np.full(count, np.inf), np.full(count, -np.inf)
    for v in range(n):
        for d in range(count):
            h = points[v, 0] * ups[d, 0] + points[v, 1] * ups[d, 1] + points[v, 2] * ups[d, 2]
            height[v, d] = h
            low[d], high[d] = min(low[d], h), max(high[d], h)
    lowest = np.ones((n, count), np.bool_)
    for e in range(len(ends)):
        a, b = ends[e, 0], ends[e, 1]
        for d in range(count):
            # Of equal heights the later gives way, so that a level edge has one lowest point.
            first = height[a, d] <= height[b, d]
            lowest[b, d] &= not first
            lowest[a, d] &= first
    found = np.zeros((count, 7))
    for v in range(n):
        for d in range(count):
            if lowest[v, d] and height[v, d] > low[d] + near:
                facing = normals[v, 0] * ups[d, 0] + normals[v, 1] * ups[d, 1] + normals[v, 2] * ups[d, 2]
                found[d, 2] += facing < 0
    profile = np.zeros((count, _BINS))
    for f in range(len(areas)):
        for d in range(count):
            x, y, z = ups[d, 0], ups[d, 1], ups[d, 2]
            facing = halves[f, 0] * x + halves[f, 1] * y + halves[f, 2] * z
            h = centres[f, 0] * x + centres[f, 1] * y + centres[f, 2] * z - low[d]
            profile[d, min(int(h * (_BINS / max(high[d] - low[d], 1e-12))), _BINS - 1)] += facing
            if facing < -limit * areas[f]:
                if h <= near and facing < -_FLAT * areas[f]:
                    found[d, 6] -= facing
                else:
                    found[d, 0] -= facing
                    found[d, 1] -= facing * shown[f]
                    found[d, 5] -= facing * h
    for d in range(count):
        found[d, 3] = high[d] - low[d]
        above = 0.0
        for k in range(_BINS - 1, -1, -1):
            above += profile[d, k]
            found[d, 4] = max(found[d, 4], above)
    return found
