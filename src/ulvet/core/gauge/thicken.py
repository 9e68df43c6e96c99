"""Adding material where walls are too thin, and nowhere else."""

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulvet.core.gauge.thickness import measure_thickness
from ulvet.core.mesh import Floats, Mesh, Points, face_normals, vertex_normals
from ulvet.core.topology import edges_of

__all__ = ["thicken_walls"]

_SHARPEST = 0.5
_ROUNDS = 400


def thicken_walls(mesh: Mesh, wall: float, fade: float, places: Points, reach: float) -> tuple[Mesh, int, float]:
    """Grow walls under ``wall`` mm to it, near ``places`` (p, 3): the mesh, vertices moved and the greatest movement.

    Vertices within ``reach`` mm of a place whose wall is too thin move outward by half of what is missing; around
    them the movement fades linearly to nothing over ``fade`` mm along the surface, so that no step shows. At sharp
    corners the movement is lengthened so that the faces, not the corner, move by the half (a mitre, at most twofold).
    The face list stays as it is. All lengths are figure mm.
    """
    n = len(mesh.vertices)
    walls = measure_thickness(mesh).walls[:n]
    near = cKDTree(places).query(mesh.vertices)[0] <= reach
    missing = np.where(near & (walls < wall), (wall - walls) / 2, 0.0)
    missing[~np.isfinite(missing)] = 0
    if not missing.any():
        return mesh, 0, 0.0
    grown = _faded(mesh, missing, float(missing.max()) / fade)
    normals = vertex_normals(mesh)
    shift = normals * (grown * _mitre(mesh, normals))[:, None]
    moved = float(np.linalg.norm(shift, axis=1).max())
    return Mesh(mesh.vertices + shift, mesh.faces), int((grown > 0).sum()), moved


def _faded(mesh: Mesh, movement: Floats, slope: float) -> Floats:
    """The least field above ``movement`` that falls by no more than ``slope`` a mm along edges."""
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


def _mitre(mesh: Mesh, normals: Points) -> NDArray[np.float64]:
    steepest = np.ones(len(mesh.vertices))
    faces = face_normals(mesh)
    for k in range(3):
        corner = mesh.faces[:, k]
        np.minimum.at(steepest, corner, np.einsum("ij,ij->i", normals[corner], faces))
    return 1 / np.maximum(steepest, _SHARPEST)
