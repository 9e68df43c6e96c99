"""The displacement field of vertices where walls grow."""

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array, diags_array
from scipy.sparse.linalg import splu

from ulvet.core.geometry.mesh import Floats, Mesh, Points, face_normals, vertex_normals
from ulvet.core.geometry.topology import edges_of

__all__ = ["carried_displacement", "faded", "outward_displacement"]

Ints = NDArray[np.int64]

_SQUARE = 0.55  # a little under the cosine at the corner of a box
_CREASE = 0.9
"""Cosine between the normals of neighbouring faces and their vertex under which it lies in a crease."""
_SMOOTHINGS = 2
"""Times that directions are evened out over neighbours."""
_ROUNDS = 400
"""Rings over which a movement may fade."""


def outward_displacement(mesh: Mesh, missing: Floats, fade: float) -> Points:
    """Give the displacement (n, 3) of all vertices along their normals: ``missing`` (n,) where walls are thin, fading
    to nothing over ``fade`` mm."""
    return _ways(mesh) * faded(mesh, missing, fade)[:, None]


def carried_displacement(mesh: Mesh, missing: Floats, fade: float, thin: NDArray[np.bool_]) -> Points:
    """The movement of all vertices, (n, 3): of those that are too thin their own, around them in between, else none.

    In a hollow crease it is that of the ``thin`` faces (m,) beside it.
    """
    around = faded(mesh, missing, fade) > 0
    ends = edges_of(mesh).ends
    ways, hollow = _ways(mesh), _hollows(mesh, ends)
    aside = np.zeros_like(mesh.vertices)
    for k in range(3):
        np.add.at(aside, mesh.faces[thin, k], mesh.cross[thin])
    long = np.linalg.norm(aside, axis=1)
    ways[hollow] = aside[hollow] / np.maximum(long[hollow], 1e-300)[:, None]
    own = (missing > 0) & ~(hollow & (long == 0))
    shift = np.where(own[:, None], ways * missing[:, None], 0.0)
    free = np.flatnonzero(around & ~own)
    if not len(free):
        return shift
    n = len(mesh.vertices)
    pairs = np.concatenate([ends, ends[:, ::-1]])
    beside = coo_array((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(n, n)).tocsr()[free]
    count = np.asarray(beside.sum(axis=1)).ravel()
    system = (diags_array(count) - beside[:, free]).tocsc()
    shift[free] = splu(system).solve(np.asarray(beside @ shift))
    return shift


def _hollows(mesh: Mesh, ends: Ints) -> NDArray[np.bool_]:
    """Vertices in a crease that is hollow, whose normal points into neither of its sides."""
    normals, faces = vertex_normals(mesh), face_normals(mesh)
    steepest = np.ones(len(mesh.vertices))
    for k in range(3):
        corner = mesh.faces[:, k]
        np.minimum.at(steepest, corner, np.einsum("ij,ij->i", normals[corner], faces))
    rises = np.zeros(len(mesh.vertices))
    along = mesh.vertices[ends[:, 1]] - mesh.vertices[ends[:, 0]]
    along /= np.maximum(np.linalg.norm(along, axis=1), 1e-300)[:, None]
    np.add.at(rises, ends[:, 0], np.einsum("ij,ij->i", along, normals[ends[:, 0]]))
    np.add.at(rises, ends[:, 1], -np.einsum("ij,ij->i", along, normals[ends[:, 1]]))
    return np.asarray((steepest < _CREASE) & (rises > 0))


def faded(mesh: Mesh, movement: Floats, fade: float) -> Floats:
    """The least field (n,) above a ``movement`` (n,) that falls from its greatest to nothing over ``fade`` mm."""
    if not movement.any():
        return movement
    slope = float(movement.max()) / fade
    ends = edges_of(mesh).ends
    drop = slope * np.linalg.norm(mesh.vertices[ends[:, 0]] - mesh.vertices[ends[:, 1]], axis=1)
    field = movement.copy()
    for _ in range(_ROUNDS):
        before = field.copy()
        np.maximum.at(field, ends[:, 1], before[ends[:, 0]] - drop)
        np.maximum.at(field, ends[:, 0], before[ends[:, 1]] - drop)
        if np.array_equal(before, field):
            break
    return field


def _ways(mesh: Mesh) -> Points:
    """Direction in which each vertex moves, as long as it must move for its faces to move by one; (n, 3)."""
    normals, faces = vertex_normals(mesh), face_normals(mesh)
    steepest = np.ones(len(mesh.vertices))
    for k in range(3):
        corner = mesh.faces[:, k]
        np.minimum.at(steepest, corner, np.einsum("ij,ij->i", normals[corner], faces))
    mitre = np.where(steepest >= _SQUARE, 1 / np.maximum(steepest, _SQUARE), 1.0)
    smooth = steepest >= _CREASE
    ends = edges_of(mesh).ends
    # Across a crease there is nothing to smooth.
    ends = ends[smooth[ends].all(axis=1)]
    ways = normals
    for _ in range(_SMOOTHINGS):
        around = ways.copy()
        np.add.at(around, ends[:, 0], ways[ends[:, 1]])
        np.add.at(around, ends[:, 1], ways[ends[:, 0]])
        ways = around / np.maximum(np.linalg.norm(around, axis=1), 1e-12)[:, None]
    return ways * mitre[:, None]
