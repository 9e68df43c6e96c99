"""Supports as meshes: tapered columns, their feet, and the bars that join the feet."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.sparse.csgraph import minimum_spanning_tree
from scipy.spatial import cKDTree
from scipy.spatial.distance import cdist

from ulvet.core.geometry.mesh import Floats, Mesh, Points, concatenated

__all__ = ["Column", "column_mesh", "supports_mesh"]

_SIDES = 10
"""Sides of a column."""
_BAR_WIDTH = 1.2
"""Width (mm) of a bar on the plate (bench default)."""
_BAR_REACH = 9.0
"""Millimetres between feet that a bar joins (bench default)."""
_MOST_NEIGHBOURS = 4
"""Feet that one foot is joined to."""


@dataclass(frozen=True)
class Column:
    """One support: its axis (p, 3) from inside the figure's skin down, a radius (p,) at every place, and the radius
    of its foot on the plate, 0 when it stands on the figure."""

    axis: Points
    radii: Floats
    foot: float


def column_mesh(axis: Points, radii: Floats) -> Mesh:
    """A closed tube of ten sides about ``axis`` (p, 3), from its head down, with a radius (p,) at every place.

    Each ring lies across the mean of the two pieces it joins; the last lies level.
    """
    pieces = np.diff(axis, axis=0)
    pieces /= np.linalg.norm(pieces, axis=1)[:, None]
    across = np.concatenate([pieces[:1], pieces[:-1] + pieces[1:], pieces[-1:]])
    across /= np.linalg.norm(across, axis=1)[:, None]
    across[-1] = [0, 0, -1]
    first = np.array([1.0, 0, 0]) - across[:, :1] * across
    first /= np.linalg.norm(first, axis=1)[:, None]
    second = np.cross(across, first)
    angle = np.arange(_SIDES) * 2 * np.pi / _SIDES
    ring = np.cos(angle)[None, :, None] * first[:, None] + np.sin(angle)[None, :, None] * second[:, None]
    vertices = (axis[:, None] + ring * radii[:, None, None]).reshape(-1, 3)
    here = np.arange(len(axis) - 1)[:, None] * _SIDES + np.arange(_SIDES)
    beside = np.arange(len(axis) - 1)[:, None] * _SIDES + np.roll(np.arange(_SIDES), -1)
    below, below_beside = here + _SIDES, beside + _SIDES
    sides = np.concatenate([np.stack(t, axis=2).reshape(-1, 3) for t in (
        (here, beside, below), (beside, below_beside, below))])  # fmt: skip
    head, foot = len(vertices), len(vertices) + 1
    last = (len(axis) - 1) * _SIDES
    ring_ids = np.arange(_SIDES)
    next_ids = np.roll(ring_ids, -1)
    caps = np.concatenate([
        np.stack([np.full(_SIDES, head), next_ids, ring_ids], axis=1),
        np.stack([np.full(_SIDES, foot), last + ring_ids, last + next_ids], axis=1),
    ])  # fmt: skip
    faces = np.concatenate([sides, caps]).astype(np.int32)
    return Mesh(np.concatenate([vertices, axis[:1], axis[-1:]]), faces)


def _bars_mesh(feet: Points, thickness: float) -> list[Mesh]:
    """Level bars on the plate between neighbouring feet (f, 2), so that all hang together.

    The tree that joins all with the least length, and every pair of near neighbours.
    """
    if len(feet) < 2:
        return []
    tree = minimum_spanning_tree(cdist(feet, feet) + 1e-9).tocoo()
    pairs = {(int(min(a, b)), int(max(a, b))) for a, b in zip(tree.row, tree.col, strict=True)}
    near = min(_MOST_NEIGHBOURS, len(feet) - 1)
    distance, other = cKDTree(feet).query(feet, k=near + 1)
    for a, (lengths, others) in enumerate(zip(distance, other, strict=True)):
        pairs |= {(min(a, int(b)), max(a, int(b))) for d, b in zip(lengths, others, strict=True) if d <= _BAR_REACH}
    return [_bar(feet[a], feet[b], thickness) for a, b in sorted(pairs) if a != b and (feet[a] != feet[b]).any()]


def supports_mesh(columns: Sequence[Column], raft: float, with_bars: bool) -> Mesh | None:
    """All columns, those that end on the plate with feet, and bars between the feet if wanted."""
    if not columns:
        return None
    meshes, feet = [], []
    for column in columns:
        axis, radii = column.axis, column.radii
        if column.foot:
            axis, radii = _footed(column, raft)
            feet.append(axis[-1, :2])
        meshes.append(column_mesh(axis, radii))
    bars = _bars_mesh(np.array(feet).reshape(-1, 2), raft) if with_bars else []
    whole = concatenated(*meshes, *bars)
    # A slanting ring close to the plate would reach through it.
    return Mesh(np.maximum(whole.vertices, [-np.inf, -np.inf, 0]), whole.faces)


def _footed(column: Column, raft: float) -> tuple[Points, Floats]:
    """The column with a foot as thick as the raft, tapering into the column over as much again."""
    axis, radii = column.axis, column.radii
    height = axis[-2, 2]
    rise = min(2 * raft, 0.6 * height)
    ground, above = axis[-1], axis[-1] + (axis[-2] - axis[-1]) * rise / height
    return (
        np.concatenate([axis[:-1], [above, (ground + above) / 2, ground]]),
        np.concatenate([radii[:-1], [radii[-1], 0.9 * column.foot, column.foot]]),
    )


def _bar(a: Points, b: Points, thickness: float) -> Mesh:
    along = (b - a) / np.linalg.norm(b - a)
    aside = np.array([-along[1], along[0]])
    corners = []
    # Narrower at the top, so that a scraper slides under and over it.
    for z, half in ((0.0, _BAR_WIDTH / 2), (thickness, 0.35 * _BAR_WIDTH)):
        corners += [[*(end + side * half * aside), z] for end in (a, b) for side in (-1, 1)]
    quads = [(0, 1, 3, 2), (4, 6, 7, 5), (0, 2, 6, 4), (1, 5, 7, 3), (0, 4, 5, 1), (2, 3, 7, 6)]
    faces = [half for p, q, r, s in quads for half in ((p, q, r), (p, r, s))]
    return Mesh(np.array(corners), np.array(faces, np.int32))
