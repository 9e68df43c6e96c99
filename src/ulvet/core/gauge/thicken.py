"""Adding material where walls are too thin, and nowhere else."""

import numpy as np
from scipy.spatial import cKDTree

from ulvet.core.gauge.thickness import measure_thickness
from ulvet.core.mesh import Floats, Mesh, Points, face_normals, vertex_normals
from ulvet.core.topology import edges_of

__all__ = ["thicken_walls"]

_SQUARE = 0.55  # a little under the cosine at the corner of a box
_CREASE = 0.9
_SMOOTHINGS = 2
_ROUNDS = 400


def thicken_walls(mesh: Mesh, wall: float, fade: float, places: Points, reach: float) -> tuple[Mesh, int, float]:
    """Grow walls under ``wall`` mm to it, near ``places`` (p, 3): the mesh, vertices moved and the greatest movement.

    Vertices within ``reach`` mm of a place whose wall is too thin move outward by half of what is missing; around
    them the movement fades linearly to nothing over ``fade`` mm along the surface, so that no step shows. Directions
    are smoothed over neighbours, so that a noisy surface does not grow spikes. At square corners the movement is
    lengthened so that the faces, not the corner, move by the half; at sharper ones, which would grow thorns, it is not.
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
    shift = _ways(mesh) * grown[:, None]
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
