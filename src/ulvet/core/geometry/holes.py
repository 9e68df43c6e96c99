"""Rims of open edges, and filling those that are simple."""

from dataclasses import dataclass
from functools import reduce

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulvet.core.geometry.degenerate_faces import duplicate_faces
from ulvet.core.geometry.fairing import FacesAt, faired_over, faired_patch, in_its_steps, in_plane
from ulvet.core.geometry.mesh import Faces, Floats, Mesh, Points, face_areas
from ulvet.core.geometry.topology import Edges, connected_groups, edges_of
from ulvet.core.kernels import kernel, typed

__all__ = ["Hole", "close_holes", "directed_loops", "flat_triangles", "holes_of"]

Ints = NDArray[np.int64]
_LONGEST_BENT_RIM = 900
"""Vertices of a rim that the cubic triangulation bears."""


@dataclass(frozen=True)
class Hole:
    """One rim of open edges, its vertices in the order in which the missing faces would run.

    ``simple`` says that it is one closed loop. Rims that touch at a vertex are separated there into simple ones.
    """

    rim: Ints
    simple: bool


def holes_of(mesh: Mesh, edges: Edges) -> list[Hole]:
    """All rims, in the order of their first vertex."""
    halves = np.flatnonzero(edges.open[edges.of_half])
    if not len(halves):
        return []
    starts = mesh.faces.ravel()[halves].astype(np.int64)
    ends = np.roll(mesh.faces, -1, axis=1).ravel()[halves].astype(np.int64)
    used, local = np.unique(np.concatenate([starts, ends]), return_inverse=True)
    n = len(used)
    tail, head = local[: len(starts)], local[len(starts) :]
    count, group = connected_groups(n, np.stack([tail, head], axis=1))
    uneven = np.bincount(tail, minlength=n) != np.bincount(head, minlength=n)
    order = np.argsort(group[tail], kind="stable")
    rims = np.split(order, np.cumsum(np.bincount(group[tail], minlength=count))[:-1])
    holes = []
    for rim in rims:
        if uneven[tail[rim]].any() or uneven[head[rim]].any():
            holes.append(Hole(used[np.unique(np.concatenate([tail[rim], head[rim]]))], False))
        else:
            # A missing face runs against the faces around it: from each head back to its tail.
            holes += [Hole(used[loop], True) for loop in directed_loops(head[rim], tail[rim])]
    return holes


def directed_loops(start: Ints, end: Ints) -> list[Ints]:
    """Walk directed edges into closed loops that pass each vertex once.

    Every vertex has as many edges in as out.
    """
    onward: dict[int, list[int]] = {}
    for a, b in zip(start.tolist(), end.tolist(), strict=True):
        onward.setdefault(a, []).append(b)
    loops = []
    for first in sorted(onward):
        while onward[first]:
            walk, place = [first], {first: 0}
            at = onward[first].pop()
            while True:
                if at in place:
                    loop = walk[place[at] :]
                    loops.append(np.array(loop))
                    for vertex in loop[1:]:
                        del place[vertex]
                    del walk[place[at] + 1 :]
                    if len(walk) == 1:
                        break
                else:
                    place[at] = len(walk)
                    walk.append(at)
                at = onward[at].pop()
    return loops


class _Chords:
    """Edges that already join two vertices of a rim; a patch must not use them again."""

    def __init__(self, edges: Edges, holes: list[Hole]) -> None:
        on_rim = np.zeros(int(edges.ends.max(initial=0)) + 1, bool)
        for hole in holes:
            on_rim[hole.rim] = True
        within = edges.ends[~edges.open & on_rim[edges.ends].all(axis=1)]
        both_ways = np.concatenate([within, within[:, ::-1]])
        self._of, self._to = both_ways[np.argsort(both_ways[:, 0], kind="stable")].T

    def across(self, rim: Ints) -> NDArray[np.bool_]:
        """Pairs of places on a rim (n, n) that an edge joins."""
        there = np.zeros((len(rim), len(rim)), bool)
        first, end = np.searchsorted(self._of, rim), np.searchsorted(self._of, rim, "right")
        many = end - first
        of = np.repeat(np.arange(len(rim)), many)
        to = self._to[np.arange(len(of)) + np.repeat(first - np.cumsum(many) + many, many)]
        order = np.argsort(rim)
        place = order[np.minimum(np.searchsorted(rim[order], to), len(rim) - 1)]
        joined = rim[place] == to
        there[of[joined], place[joined]] = True
        return there


def close_holes(
    mesh: Mesh, widest: float | None = None, near: Points | None = None, faired: bool = False
) -> tuple[Mesh, dict[str, int]]:
    """Close every simple rim, or those no wider than ``widest`` mm, or of all those the nearest to each of some points
    ``near`` (k, 3), and count what was closed and left.

    A rim is triangulated in the plane of its area vector (constrained Delaunay); one that crosses itself there, or
    would lie on an edge that is there, gets the patch of least area. ``faired`` fills patches with vertices as close as
    the rim's and bends them to carry on the surface round them; without it no vertex is added. Tangled, wider and very
    long bent rims are left and counted.
    """
    patches: list[Faces] = []
    added = [mesh.vertices]
    left = 0
    edges = edges_of(mesh)
    holes = holes_of(mesh, edges)
    chords = _Chords(edges, holes)
    at = FacesAt(mesh) if faired and holes else None
    count = len(mesh.vertices)
    for hole in holes if near is None else _nearest_holes(mesh, holes, near):
        points = mesh.vertices[hole.rim]
        if not hole.simple or (widest is not None and np.ptp(points, axis=0).max() > widest):
            left += 1
        elif (patch := _filling(mesh, chords, at, hole.rim)) is not None:
            inner, triangles = patch
            patches.append(np.concatenate([hole.rim, count + np.arange(len(inner))])[triangles].astype(np.int32))
            added.append(inner)
            count += len(inner)
        else:
            left += 1
    # A lone sheet would be closed by its own faces turned over.
    points = np.concatenate(added)
    repeats = duplicate_faces(Mesh(points, np.concatenate([mesh.faces, *patches])))[len(mesh.faces) :]
    ends = np.cumsum([len(patch) for patch in patches])
    wanted = [patch for patch, end in zip(patches, ends, strict=True) if not repeats[end - len(patch) : end].any()]
    counts = {"closed": len(wanted), "left": left + len(patches) - len(wanted)}
    return Mesh(points, np.concatenate([mesh.faces, *wanted])), counts


def _filling(mesh: Mesh, chords: _Chords, at: FacesAt | None, rim: Ints) -> tuple[Points, Ints] | None:
    """Fill one rim: give the new points (k, 3) and the triangles, which count the rim's vertices first.

    The patch is faired where ``at``, the faces at each vertex, is given and fairing works.
    """
    if at and (smooth := faired_patch(mesh, at, rim)):
        return smooth
    patch = _patch(in_its_steps(mesh.vertices[rim])[0], chords.across(rim))
    if patch is None:
        return None
    return (at and faired_over(mesh, at, rim, patch)) or (np.empty((0, 3)), patch)


def _nearest_holes(mesh: Mesh, holes: list[Hole], near: Points) -> list[Hole]:
    """Choose the holes whose rims are nearest to the points (k, 3), each once."""
    if not holes:
        return []
    which = np.repeat(np.arange(len(holes)), [len(hole.rim) for hole in holes])
    tree = cKDTree(mesh.vertices[np.concatenate([hole.rim for hole in holes])])
    return [holes[k] for k in np.unique(which[tree.query(near)[1]])]


def _patch(points: Points, taken: NDArray[np.bool_]) -> Ints | None:
    """Triangles (n-2, 3) over a rim (n, 3) without the chords that are ``taken`` (n, n), or None when neither way of
    closing it works."""
    if len(points) == 3:
        return np.array([[0, 1, 2]])
    patch = _flat_patch(points)
    if patch is not None and taken[patch, np.roll(patch, -1, axis=1)].any():
        patch = None
    if patch is None and len(points) <= _LONGEST_BENT_RIM:
        patch = _bent_patch(points, taken)
    return patch


def _flat_patch(points: Points) -> Ints | None:
    """Constrained Delaunay triangles in the plane of the rim's area vector; None when it crosses itself there."""
    flat, _ = in_plane(points)
    polygon = shapely.Polygon(flat)
    return flat_triangles([flat]) if polygon.is_valid and polygon.exterior.is_ccw else None


def flat_triangles(loops: list[Floats]) -> Ints | None:
    """Triangulate the area that closed loops (n, 2) bound, by constrained Delaunay, counter-clockwise (t, 3).

    Corners are counted on from loop to loop. An inner loop bounds a hole, a loop inside that an island. Gives None
    where loops cross or touch.
    """
    areas = [shapely.Polygon(loop) for loop in loops]
    corners = np.concatenate(loops)
    if not all(area.is_valid for area in areas):
        return None
    whole = reduce(shapely.symmetric_difference, areas)
    parts = shapely.get_parts(whole)
    holes = int(shapely.get_num_interior_rings(parts).sum())
    pieces = shapely.get_parts(shapely.constrained_delaunay_triangles(whole))
    if len(pieces) != len(corners) + 2 * holes - 2 * len(parts):
        return None
    ends = shapely.get_coordinates(pieces).reshape(-1, 4, 2)[:, :3]
    # Triangulation keeps coordinates exactly, so the nearest rim vertex is the same one.
    triangles = cKDTree(corners).query(ends.reshape(-1, 2))[1].reshape(-1, 3)
    a, b, c = (corners[triangles[:, k]] for k in range(3))
    ab, ac = b - a, c - a
    clockwise = ab[:, 0] * ac[:, 1] - ab[:, 1] * ac[:, 0] < 0
    triangles[clockwise] = triangles[clockwise][:, ::-1]
    return np.asarray(triangles)


def _bent_patch(points: Points, taken: NDArray[np.bool_]) -> Ints | None:
    """The triangulation of least area, by dynamic programming (Barequet and Sharir 1995); None when it has none."""
    split = _least_area(np.ascontiguousarray(points), taken)
    if split[0, -1] < 0:
        return None
    triangles = []
    spans = [(0, len(points) - 1)]
    while spans:
        start, end = spans.pop()
        if end - start > 1:
            middle = int(split[start, end])
            triangles.append((start, middle, end))
            spans += [(start, middle), (middle, end)]
    patch = np.array(triangles)
    return patch if face_areas(Mesh(points, patch.astype(np.int32))).sum() > 0 else None


@kernel(typed.int64[:, ::1](typed.float64[:, ::1], typed.boolean[:, ::1]))
def _least_area(points, taken):  # type: ignore[no-untyped-def]  # compiled: the signature above is its type
    n = len(points)
    best = np.zeros((n, n))
    split = np.zeros((n, n), np.int64)
    for span in range(2, n):
        for start in range(n - span):
            end = start + span
            best[start, end] = np.inf
            split[start, end] = -1
            if taken[start, end]:
                continue
            for middle in range(start + 1, end):
                u = points[middle] - points[start]
                v = points[end] - points[start]
                x = u[1] * v[2] - u[2] * v[1]
                y = u[2] * v[0] - u[0] * v[2]
                z = u[0] * v[1] - u[1] * v[0]
                area = best[start, middle] + best[middle, end] + 0.5 * np.sqrt(x * x + y * y + z * z)
                if area < best[start, end]:
                    best[start, end] = area
                    split[start, end] = middle
    return split
