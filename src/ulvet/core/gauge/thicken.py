"""Adding material where walls are too thin, and nowhere else."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array, diags_array
from scipy.sparse.linalg import splu
from scipy.spatial import cKDTree

from ulvet.core.gauge.places import thin_places
from ulvet.core.gauge.thickness import measure_near
from ulvet.core.mend.crossing import crossing_faces
from ulvet.core.mesh import Floats, Mesh, Points, face_normals, vertex_normals
from ulvet.core.topology import edges_of

__all__ = ["thicken_walls", "thinnest_near"]

Ints = NDArray[np.int64]

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
    Where faces would cross so, such as at the foot of a pin, what is around is carried along instead (harmonically).
    The face list stays as it is. All lengths are figure mm.
    """
    n = len(mesh.vertices)
    near = cKDTree(places).query(mesh.vertices)[0] <= reach
    local = measure_near(mesh, _around(mesh, near), wall)
    walls = np.full(n, np.inf)
    walls[local.vertices] = local.thickness.walls[: len(local.vertices)]
    missing = np.where(near & (walls < wall), (wall - walls) / 2, 0.0)
    missing[~np.isfinite(missing)] = 0
    if not missing.any():
        return mesh, 0, 0.0
    shift = _ways(mesh) * _faded(mesh, missing, float(missing.max()) / fade)[:, None]
    if (grown_into := _crossings(mesh, shift)) > 0:
        thin = np.zeros(len(mesh.faces), bool)
        inside = local.thickness.walls[len(local.vertices) :] < wall
        thin[local.faces[local.thickness.face_of[inside]]] = True
        aside = _carried(mesh, missing, fade, thin)
        shift = aside if _crossings(mesh, aside) < grown_into else shift
    moved = np.linalg.norm(shift, axis=1)
    return Mesh(mesh.vertices + shift, mesh.faces), int((moved > 0).sum()), float(moved.max())


def thinnest_near(mesh: Mesh, limit: float, places: Points, reach: float) -> float | None:
    """The least wall under ``limit`` that is within ``reach`` of some places (p, 3), mm; None where there is none.

    Told as a finding tells it: of places that are as long as the limit, not of single points.
    """
    near = cKDTree(places).query(mesh.vertices)[0] <= reach
    local = measure_near(mesh, _around(mesh, near), limit)
    piece, thickness = local.piece, local.thickness
    # A face that reaches out of it fades.
    near = near[local.vertices]
    kept = np.concatenate([near, near[piece.faces[thickness.face_of]].all(axis=1)])
    found = thin_places(piece, replace(thickness, walls=np.where(kept, thickness.walls, np.inf)), limit)
    return found[0].wall if found else None


def _around(mesh: Mesh, vertices: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Faces (m,) at some vertices (n,), and those next to them."""
    beside = vertices.copy()
    beside[mesh.faces[vertices[mesh.faces].any(axis=1)]] = True
    return np.asarray(beside[mesh.faces].any(axis=1))


def _crossings(mesh: Mesh, shift: Points) -> int:
    """How many more pairs of faces cross after a movement than before it."""
    touched = (shift[mesh.faces] != 0).any(axis=(1, 2))
    after = Mesh(mesh.vertices + shift, mesh.faces)
    moving = np.concatenate([mesh.vertices[mesh.faces[touched]], after.vertices[mesh.faces[touched]]]).reshape(-1, 3)
    low, high = moving.min(axis=0), moving.max(axis=0)
    corners = mesh.vertices[mesh.faces]
    near = touched | ((corners.max(axis=1) >= low).all(axis=1) & (corners.min(axis=1) <= high).all(axis=1))
    count = [len(crossing_faces(Mesh(one.vertices, mesh.faces[near])).pairs) for one in (after, mesh)]
    return count[0] - count[1]


def _carried(mesh: Mesh, missing: Floats, fade: float, thin: NDArray[np.bool_]) -> Points:
    """The movement of all vertices, (n, 3): of those that are too thin their own, around them in between, else none.

    In a hollow crease it is that of the ``thin`` faces (m,) beside it.
    """
    around = _faded(mesh, missing, float(missing.max()) / fade) > 0
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
