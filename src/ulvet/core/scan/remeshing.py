"""Even triangles, and rims made smooth."""

import numpy as np
from scipy.sparse import coo_array
from scipy.spatial import cKDTree

from ulvet.core.geometry.holes import holes_of
from ulvet.core.geometry.mesh import Mesh, Points, area, face_normals
from ulvet.core.geometry.topology import (
    Edges,
    edges_of,
    paired_half_edges,
    without_collapsed_faces,
    without_unused_vertices,
)

__all__ = ["CannotRemesh", "remesh", "remesh_edge", "seat_rims", "smooth_rims", "without_ears"]

_ROUNDS = 6
"""Rounds of splitting, collapsing, flipping and relaxing."""
_CREASE = np.cos(np.radians(40.0))
"""Cosine of the angle from which an edge is a fold that stays, 40° (bench default)."""
_PASSES = 24
"""Passes of smoothing along a rim (Taubin 1995, so that it does not shrink)."""
_IN, _OUT = 0.5, -0.53
"""Steps inward and outward by turns, which smooths and does not shrink (Taubin 1995)."""
_RINGS = 3
"""Rows of vertices beside a rim that move with it."""
_EAR_ROUNDS = 4
"""Times that faces hanging by one edge are dropped; each may leave others."""


class CannotRemesh(ValueError):
    """A mesh that the remesher does not take; its text is for the user."""


def remesh_edge(mesh: Mesh) -> float:
    """The edge of even triangles as many as the mesh has now, mm."""
    return float(np.sqrt(4 / np.sqrt(3) * area(mesh) / max(len(mesh.faces), 1)))


def remesh(mesh: Mesh, edge: float) -> Mesh:
    """The surface in triangles with edges of about ``edge`` mm (split, collapse, flip, relax; Botsch and Kobbelt 2004),
    laid back onto it every round. Open rims and folds sharper than 40 degrees stay where they are.

    Raises CannotRemesh for edges with more than two faces, which no such mesh has.
    """
    # The package's other half is under a copyleft licence and is never imported.
    from gpytoolbox_bindings import _remesh_botsch_cpp_impl

    edges = edges_of(mesh)
    if (edges.uses > 2).any():
        raise CannotRemesh("some edges have more than two faces; mend them first")
    kept = _rims_and_folds(mesh, edges)
    # What is kept has to come first.
    order = np.concatenate([kept, np.setdiff1d(np.arange(len(mesh.vertices)), kept, assume_unique=True)])
    place = np.empty(len(order), np.int64)
    place[order] = np.arange(len(order))
    points, faces = _remesh_botsch_cpp_impl(
        np.array(mesh.vertices[order]),
        place[mesh.faces].astype(np.int32),
        _ROUNDS,
        float(edge),
        np.arange(len(kept), dtype=np.int32),
        np.zeros((0, 2), np.int32),
        True,
    )
    return without_collapsed_faces(Mesh(points, faces.astype(np.int32)))


def without_ears(mesh: Mesh) -> Mesh:
    """The mesh without faces that hang on by one edge alone, which make a rim ragged."""
    for _ in range(_EAR_ROUNDS):
        edges = edges_of(mesh)
        ear = edges.open[edges.of_half].reshape(-1, 3).sum(axis=1) >= 2
        if not ear.any() or ear.all():
            break
        mesh = without_unused_vertices(Mesh(mesh.vertices, mesh.faces[~ear]))
    return mesh


def seat_rims(mesh: Mesh, ground: float, reach: float) -> tuple[Mesh, int]:
    """Rims that lie wholly within ``reach`` mm over the level ``ground`` brought straight down onto it, and how many.

    An object sits on a table by what no scanner sees; its rim is carried down, and closing it makes it flat.
    """
    points, faces = [np.array(mesh.vertices)], [np.array(mesh.faces)]
    count, seated = len(mesh.vertices), 0
    for hole in holes_of(mesh, edges_of(mesh)):
        over = mesh.vertices[hole.rim, 2] - ground
        if not hole.simple or over.max() > reach or over.min() < -reach:
            continue
        foot = np.array(mesh.vertices[hole.rim])
        foot[:, 2] = ground
        points.append(foot)
        here = np.arange(count, count + len(foot))
        after, onward = np.roll(hole.rim, -1), np.roll(here, -1)
        # The rim runs as the missing faces would.
        faces.append(np.stack([hole.rim, after, onward], axis=1).astype(np.int32))
        faces.append(np.stack([hole.rim, onward, here], axis=1).astype(np.int32))
        count += len(foot)
        seated += 1
    return Mesh(np.concatenate(points), np.concatenate(faces)), seated


def smooth_rims(mesh: Mesh, near: Points | None = None, reach: float = 0.0) -> tuple[Mesh, int, float]:
    """Smooth open rims and the three rows of vertices beside them without shrinking, after what hangs on by one edge
    was dropped; the mesh, how many vertices were moved and how far at most, mm.

    With ``near`` (k, 3) only those within ``reach`` mm of one of these points. Vertices of a rim follow the rim alone.
    """
    mesh = without_ears(mesh)
    edges = edges_of(mesh)
    n = len(mesh.vertices)
    along = edges.ends[edges.open]
    on_rim = np.zeros(n, bool)
    on_rim[along.ravel()] = True
    rim = on_rim.copy()
    if near is not None and len(near):
        rim[rim] = cKDTree(near).query(mesh.vertices[rim])[0] <= reach
    links = coo_array((np.ones(len(edges.ends)), (edges.ends[:, 0], edges.ends[:, 1])), shape=(n, n))
    links = (links + links.T).tocsr()
    moving = rim.copy()
    for _ in range(_RINGS):
        moving |= links @ moving.astype(float) > 0
    rim_links = coo_array((np.ones(len(along)), (along[:, 0], along[:, 1])), shape=(n, n))
    rim_links = (rim_links + rim_links.T).tocsr()
    points = np.array(mesh.vertices)
    inner, outer = np.flatnonzero(moving & ~on_rim), np.flatnonzero(rim)
    for _ in range(_PASSES):
        for step in (_IN, _OUT):
            move = np.zeros_like(points)
            for which, web in ((inner, links), (outer, rim_links)):
                rows = web[which]
                count = np.maximum(np.asarray(rows.sum(axis=1)), 1)
                move[which] = rows @ points / count.reshape(-1, 1) - points[which]
            points += step * move
    moved = np.linalg.norm(points - mesh.vertices, axis=1)
    return Mesh(points, mesh.faces), int((moved > 0).sum()), float(moved.max(initial=0.0))


def _rims_and_folds(mesh: Mesh, edges: Edges) -> np.ndarray[tuple[int], np.dtype[np.int64]]:
    """Vertices of open edges and of sharp folds, sorted."""
    halves, normals = paired_half_edges(edges), face_normals(mesh)
    sharp = np.einsum("ij,ij->i", normals[halves[:, 0] // 3], normals[halves[:, 1] // 3]) < _CREASE
    folds = edges.ends[edges.of_half[halves[sharp, 0]]]
    return np.unique(np.concatenate([folds.ravel(), edges.ends[edges.open].ravel()])).astype(np.int64)
