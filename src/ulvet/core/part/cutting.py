"""A part cut by a plane into pieces."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulvet.core.geometry.mesh import Floats, Mesh, Points, bounds, concatenated, face_cross, volume
from ulvet.core.geometry.plane_cut import beyond_plane, cut_at_plane, hanging_together
from ulvet.core.geometry.solids import body_of
from ulvet.core.geometry.topology import connected_groups, without_unused_vertices

__all__ = ["CannotPart", "PartedMesh", "PassesBy", "parted_at_plane", "shells_apart"]

_SAMPLES = 200
"""Vertices of a shell by which is told to which piece it is nearest."""
_TOUCHING = 1e-6
"""Of the smaller of two pieces: sharing less they only touch."""
Ints = NDArray[np.int64]


class CannotPart(Exception):
    """A cut that cannot be made; the message says why and what to do."""


class PassesBy(CannotPart):
    """A plane that does not go through what was to be cut."""


@dataclass(frozen=True)
class PartedMesh:
    """The pieces on both sides of a cut, the largest first on each, and the point (3,) its plane went through."""

    beyond: tuple[Mesh, ...]
    rest: tuple[Mesh, ...]
    point: Points


def parted_at_plane(mesh: Mesh, point: Points, normal: Points, at: Points | None = None) -> PartedMesh:
    """A mesh cut by the plane through ``point`` (3,) along ``normal`` (3,).

    With ``at`` (3,) only what hangs together beyond the plane and comes nearest to it is cut off. A shell that the
    plane does not touch goes with the piece it is nearest to, as a cavity does with what it lies in. Raises PassesBy
    where the plane does not go through, CannotPart where no flat face closes the cut.
    """
    height, point = beyond_plane(mesh, point, normal)
    off = height > 0
    if not off.any() or off.all():
        raise PassesBy("The cut passes it by: move it until it goes through")
    if at is not None:
        near = np.zeros(len(off), bool)
        near[np.flatnonzero(off)[np.argmin(((mesh.vertices[off] - at) ** 2).sum(axis=1))]] = True
        off = hanging_together(mesh, off, near)
    count, group = _shells(mesh)
    shell, filled = (np.zeros(len(off), np.int64), 1) if count == 1 else _nested_shells(mesh, count, group)
    made = cut_at_plane(mesh, height, off, point, normal, shell)
    if made is None:
        raise CannotPart("It is open or crosses itself where it would be cut: mend it there first, or move the cut")
    sides = [_pieces_apart(side, made.capped) for side in (made.beyond, made.rest)]
    if filled > 1:
        sides = [_one_where_they_meet(pieces) for pieces in sides]
    return PartedMesh(beyond=sides[0], rest=sides[1], point=point)


def _pieces_apart(mesh: Mesh, capped: int) -> tuple[Mesh, ...]:
    """One side of a cut as pieces that hang together, the largest first; ``capped`` of its faces, the last, are of its
    cap."""
    count, group = _shells(mesh)
    cut = np.unique(group[mesh.faces[len(mesh.faces) - capped :, 0]])
    return _taken_apart(mesh, count, group, cut)


def _nested_shells(mesh: Mesh, count: int, group: Ints) -> tuple[Ints, int]:
    """The shell of every vertex, a cavity counted to what it lies in, and how many shells there are then."""
    outer = np.flatnonzero(_volumes(mesh, count, group) > 0)
    if not len(outer):
        return np.zeros(len(group), np.int64), 1
    return _nearest_piece(mesh.vertices, group, count, outer)[group], len(outer)


def _one_where_they_meet(pieces: tuple[Mesh, ...]) -> tuple[Mesh, ...]:
    """Pieces of shells that reach into each other are one: what was one print stays one."""
    bodies = [body_of(piece)[0] for piece in pieces]
    boxes = [bounds(piece) for piece in pieces]
    met = [
        (k, m)
        for k in range(len(pieces))
        for m in range(k + 1, len(pieces))
        if (boxes[k][0] <= boxes[m][1]).all()
        and (boxes[m][0] <= boxes[k][1]).all()
        and abs(float((bodies[k] ^ bodies[m]).volume())) > _TOUCHING * min(volume(pieces[k]), volume(pieces[m]))
    ]
    count, group = connected_groups(len(pieces), np.array(met, np.int64).reshape(-1, 2))
    whole = [
        concatenated(*(piece for piece, of in zip(pieces, group, strict=True) if of == one)) for one in range(count)
    ]
    return tuple(sorted(whole, key=volume, reverse=True))


def shells_apart(mesh: Mesh) -> tuple[Mesh, ...]:
    """Every shell that encloses something by itself, the largest first, with the cavities that lie in it."""
    count, group = _shells(mesh)
    return _taken_apart(mesh, count, group, np.flatnonzero(_volumes(mesh, count, group) > 0))


def _volumes(mesh: Mesh, count: int, group: Ints) -> Floats:
    """What every shell encloses, (count,), six times; less than 0 for a cavity."""
    centre = bounds(mesh).mean(axis=0)
    filled = np.einsum("ij,ij->i", mesh.vertices[mesh.faces[:, 0]] - centre, face_cross(mesh))
    return np.asarray(np.bincount(group[mesh.faces[:, 0]], filled, minlength=count), dtype=float)


def _shells(mesh: Mesh) -> tuple[int, Ints]:
    ends = mesh.faces[:, [0, 1, 1, 2]].reshape(-1, 2).astype(np.int64)
    return connected_groups(len(mesh.vertices), ends)


def _taken_apart(mesh: Mesh, count: int, group: Ints, wanted: Ints) -> tuple[Mesh, ...]:
    """The ``wanted`` shells with the others that go with them, the largest first."""
    if count == 1 or not len(wanted):
        return (mesh,)
    piece = _nearest_piece(mesh.vertices, group, count, wanted)
    of_face = piece[group[mesh.faces[:, 0]]]
    pieces = [without_unused_vertices(Mesh(mesh.vertices, mesh.faces[of_face == one])) for one in wanted]
    return tuple(sorted(pieces, key=volume, reverse=True))


def _nearest_piece(vertices: Points, group: Ints, count: int, cut: Ints) -> Ints:
    """Of every shell (count,) the piece it goes with: itself where it was ``cut``."""
    piece = np.arange(count)
    is_cut = np.isin(group, cut)
    if is_cut.all():
        return piece
    tree, of_cut = cKDTree(vertices[is_cut]), group[is_cut]
    for shell in np.setdiff1d(piece, cut):
        own = np.flatnonzero(group == shell)
        away, nearest = tree.query(vertices[own[:: max(1, len(own) // _SAMPLES)]])
        piece[shell] = of_cut[nearest[np.argmin(away)]]
    return piece
