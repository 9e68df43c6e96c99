"""Where float32, the precision of files, is too coarse for a figure's coordinates."""

import numpy as np
from scipy.spatial import cKDTree

from ulvet.core.geometry.mesh import Mesh, Points

__all__ = ["offset_beyond_precision", "with_own_vertices"]

_FINE = 4e-6
"""Step of single precision, as a share of the longest side, from which on a shape is blurred (bench default)."""


def offset_beyond_precision(points: Points) -> Points:
    """Give the whole millimetres (3,) by which points (n, 3) lie off the origin, if float32 would blur them there; else
    0."""
    if not len(points):
        return np.zeros(3)
    low, high = points.min(axis=0), points.max(axis=0)
    farthest = np.float32(np.abs([low, high]).max())
    if not np.isfinite(farthest) or np.spacing(farthest) <= _FINE * (high - low).max():
        return np.zeros(3)
    return np.asarray(np.round((low + high) / 2))


def with_own_vertices(before: Mesh, after: Mesh) -> Mesh:
    """Vertices that only went to print size and back get their own coordinates again, to the last bit."""
    size = float(np.abs(before.vertices).max()) + 1
    away, which = cKDTree(before.vertices).query(after.vertices, distance_upper_bound=size * 1e-12)
    vertices = after.vertices.copy()
    same = np.isfinite(away)
    vertices[same] = before.vertices[which[same]]
    return Mesh(vertices, after.faces)
