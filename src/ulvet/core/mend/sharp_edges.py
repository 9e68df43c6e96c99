"""Restoring the sharp edges that a grid has cut off."""

import igl  # its module under a copyleft licence is never imported
import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulvet.core.geometry.mesh import Mesh, Points, face_normals
from ulvet.core.geometry.topology import edges_of, paired_faces

__all__ = ["restore_sharp_edges"]

Ints = NDArray[np.int64]

_BENT = np.cos(np.radians(15.0))
"""What two faces of the drawn surface bend at least where it has cut an edge off."""
_SHARP = np.cos(np.radians(30.0))
"""What two faces of the source bend at an edge worth keeping (bench default)."""
_FLAT = 0.05
"""How near to turning back on each other two planes may be and still be taken to meet: those of a thin plate do not."""
_AWAY = 0.6
"""Grid steps by which the drawn surface may lie off its source; what lies farther was drawn after something else."""
_REACH = 1.5
"""Grid steps an edge or corner may lie from the middle of what it cuts."""


def restore_sharp_edges(drawn: Mesh, source: Mesh, pitch: float, blunt: Points) -> Mesh:
    """A closed surface drawn on a grid of ``pitch`` mm with the edges of ``source`` that the grid has cut off.

    Vertices about such a place go to the plane of the face they are nearest to; sides between two planes that differ
    by more than 30° are split where the planes meet, triangles between three where the three do (after Attene,
    Falcidieno, Rossignac and Spagnuolo, "Sharpen & Bend", 2005, with the planes of the source in place of guessed
    ones). Only vertices are added, so it stays closed. About the places ``blunt`` (k, 3) it is left as drawn.
    """
    near = _about_bends(drawn)
    if len(blunt):
        near[near] = cKDTree(blunt).query(drawn.vertices[near], distance_upper_bound=_REACH * pitch)[0] == np.inf
    if not near.any():
        return drawn
    points, normals, known = _planes(drawn, source, near, pitch)
    edges = edges_of(drawn)
    ends = edges.ends
    split = known[ends].all(axis=1)
    turn = np.einsum("ij,ij->i", normals[ends[:, 0]], normals[ends[:, 1]])
    split &= (turn < _SHARP) & (turn > _FLAT - 1)
    chosen = np.flatnonzero(split)
    middle = points[ends[chosen]].mean(axis=1)
    meets = _where_planes_meet(middle, points[ends[chosen]], normals[ends[chosen]])
    fine = np.linalg.norm(meets - middle, axis=1) < _REACH * pitch
    chosen, meets = chosen[fine], meets[fine]
    number = np.full(len(ends), -1)
    number[chosen] = len(points) + np.arange(len(chosen))
    of_side = number[edges.of_half].reshape(-1, 3)
    whole = np.flatnonzero((of_side >= 0).all(axis=1))
    corners = drawn.faces[whole]
    centre = points[corners].mean(axis=1)
    tips = _where_planes_meet(centre, points[corners], normals[corners])
    fine = np.linalg.norm(tips - centre, axis=1) < _REACH * pitch
    tip = np.full(len(drawn.faces), -1)
    tip[whole[fine]] = len(points) + len(chosen) + np.arange(int(fine.sum()))
    return Mesh(np.concatenate([points, meets, tips[fine]]), _cut(drawn.faces, of_side, tip))


def _about_bends(drawn: Mesh) -> NDArray[np.bool_]:
    """Vertices of faces next to those that bend."""
    edges = edges_of(drawn)
    faces, _ = paired_faces(edges)
    normals = face_normals(drawn)
    bent = np.einsum("ij,ij->i", normals[faces[:, 0]], normals[faces[:, 1]]) < _BENT
    near = np.zeros(len(drawn.vertices), bool)
    near[drawn.faces[faces[bent]]] = True
    for _ in range(2):
        near[drawn.faces[near[drawn.faces].any(axis=1)]] = True
    return near


def _planes(
    drawn: Mesh, source: Mesh, near: NDArray[np.bool_], pitch: float
) -> tuple[Points, Points, NDArray[np.bool_]]:
    """Vertices moved to the face they are nearest to, its normal, and which have one."""
    points, normals = np.array(drawn.vertices), np.zeros_like(drawn.vertices)
    at = np.flatnonzero(near)
    square, face, on = igl.point_mesh_squared_distance(points[at], source.vertices, source.faces.astype(np.int64))
    close = np.asarray(square) < (_AWAY * pitch) ** 2
    at, face, on = at[close], np.asarray(face)[close], np.asarray(on)[close]
    normals[at] = face_normals(source)[face]
    points[at] = on
    known = np.zeros(len(points), bool)
    known[at] = True
    return points, normals, known


def _where_planes_meet(start: Points, on: Points, normals: Points) -> Points:
    """The points (n, 3) nearest to ``start`` of those nearest to n sets of planes through ``on`` (n, k, 3)."""
    off = np.einsum("nkj,nkj->nk", normals, on - start[:, None])
    return start + np.einsum("njk,nk->nj", np.linalg.pinv(normals, rcond=0.2), off)


def _cut(faces: NDArray[np.int32], of_side: Ints, tip: Ints) -> NDArray[np.int32]:
    """Faces (m, 3) cut at the vertices in their sides, (m, 3), from each corner to the next; -1 where there is none,
    and about the one in their middle, (m,)."""
    count = (of_side >= 0).sum(axis=1)
    made = [faces[count == 0]]
    # Turned so that what is told apart comes first.
    for cut in (1, 2):
        here = count == cut
        first = np.argmax(of_side[here] >= 0, axis=1) if cut == 1 else (np.argmin(of_side[here] >= 0, axis=1) + 1) % 3
        turn = (first[:, None] + np.arange(3)) % 3
        (a, b, c), (p, q, _) = (np.take_along_axis(what[here], turn, axis=1).T for what in (faces, of_side))
        parts = [(a, p, c), (p, b, c)] if cut == 1 else [(p, b, q), (a, p, q), (a, q, c)]
        made += [np.stack(part, axis=1) for part in parts]
    for with_tip in (False, True):
        here = (count == 3) & ((tip >= 0) == with_tip)
        (a, b, c), (p, q, r), t = faces[here].T, of_side[here].T, tip[here]
        if with_tip:
            parts = [(a, p, t), (p, b, t), (b, q, t), (q, c, t), (c, r, t), (r, a, t)]
        else:
            parts = [(a, p, r), (p, b, q), (q, c, r), (p, q, r)]
        made += [np.stack(part, axis=1) for part in parts]
    return np.concatenate(made).astype(np.int32)
