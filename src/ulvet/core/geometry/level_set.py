"""Marching tetrahedra over some nodes of a grid."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Floats, Mesh, Points

__all__ = ["level_set"]

Ints = NDArray[np.int64]

_CORNERS = np.array([(x, y, z) for x in (0, 1) for y in (0, 1) for z in (0, 1)], np.int64)
# The six tetrahedra round the diagonal of a cube (Kuhn 1960): neighbours share whole faces, so nothing is left open.
_TETRAHEDRA = np.array([(0, 3, 1, 7), (0, 2, 3, 7), (0, 6, 2, 7), (0, 4, 6, 7), (0, 5, 4, 7), (0, 1, 5, 7)])
_NEAR_CORNER = 1e-3
"""Share of a grid edge that a cut keeps from its ends, so that no triangle has none of its height."""


def level_set(
    nodes: Ints, values: NDArray[np.floating[Any]], pitch: float, origin: Points, banded: bool = False
) -> Mesh:
    """The closed surface round the nodes below zero, by marching tetrahedra (Doi and Koide 1991).

    ``nodes`` (n, 3) are whole numbers of steps of ``pitch`` mm from ``origin`` (3,), ``values`` (n,) what the function
    is there; all other nodes count as above zero, or with ``banded`` as far from the surface, on the side of what is
    next to them. Every edge of the surface has two faces.
    """
    low = nodes.min(axis=0) - 1
    shape = nodes.max(axis=0) - low + 2
    key = np.ravel_multi_index(tuple((nodes - low).T), tuple(shape))
    order = np.argsort(key)
    key, values = key[order], values[order]
    step = np.ravel_multi_index(tuple(_CORNERS.T), tuple(shape))
    inside = key[values < 0]
    cells = np.unique((inside[:, None] - step).ravel())
    at = cells[:, None] + step
    place = np.minimum(np.searchsorted(key, at), len(key) - 1)
    known = key[place] == at
    value = np.where(known, values[place], pitch)
    if banded:
        value[~known.all(axis=1)] = pitch
    crossed = (value < 0).any(axis=1) & (value >= 0).any(axis=1)
    at, value = at[crossed][:, _TETRAHEDRA].reshape(-1, 4), value[crossed][:, _TETRAHEDRA].reshape(-1, 4)
    starts, ends, share = _cut_edges(at, value)
    unique, index = np.unique(starts * np.int64(np.prod(shape)) + ends, return_index=True)
    faces = np.searchsorted(unique, starts * np.int64(np.prod(shape)) + ends).reshape(-1, 3)
    a = np.stack(np.unravel_index(starts[index], tuple(shape)), axis=1)
    b = np.stack(np.unravel_index(ends[index], tuple(shape)), axis=1)
    points = (a + (b - a) * share[index][:, None] + low) * pitch + origin
    return Mesh(points, faces.astype(np.int32))


def _cut_edges(at: Ints, value: Floats) -> tuple[Ints, Ints, Floats]:
    """Three cut edges a triangle, one after the other: the lower node, the higher, and how far between they are cut."""
    count = (value < 0).sum(axis=1)
    triangles = []
    for number in (1, 2, 3):
        here = count == number
        corner, v = at[here], value[here]
        # Those inside first, keeping the turn of the tetrahedron: an odd swap is undone at the far end.
        ranked = np.argsort(v >= 0, axis=1, kind="stable")
        odd = _is_odd(ranked)
        corner, v = np.take_along_axis(corner, ranked, axis=1), np.take_along_axis(v, ranked, axis=1)
        if number == 1:
            cuts = [((0, 1), (0, 2), (0, 3))]
        elif number == 3:
            cuts = [((3, 0), (3, 1), (3, 2))]
        else:
            cuts = [((0, 2), (0, 3), (1, 3)), ((0, 2), (1, 3), (1, 2))]
        for cut in cuts:
            edges = np.stack([corner[:, pair] for pair in cut], axis=1)
            ends = np.stack([v[:, pair] for pair in cut], axis=1)
            edges[odd], ends[odd] = edges[odd][:, ::-1], ends[odd][:, ::-1]
            triangles.append((edges, ends))
    edges = np.concatenate([edge for edge, _ in triangles]).reshape(-1, 2)
    ends = np.concatenate([end for _, end in triangles]).reshape(-1, 2)
    swap = edges[:, 0] > edges[:, 1]
    edges[swap], ends[swap] = edges[swap][:, ::-1], ends[swap][:, ::-1]
    share = np.clip(ends[:, 0] / (ends[:, 0] - ends[:, 1]), _NEAR_CORNER, 1 - _NEAR_CORNER)
    return edges[:, 0], edges[:, 1], share


def _is_odd(order: Ints) -> NDArray[np.bool_]:
    """Whether orders of four (n, 4) take an odd number of swaps."""
    swaps = [order[:, i] > order[:, j] for i in range(4) for j in range(i + 1, 4)]
    return np.asarray(np.sum(swaps, axis=0) % 2 == 1)
