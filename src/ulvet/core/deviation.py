"""How far two surfaces lie from each other."""

from dataclasses import dataclass

import igl  # its module under a copyleft licence is never imported
import numpy as np

from ulvet.core.mesh import Floats, Mesh, Points, face_areas

__all__ = ["Deviation", "deviation_between", "distance_to"]


@dataclass(frozen=True)
class Deviation:
    """Greatest and mean distance, both ways, in the mm of the meshes."""

    greatest: float
    mean: float


def distance_to(mesh: Mesh, points: Points) -> Floats:
    """Distance of points (n, 3) from a surface, (n,); exact, by a tree of boxes (libigl). Infinite without faces."""
    if not len(mesh.faces):
        return np.full(len(points), np.inf)
    square, _, _ = igl.point_mesh_squared_distance(points, mesh.vertices, mesh.faces.astype(np.int64))
    return np.asarray(np.sqrt(np.maximum(square, 0)))


def deviation_between(before: Mesh, after: Mesh) -> Deviation:
    """How far two surfaces lie from each other: every vertex of ``before`` from ``after``, and every vertex and middle
    of a face of ``after``, whose faces are the larger ones, from ``before``.

    The mean is over the surface of ``before``. Raises ValueError for a mesh without faces.
    """
    if not len(before.faces) or not len(after.faces):
        raise ValueError("A surface without faces lies nowhere.")
    there = distance_to(after, before.vertices)
    back = distance_to(before, np.concatenate([after.vertices, after.vertices[after.faces].mean(axis=1)]))
    areas = face_areas(before)
    mean = float((areas * there[before.faces].mean(axis=1)).sum() / max(areas.sum(), 1e-300))
    return Deviation(float(max(there.max(), back.max())), mean)
