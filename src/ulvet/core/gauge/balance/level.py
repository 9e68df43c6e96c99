"""The normal of a flat face that many small triangles draw."""

import numpy as np

from ulvet.core.geometry.mesh import Mesh, Points, bounds, face_areas, face_normals
from ulvet.core.geometry.nearest import nearest_on_triangles

__all__ = ["face_way"]

_AROUND = 0.1
"""Share of the longest side around a place in which the face is looked at (bench default)."""
_ALIKE = np.cos(np.deg2rad(15.0))
"""Cosine of the angle within which a face looks the way of the plane, 15° (bench default)."""
_ROUNDS = 3
"""Times that the plane is taken anew from the faces that look its way."""


def face_way(mesh: Mesh, point: Points) -> Points:
    """The unit normal (3,) of the face at a point on a mesh: of all triangles around it that look alike, by area.

    Those within a tenth of the figure whose normal is within 15° of what is found, first of the nearest triangle's; so
    noise of a scan evens out and what is carved beside it does not count.
    """
    normals, areas = face_normals(mesh), face_areas(mesh)
    corners = mesh.vertices[mesh.faces]
    size = float(np.ptp(bounds(mesh), axis=0).max())
    away = np.linalg.norm(corners.mean(axis=1) - point, axis=1)
    over = np.maximum(corners.min(axis=1) - point, point - corners.max(axis=1)).max(axis=1)
    close = np.flatnonzero(over <= max(float(over.min()), 1e-6 * size))
    nearest = close[nearest_on_triangles(point[None], corners, close[None])[1][0].argmin()]
    around = away <= _AROUND * size
    around[nearest] = True
    way = normals[nearest]
    for _ in range(_ROUNDS):
        alike = around & (normals @ way >= _ALIKE)
        total = (normals[alike] * areas[alike, None]).sum(axis=0)
        long = float(np.linalg.norm(total))
        if long == 0:
            break
        way = total / long
    return np.asarray(way)
