"""Facets that will be seen: how far curved surface bulges over its triangles, and refining it there."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Floats, Mesh, Points, face_normals
from ulvet.core.geometry.splitting import split_edges
from ulvet.core.geometry.topology import Edges, connected_groups, edges_of, paired_half_edges, without_collapsed_faces

__all__ = ["Bulge", "bulge_of", "refine_facets"]

Ints = NDArray[np.int64]
_CREASE = np.cos(np.radians(38.0))
"""Cosine of the angle between faces from which an edge is a fold, 38° (bench default)."""
_ROUNDS = 6
"""Times that edges are halved at most: each quarters the chord error."""
_MOST_TRIANGLES = 4_000_000
"""Triangles that refining stops at, for memory."""
_BENT = np.cos(np.radians(50.0))
"""Cosine of the bend up to which a fold is followed as a curve, 50° (bench default)."""


@dataclass(frozen=True)
class Bulge:
    """For every edge of ``edges`` the middle (e, 3) the curved surface would have there and how far that lies from the
    straight one, (e,) in the mm of the mesh."""

    edges: Edges
    middles: Points
    errors: Floats


def bulge_of(mesh: Mesh) -> Bulge:
    """How far the surface through a mesh's corners would bulge over its edges.

    Over smooth edges by curved triangles through the corners and their normals (Vlachos and others 2001); along folds
    sharper than 38 degrees and open rims, which stay sharp, by the four-point scheme over the lengths of the edges
    (Dyn, Floater and Hormann 2009) where they bend gently; elsewhere not at all.
    """
    edges = edges_of(mesh)
    normals = face_normals(mesh)
    sharp, smooth = _kinds(edges, normals)
    a, b = mesh.vertices[edges.ends[:, 0]], mesh.vertices[edges.ends[:, 1]]
    middles = (a + b) / 2
    corner_normals = _sector_normals(mesh, edges, normals, smooth)
    # Both faces at a smooth edge lie in one sector at either end, so that the first of them speaks for both.
    first = np.full(len(edges.ends), -1, np.int64)
    first[edges.of_half[::-1]] = np.arange(len(edges.of_half))[::-1]
    half = first[smooth]
    start, end = corner_normals[half], corner_normals[half - half % 3 + (half % 3 + 1) % 3]
    p, q = mesh.vertices[mesh.faces.ravel()[half]], mesh.vertices[np.roll(mesh.faces, -1, axis=1).ravel()[half]]
    ahead, back = np.einsum("ij,ij->i", q - p, start), np.einsum("ij,ij->i", p - q, end)
    # Little more than both ends agree on: a plane that runs into a round looks a little round there, and is not.
    most = np.where(ahead * back > 0, 2 * np.minimum(np.abs(ahead), np.abs(back)), 0)
    for normal in (start, end):
        # Where the faces round a corner look all ways, as at the tip of a cone, it is a tip and nothing round.
        most[np.einsum("ij,ij->i", normals[half // 3], normal) < _CREASE] = 0
    rise = np.clip(ahead, -most, most)[:, None] * start + np.clip(back, -most, most)[:, None] * end
    middles[smooth] -= rise / 8
    _bend_along(mesh, edges, sharp, middles)
    return Bulge(edges, middles, np.linalg.norm(middles - (a + b) / 2, axis=1))


def refine_facets(mesh: Mesh, most: float) -> tuple[Mesh, float, str]:
    """Split edges that bulge by more than ``most`` mm, and set the new corners on the curved surface; corners that are
    there stay. The mesh, the greatest bulge that is left, and what was not done, if anything."""
    mesh = without_collapsed_faces(mesh)
    for _ in range(_ROUNDS):
        bulge = bulge_of(mesh)
        coarse = bulge.errors > most
        if not coarse.any():
            return mesh, float(bulge.errors.max(initial=0.0)), ""
        if len(mesh.faces) + 2 * int(coarse.sum()) > _MOST_TRIANGLES:
            return mesh, float(bulge.errors.max()), f"finer would take more than {_MOST_TRIANGLES:,} triangles"
        mesh = split_edges(mesh, bulge.edges, coarse, bulge.middles[coarse])
    left = float(bulge_of(mesh).errors.max(initial=0.0))
    return mesh, left, "" if left <= most else f"facets up to {left:.3f} mm are left where the surface folds tightly"


def _kinds(edges: Edges, normals: Points) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Which edges are sharp or open, and which smooth, (e,) each; edges of many faces are neither."""
    halves = paired_half_edges(edges)
    cosine = np.einsum("ij,ij->i", normals[halves[:, 0] // 3], normals[halves[:, 1] // 3])
    pair = edges.of_half[halves[:, 0]]
    smooth = np.zeros(len(edges.ends), bool)
    smooth[pair] = (cosine >= _CREASE) & ~edges.disagreeing[pair]
    return edges.open | ((edges.uses == 2) & ~smooth), smooth


def _sector_normals(mesh: Mesh, edges: Edges, normals: Points, smooth: NDArray[np.bool_]) -> Points:
    """Normal at every corner of every face, (3m, 3): over the faces that join it smoothly round the vertex."""
    halves = paired_half_edges(edges)
    halves = halves[smooth[edges.of_half[halves[:, 0]]]]
    onward = halves - halves % 3 + (halves % 3 + 1) % 3
    # Two faces pass a shared edge in opposite directions: where one begins the other ends.
    joined = np.concatenate(
        [np.stack([halves[:, 0], onward[:, 1]], axis=1), np.stack([onward[:, 0], halves[:, 1]], axis=1)]
    )
    count, sector = connected_groups(3 * len(mesh.faces), joined)
    corners = mesh.vertices[mesh.faces]
    u = np.roll(corners, -1, axis=1) - corners
    v = np.roll(corners, 1, axis=1) - corners
    length = np.linalg.norm(u, axis=2) * np.linalg.norm(v, axis=2)
    angle = np.arccos(np.clip(np.einsum("ijk,ijk->ij", u, v) / np.maximum(length, 1e-300), -1, 1)).ravel()
    weighted = np.repeat(normals, 3, axis=0) * angle[:, None]
    total: Points = np.stack([np.bincount(sector, weighted[:, k], minlength=count) for k in range(3)], axis=1)
    return np.asarray((total / np.maximum(np.linalg.norm(total, axis=1), 1e-300)[:, None])[sector])


def _bend_along(mesh: Mesh, edges: Edges, sharp: NDArray[np.bool_], middles: Points) -> None:
    """Bend sharp edges along the fold they belong to, where it goes on at both ends, once and gently."""
    which = np.flatnonzero(sharp)
    ends = edges.ends[which]
    n = len(mesh.vertices)
    degree = np.bincount(ends.ravel(), minlength=n)
    total = np.zeros(n, np.int64)
    np.add.at(total, ends[:, 0], ends[:, 1])
    np.add.at(total, ends[:, 1], ends[:, 0])
    through = (degree[ends] == 2).all(axis=1)
    which, ends = which[through], ends[through]
    before, after = total[ends[:, 0]] - ends[:, 1], total[ends[:, 1]] - ends[:, 0]
    p0, p1, p2, p3 = (mesh.vertices[k] for k in (before, ends[:, 0], ends[:, 1], after))
    gentle = (_cosine(p1 - p0, p2 - p1) > _BENT) & (_cosine(p2 - p1, p3 - p2) > _BENT)
    bent = (p1 + p2) / 2 + _bending(p1 - p0, p2 - p1) - _bending(p3 - p2, p2 - p1)
    middles[which[gentle]] = bent[gentle]


def _bending(beside: Points, edge: Points) -> Points:
    """What an edge beside another bends that one's middle by, (k, 3): by their lengths, so that long and short edges of
    one arc bend alike; a short one says too little of a long one to bend it more than one as long would."""
    l0, l1 = (np.maximum(np.linalg.norm(side, axis=1), 1e-300)[:, None] for side in (beside, edge))
    aside = beside - np.einsum("ij,ij->i", beside, edge)[:, None] / l1**2 * edge
    return np.asarray(aside * np.minimum(1 / 16, l1**2 / (8 * l0 * (l0 + l1))))


def _cosine(u: Points, v: Points) -> Floats:
    length = np.linalg.norm(u, axis=1) * np.linalg.norm(v, axis=1)
    return np.asarray(np.einsum("ij,ij->i", u, v) / np.maximum(length, 1e-300))
