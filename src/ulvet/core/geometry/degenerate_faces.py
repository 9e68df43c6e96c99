"""Degenerate faces: those without area, and duplicates."""

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Floats, Mesh, face_cross
from ulvet.core.geometry.topology import connected_groups, edges_of

__all__ = ["drop_faces", "duplicate_faces", "zero_area_faces"]

Mask = NDArray[np.bool_]
_ROUNDS = 8
"""Times that faces without area are dropped; each may leave others."""
_PATIENT = 3
"""Rounds after which the shortest sides of flat faces are joined though they are longer, twice as far each round."""


def zero_area_faces(mesh: Mesh, height: float) -> Mask:
    """Faces whose least height is not above ``height`` mm, (m,)."""
    longest = _side_lengths(mesh).max(axis=1)
    return np.linalg.norm(face_cross(mesh), axis=1) <= height * longest


def duplicate_faces(mesh: Mesh) -> Mask:
    """Mark (m,) every face whose three vertices an earlier face already joins, in either direction."""
    if not len(mesh.faces):
        return np.zeros(0, bool)
    corners = np.sort(mesh.faces, axis=1)
    order = np.lexsort(corners.T)
    again = np.zeros(len(order), bool)
    again[order[1:]] = (corners[order[1:]] == corners[order[:-1]]).all(axis=1)
    return again


def drop_faces(mesh: Mesh, height: float) -> tuple[Mesh, dict[str, int]]:
    """Without zero-area and doubled faces, and how many of each went.

    Closed surfaces stay closed. A face with a side not above ``height`` is closed up by joining that side's
    ends; a face with a corner on its longest side gives that corner to the neighbour across, which is split
    there. So no vertex moves farther than ``height`` mm, except along chains of such sides; where flat faces lie about
    each other so that no split settles them, it is up to 32 times as far.
    """
    counts = {"zero-area": int(zero_area_faces(mesh, height).sum()), "doubled": 0}
    for number in range(_ROUNDS):
        if not zero_area_faces(mesh, height).any():
            break
        mesh = _split_at_corners(_join_short_sides(mesh, height, number), height)
    again = zero_area_faces(mesh, height)
    mesh = _keep(mesh, ~again)
    doubled = duplicate_faces(mesh)
    counts["doubled"] = int(doubled.sum())
    return _keep(mesh, ~doubled), counts


def _side_lengths(mesh: Mesh) -> Floats:
    corners = mesh.vertices[mesh.faces]
    return np.asarray(np.linalg.norm(np.roll(corners, -1, axis=1) - corners, axis=2))


def _join_short_sides(mesh: Mesh, height: float, number: int) -> Mesh:
    lengths = _side_lengths(mesh)
    short = lengths <= height
    if number >= _PATIENT:
        short |= (lengths <= height * 2 ** (number + 1 - _PATIENT)) & (lengths == lengths.min(axis=1)[:, None])
    # Only sides of faces without area, so that fine detail elsewhere is never joined.
    short &= zero_area_faces(mesh, height)[:, None]
    sides = np.stack([mesh.faces, np.roll(mesh.faces, -1, axis=1)], axis=2)[short].astype(np.int64)
    count, group = connected_groups(len(mesh.vertices), sides)
    first = np.full(count, len(mesh.vertices), np.int64)
    np.minimum.at(first, group, np.arange(len(mesh.vertices)))
    faces = group[mesh.faces].astype(np.int32)
    whole = (faces != np.roll(faces, -1, axis=1)).all(axis=1)
    return Mesh(mesh.vertices[first], faces[whole])


def _split_at_corners(mesh: Mesh, height: float) -> Mesh:
    """Replace each flat face and the neighbour across its longest side by the neighbour split in two."""
    flat = np.flatnonzero(zero_area_faces(mesh, height))
    if not len(flat):
        return mesh
    edges = edges_of(mesh)
    half = 3 * flat + _side_lengths(mesh)[flat].argmax(axis=1)
    edge = edges.of_half[half]
    order = np.argsort(edges.of_half, kind="stable")
    begin = np.searchsorted(edges.of_half[order], edge)
    pair = order[np.minimum(begin[:, None] + [0, 1], len(order) - 1)]
    across = np.where(pair[:, 0] == half, pair[:, 1], pair[:, 0])
    able = (edges.uses[edge] == 2) & (edges.forward[half] != edges.forward[across])
    half, across = half[able], across[able]
    # Each face is replaced once a round, by the first that asks: the rest waits for the next.
    asked = np.stack([half // 3, across // 3])
    first = np.full(len(mesh.faces), len(half))
    np.minimum.at(first, asked, np.broadcast_to(np.arange(len(half)), asked.shape))
    able = (first[asked] == np.arange(len(half))).all(axis=0)
    half, across = half[able], across[able]
    face, k = across // 3, across % 3
    start, end, apex = (mesh.faces[face, (k + turn) % 3] for turn in range(3))
    corner = mesh.faces[half // 3, (half % 3 + 2) % 3]
    kept = np.ones(len(mesh.faces), bool)
    kept[half // 3] = kept[face] = False
    split = np.concatenate([np.stack([start, corner, apex], 1), np.stack([corner, end, apex], 1)])
    return Mesh(mesh.vertices, np.concatenate([mesh.faces[kept], split]))


def _keep(mesh: Mesh, kept: Mask) -> Mesh:
    faces = mesh.faces[kept]
    used = np.zeros(len(mesh.vertices), bool)
    used[faces.ravel()] = True
    return Mesh(mesh.vertices[used], (np.cumsum(used) - 1)[faces].astype(np.int32))
