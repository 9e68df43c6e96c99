"""Non-manifold edges and vertices, and how they are taken apart."""

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.face_orientation import shell_volumes
from ulvet.core.geometry.mesh import Mesh, face_areas
from ulvet.core.geometry.topology import (
    Edges,
    connected_groups,
    edges_of,
    face_shells,
    paired_half_edges,
    without_unused_vertices,
)

__all__ = ["fans_of", "without_duplicates", "without_nonmanifold", "without_scraps"]

Ints = NDArray[np.int64]
_SCRAP = 1e-3
"""Of all surface: less is a scrap where it is open."""
_FLAKE = 0.02
"""Volume against area to the power of one and a half, of which a ball has 0.094."""


def fans_of(mesh: Mesh, halves: Ints) -> Ints:
    """Give the fan (3m,) of each face corner: the faces around its vertex that are connected over ``halves``.

    ``halves`` (p, 2) are pairs of half-edges over which faces count as connected. Fans are numbered by their first
    corner.
    """
    # Two faces of an edge lie against each other with the corners at either of its ends.
    start, end = halves, 3 * (halves // 3) + (halves % 3 + 1) % 3
    vertices = mesh.faces.ravel()
    pairs = []
    for ours in (start, end):
        for theirs in (start, end):
            same = vertices[ours[:, 0]] == vertices[theirs[:, 1]]
            pairs.append(np.stack([ours[same, 0], theirs[same, 1]], axis=1))
    return connected_groups(3 * len(mesh.faces), np.concatenate(pairs))[1]


def without_duplicates(mesh: Mesh) -> Mesh:
    """Keep one of several faces over the same three vertices, oriented as the majority; keep none on a tie.

    Two faces of opposite orientation enclose nothing: they are a wall without thickness, or what two touching solids
    would keep between them. Where one of them was flipped by mistake this leaves a hole, which hole filling closes with
    the same face.
    """
    if not len(mesh.faces):
        return mesh
    corners = np.sort(mesh.faces, axis=1)
    _, first, group = np.unique(corners, axis=0, return_index=True, return_inverse=True)
    at = mesh.faces.argmin(axis=1)
    rows = np.arange(len(at))
    ahead = mesh.faces[rows, (at + 1) % 3] < mesh.faces[rows, (at + 2) % 3]
    net = np.bincount(group.ravel(), np.where(ahead, 1, -1))
    turned = ahead[first] != (net > 0)
    faces = mesh.faces[first].copy()
    faces[turned] = faces[turned][:, ::-1]
    kept = net != 0
    return Mesh(mesh.vertices, faces[kept][np.argsort(first[kept], kind="stable")])


def without_scraps(mesh: Mesh) -> Mesh:
    """Drop open shells of almost no area that would enclose almost no volume if they were closed.

    Such scraps are left in the middle of a torn hole; closing their rims would make flakes of them.
    """
    edges = edges_of(mesh)
    count, shell = face_shells(mesh, edges)
    if count < 2:
        return mesh
    open_ones = np.bincount(shell, edges.open[edges.of_half].reshape(-1, 3).any(axis=1), count) > 0
    areas = np.bincount(shell, face_areas(mesh), count)
    flat = np.abs(shell_volumes(mesh, edges, shell, count)) < _FLAKE * areas**1.5
    scraps = open_ones & flat & (areas < _SCRAP * areas.sum())
    return without_unused_vertices(Mesh(mesh.vertices, mesh.faces[~scraps[shell]])) if scraps.any() else mesh


def without_nonmanifold(mesh: Mesh) -> Mesh:
    """Split vertices until no edge has more than two faces and no vertex more than one fan.

    At a non-manifold edge each face is paired with the face across the material between them, so that solids which
    touch along the edge come apart. Where face orientations do not alternate around the edge, the surface becomes open
    there. No vertex moves.
    """
    edges = edges_of(mesh)
    halves = np.concatenate([paired_half_edges(edges), _across_material(mesh, edges)])
    fan = fans_of(mesh, halves)
    vertices = mesh.faces.ravel()
    begins = np.flatnonzero(np.diff(np.maximum.accumulate(fan), prepend=-1) > 0)
    # The first fan of a vertex keeps it; others get copies behind.
    order = np.lexsort((begins, vertices[begins]))
    again = np.zeros(len(begins), bool)
    again[order[1:]] = vertices[begins[order[1:]]] == vertices[begins[order[:-1]]]
    named = vertices[begins].astype(np.int64)
    named[again] = len(mesh.vertices) + np.arange(int(again.sum()))
    points = np.concatenate([mesh.vertices, mesh.vertices[vertices[begins[again]]]])
    return Mesh(points, named[fan].reshape(-1, 3).astype(np.int32))


def _across_material(mesh: Mesh, edges: Edges) -> Ints:
    """Pair half-edges (p, 2) at non-manifold edges whose faces bound the same material."""
    half = np.flatnonzero(edges.nonmanifold[edges.of_half] & (edges.balance[edges.of_half] == 0))
    if not len(half):
        return np.empty((0, 2), np.int64)
    edge, forward = edges.of_half[half], edges.forward[half]
    a, b = (mesh.vertices[edges.ends[edge, k]] for k in range(2))
    along = b - a
    along /= np.maximum(np.linalg.norm(along, axis=1), 1e-300)[:, None]
    across = np.cross(along, np.eye(3)[np.abs(along).argmin(axis=1)])
    across /= np.linalg.norm(across, axis=1)[:, None]
    apex = mesh.vertices[mesh.faces.ravel()[3 * (half // 3) + (half + 2 - 3 * (half // 3)) % 3]] - a
    angle = np.arctan2(np.einsum("ij,ij->i", apex, np.cross(along, across)), np.einsum("ij,ij->i", apex, across))
    order = np.lexsort((angle, edge))
    edge, forward, half = edge[order], forward[order], half[order]
    starts = np.flatnonzero(np.diff(edge, prepend=-1))
    sizes = np.diff(np.append(starts, len(edge)))
    following = np.arange(len(edge)) + 1
    following[starts + sizes - 1] = starts
    turns = forward != forward[following]
    alternates = np.repeat(np.add.reduceat(~turns, starts) == 0, sizes)
    # Seen along the edge a face that runs with it has its material on the side of growing angles.
    first = np.flatnonzero(alternates & ~forward)
    return np.stack([half[first], half[following[first]]], axis=1)
