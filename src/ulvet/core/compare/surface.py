"""How far a surface moved."""

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulvet.core.mesh import Floats, Mesh
from ulvet.core.nearest import nearest_on_triangles

__all__ = ["moved_surface"]

_NEAREST = 8
_BATCH = 20_000


def moved_surface(before: Mesh, after: Mesh) -> Floats:
    """Distance of every vertex of ``after`` from the surface of ``before``, (n,) mm.

    Exact to the triangles with the eight nearest middles and those about the eight nearest corners, which is where the
    nearest surface lies unless triangles near by differ much in size; never less than the true distance.
    """
    if not len(before.faces):
        return np.full(len(after.vertices), np.inf)
    far = np.zeros(len(after.vertices))
    corners = before.vertices[before.faces]
    by_corner, by_middle = cKDTree(before.vertices), cKDTree(corners.mean(axis=1))
    beside = _a_face_of_each_vertex(before)
    distance, _ = by_corner.query(after.vertices)
    # What coincides with a corner has not moved, and that is most of it after a small change.
    loose = np.flatnonzero(distance > 1e-9)
    count = min(_NEAREST, len(before.faces))
    for start in range(0, len(loose), _BATCH):
        some = loose[start : start + _BATCH]
        points = after.vertices[some]
        middles = by_middle.query(points, k=count)[1].reshape(len(some), -1)
        ends = by_corner.query(points, k=min(_NEAREST, len(before.vertices)))[1].reshape(len(some), -1)
        faces = np.concatenate([middles, beside[ends].reshape(len(some), -1)], axis=1)
        far[some] = nearest_on_triangles(points, corners, faces)[1].min(axis=1)
    return far


def _a_face_of_each_vertex(mesh: Mesh) -> NDArray[np.int64]:
    """Three faces about every vertex, repeated where there are fewer; (n, 3)."""
    order = np.argsort(mesh.faces.ravel(), kind="stable")
    vertex, face = mesh.faces.ravel()[order], order // 3
    first = np.searchsorted(vertex, np.arange(len(mesh.vertices)))
    last = np.searchsorted(vertex, np.arange(len(mesh.vertices)), side="right") - 1
    used = last >= first
    picks = np.stack([first, (first + last) // 2, last], axis=1)
    return np.where(used[:, None], face[np.clip(picks, 0, len(face) - 1)], 0)
