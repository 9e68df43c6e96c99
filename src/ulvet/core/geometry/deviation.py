"""How far two surfaces lie from each other."""

from dataclasses import dataclass

import igl  # its module under a copyleft licence is never imported
import numpy as np

from ulvet.core.geometry.mesh import Floats, Mesh, Points, face_areas
from ulvet.core.geometry.nearby_faces import NearbyFaces

__all__ = ["Deviation", "deviation_between", "distance_to", "nearest_between"]

_MANY_FACES = 100_000
"""Faces from which bounds are cheaper than exact distances (bench default)."""


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


def nearest_between(a: Mesh, b: Mesh) -> tuple[Points, Points, float]:
    """Give one point (3,) on each of two surfaces, the closest pair with a vertex at one end, and their distance."""
    found = []
    for one, other in ((a, b), (b, a)):
        square, _, at = igl.point_mesh_squared_distance(one.vertices, other.vertices, other.faces.astype(np.int64))
        k = int(np.argmin(square))
        found.append((np.array(one.vertices[k]), np.array(at[k]), float(np.sqrt(max(square[k], 0.0)))))
    (here, there, gap), (there_too, here_too, gap_too) = found
    return (here, there, gap) if gap <= gap_too else (here_too, there_too, gap_too)


def deviation_between(before: Mesh, after: Mesh) -> Deviation:
    """How far two surfaces lie from each other: of each every vertex and the middle of every edge and face, from the
    other.

    The mean is over the surface of ``before``. Raises ValueError for a mesh without faces.
    """
    if not len(before.faces) or not len(after.faces):
        raise ValueError("A surface without faces lies nowhere.")
    there = distance_to(after, before.vertices)
    most = _greatest(after, _middles(before), float(there.max()))
    most = _greatest(before, np.concatenate([after.vertices, _middles(after)]), most)
    areas = face_areas(before)
    mean = float((areas * there[before.faces].mean(axis=1)).sum() / max(areas.sum(), 1e-300))
    return Deviation(most, mean)


def _middles(mesh: Mesh) -> Points:
    """Give the midpoints of all faces and of their edges; an edge of two faces comes twice."""
    corners = mesh.vertices[mesh.faces]
    return np.concatenate([((corners + np.roll(corners, 1, axis=1)) / 2).reshape(-1, 3), corners.mean(axis=1)])


def _greatest(mesh: Mesh, points: Points, known: float) -> float:
    """The greatest distance of points from a surface, or ``known`` where none is farther.

    A tree over many faces takes longest to build. So each point is first held against the faces round the vertices
    nearest to it, which gives no less than its distance; only points that might be farther than what is known are
    looked at exactly, against all faces that could be nearer.
    """
    if len(mesh.faces) < _MANY_FACES:
        return max(known, float(distance_to(mesh, points).max()))
    round_vertices = NearbyFaces(mesh)
    bound = np.abs(round_vertices.distance(points))
    doubtful = np.flatnonzero(bound > known)
    if not len(doubtful):
        return known
    sides = np.linalg.norm(mesh.vertices[mesh.faces] - mesh.vertices[np.roll(mesh.faces, 1, axis=1)], axis=2)
    # A face nearer than the bound has a corner no farther than that and its longest side.
    around = round_vertices.tree.query_ball_point(points[doubtful], bound[doubtful] + float(sides.max()), workers=2)
    corner = np.zeros(len(mesh.vertices), bool)
    corner[np.concatenate([np.asarray(found, np.int64) for found in around])] = True
    faces = mesh.faces[corner[mesh.faces].any(axis=1)]
    return max(known, float(distance_to(Mesh(mesh.vertices, faces), points[doubtful]).max()))
