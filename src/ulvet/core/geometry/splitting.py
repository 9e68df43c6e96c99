"""Faces cut at the middles of their edges, without leaving a gap."""

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Mesh, Points
from ulvet.core.geometry.topology import Edges, edges_of

__all__ = ["split_edges", "split_longer"]

Ints = NDArray[np.int64]


def split_edges(mesh: Mesh, edges: Edges, split: NDArray[np.bool_], middles: Points) -> Mesh:
    """Every face cut at the middles of its split edges: into two, three or four; new corners come behind the old.

    ``split`` (e,) says which edges, ``middles`` (s, 3) where each of those is cut.
    """
    number = np.cumsum(split) - 1 + len(mesh.vertices)
    at = np.where(split[edges.of_half], number[edges.of_half], -1).reshape(-1, 3)
    cuts = (at >= 0).sum(axis=1)
    faces = [mesh.faces[cuts == 0].astype(np.int64)]
    corners = mesh.faces.astype(np.int64)
    # One cut: turned so that it is on the first edge. Two: so that the whole edge is the last.
    f, m = _turned(corners[cuts == 1], at[cuts == 1], lambda k: k >= 0)
    faces += [np.stack([f[:, 0], m[:, 0], f[:, 2]], 1), np.stack([m[:, 0], f[:, 1], f[:, 2]], 1)]
    f, m = _turned(corners[cuts == 2], at[cuts == 2], lambda k: k < 0)
    f, m = np.roll(f, -1, axis=1), np.roll(m, -1, axis=1)
    faces += [
        np.stack([f[:, 1], m[:, 1], m[:, 0]], 1),
        np.stack([f[:, 0], m[:, 0], m[:, 1]], 1),
        np.stack([f[:, 0], m[:, 1], f[:, 2]], 1),
    ]
    f, m = corners[cuts == 3], at[cuts == 3]
    faces += [
        np.stack([f[:, 0], m[:, 0], m[:, 2]], 1),
        np.stack([m[:, 0], f[:, 1], m[:, 1]], 1),
        np.stack([m[:, 2], m[:, 1], f[:, 2]], 1),
        m,
    ]
    points = np.concatenate([mesh.vertices, middles])
    return Mesh(points, np.concatenate(faces).astype(np.int32))


def split_longer(mesh: Mesh, longest: float, rims: bool = True) -> tuple[Mesh, Edges]:
    """The same surface with no edge over ``longest`` mm, of its open ``rims`` only where they may be split; and its
    edges."""
    while True:
        edges = edges_of(mesh)
        ends = mesh.vertices[edges.ends]
        split = np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1) > longest
        split &= rims | ~edges.open
        if not split.any():
            return mesh, edges
        mesh = split_edges(mesh, edges, split, ends[split].mean(axis=1))


def _turned(corners: Ints, middles: Ints, first) -> tuple[Ints, Ints]:  # type: ignore[no-untyped-def]  # a test of middles
    """Faces turned so that the edge whose middle passes a test is their first."""
    turn = first(middles).argmax(axis=1) if len(middles) else np.empty(0, np.int64)
    places = (turn[:, None] + np.arange(3)) % 3
    return np.take_along_axis(corners, places, axis=1), np.take_along_axis(middles, places, axis=1)
