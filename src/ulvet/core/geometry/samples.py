"""Points spread over a surface and directions over the sphere, the same each time."""

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Mesh, Points, face_areas

__all__ = ["even_directions", "spread_points"]

_R2 = (0.7548776662466927, 0.5698402909980532)
"""Steps of the sequence of Roberts (2018) in a square: powers of the inverse of the plastic number."""


def spread_points(mesh: Mesh, count: int, among: NDArray[np.int64] | None = None) -> tuple[Points, NDArray[np.int64]]:
    """Points (count, 3) spread evenly by area over a surface, or over the faces ``among`` of it, and the face of
    each."""
    faces = np.arange(len(mesh.faces)) if among is None else among
    turn = np.arange(count)
    areas = np.cumsum(face_areas(mesh)[faces])
    face = faces[np.searchsorted(areas, (turn + 0.5) / count * areas[-1]).clip(0, len(faces) - 1)]
    s, t = ((0.5 + turn * step) % 1 for step in _R2)
    over = s + t > 1
    s, t = np.where(over, 1 - s, s)[:, None], np.where(over, 1 - t, t)[:, None]
    a, b, c = (mesh.vertices[mesh.faces[face, k]] for k in range(3))
    return np.asarray(a + s * (b - a) + t * (c - a)), face


def even_directions(count: int) -> Points:
    """Unit vectors (count, 3) spread evenly by the golden angle (Fibonacci lattice; González 2010)."""
    k = np.arange(count) + 0.5
    z = 1 - 2 * k / count
    angle = np.pi * (1 + 5**0.5) * k
    ring = np.sqrt(1 - z**2)
    return np.stack([ring * np.cos(angle), ring * np.sin(angle), z], axis=1)
