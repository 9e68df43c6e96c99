"""The nearest point of triangles."""

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Floats, Points

__all__ = ["nearest_on_triangles"]


def nearest_on_triangles(points: Points, corners: Points, faces: NDArray[np.int64]) -> tuple[Points, Floats]:
    """Nearest point of each candidate triangle and its distance: (n, c, 3) and (n, c), for points (n, 3).

    ``corners`` (m, 3, 3) are all triangles, ``faces`` (n, c) the candidates of each point (Ericson 2004, 5.1.5).
    """
    a, b, c = (corners[faces, k] for k in range(3))
    p = points[:, None]
    ab, ac = b - a, c - a
    normal = np.cross(ab, ac)
    square = np.maximum(_dot(normal, normal), 1e-300)
    over = p - a
    v = _dot(np.cross(over, ac), normal) / square
    w = _dot(np.cross(ab, over), normal) / square
    above = (v >= 0) & (w >= 0) & (v + w <= 1)
    nearest = p - normal * (_dot(over, normal) / square)[..., None]
    distance = np.where(above, np.linalg.norm(p - nearest, axis=2), np.inf)
    for start, end in ((a, b), (b, c), (c, a)):
        side = end - start
        t = np.clip(_dot(p - start, side) / np.maximum(_dot(side, side), 1e-300), 0, 1)
        on_side = start + t[..., None] * side
        gap = np.linalg.norm(p - on_side, axis=2)
        nearer = gap < distance
        nearest = np.where(nearer[..., None], on_side, nearest)
        distance = np.where(nearer, gap, distance)
    return nearest, distance


def _dot(u: Points, v: Points) -> Floats:
    return np.einsum("ijk,ijk->ij", u, v)
