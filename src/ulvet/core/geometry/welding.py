"""Joining corners that lie at the same place into shared vertices."""

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulvet.core.geometry.mesh import Faces, Mesh, Points
from ulvet.core.geometry.topology import connected_groups
from ulvet.core.kernels import kernel, typed

__all__ = ["weld_corners", "weld_within"]

_u32, _u64 = typed.uint32, typed.uint64
_i32, _i64 = typed.int32, typed.int64


def weld_corners(corners: NDArray[np.float32]) -> tuple[Points, Faces]:
    """Shared vertices of loose float32 triangles (m, 9), joining exactly equal coordinates.

    An open-addressing hash of the coordinate bits finds candidates; the coordinates themselves are
    compared, so that equal hashes of different points never join. Vertices keep the order of first use.
    """
    points, faces = _weld(corners.reshape(-1).view(np.uint32))
    return points.view(np.float32).astype(np.float64), faces.reshape(-1, 3)


def weld_within(mesh: Mesh, distance: float) -> tuple[Mesh, int]:
    """Join vertices no farther apart than ``distance`` mm into the first of each group, and count those removed.

    Chains join too: a row of near vertices becomes one. Faces are kept, also where they lose area.
    """
    if distance > 0:
        pairs = cKDTree(mesh.vertices).query_pairs(distance, output_type="ndarray").astype(np.int64)
        count, group = connected_groups(len(mesh.vertices), pairs)
        first = np.full(count, len(mesh.vertices), np.int64)
        np.minimum.at(first, group, np.arange(len(mesh.vertices)))
    else:
        _, first, inverse = np.unique(mesh.vertices + 0.0, axis=0, return_index=True, return_inverse=True)
        order = np.argsort(first, kind="stable")
        rank = np.empty_like(order)
        rank[order] = np.arange(len(order))
        first, group, count = first[order], rank[inverse.reshape(-1)], len(first)
    welded = Mesh(mesh.vertices[first], group[mesh.faces].astype(np.int32))
    return welded, len(mesh.vertices) - count


@kernel(_u32(_u32))
def _plain(bits):  # type: ignore[no-untyped-def]
    # -0.0 and 0.0 are one place.
    return _u32(0) if bits == _u32(0x80000000) else bits


@kernel(_i64(_u32, _u32, _u32, _i64))
def _slot(x, y, z, size):  # type: ignore[no-untyped-def]
    # Two rounds of the MurmurHash3 finaliser over the mixed words.
    h = _u64(x) * _u64(0x9E3779B97F4A7C15) ^ _u64(y) * _u64(0xC2B2AE3D27D4EB4F)
    h ^= _u64(z) * _u64(0x165667B19E3779F9)
    h ^= h >> _u64(33)
    h *= _u64(0xFF51AFD7ED558CCD)
    h ^= h >> _u64(33)
    return _i64(h & _u64(size - 1))


@kernel(typed.Tuple((_u32[:, ::1], _i32[::1]))(typed.Array(_u32, 1, "C", readonly=True)))
def _weld(bits):  # type: ignore[no-untyped-def]  # compiled: the signature above is its type
    corners = len(bits) // 3
    # A closed mesh has half as many vertices as faces, a sixth of its corners.
    size = 1024
    while size < corners // 2:
        size *= 2
    table = np.full(size, -1, np.int32)
    # Kept side by side: looking a corner up among the corners would miss the processor's cache twice.
    points = np.empty((max(corners // 5, 64), 3), np.uint32)
    index = np.empty(corners, np.int32)
    count = 0
    for corner in range(corners):
        x, y, z = (
            _plain(bits[3 * corner]),
            _plain(bits[3 * corner + 1]),
            _plain(bits[3 * corner + 2]),
        )
        slot = _slot(x, y, z, size)
        while True:
            vertex = table[slot]
            if vertex < 0:
                if count == len(points):
                    larger = np.empty((2 * count, 3), np.uint32)
                    larger[:count] = points
                    points = larger
                table[slot] = count
                points[count, 0], points[count, 1], points[count, 2] = x, y, z
                index[corner] = count
                count += 1
                break
            if points[vertex, 0] == x and points[vertex, 1] == y and points[vertex, 2] == z:
                index[corner] = vertex
                break
            slot = (slot + 1) & (size - 1)
        if 2 * count > size:
            size *= 2
            table = np.full(size, -1, np.int32)
            for vertex in range(count):
                slot = _slot(points[vertex, 0], points[vertex, 1], points[vertex, 2], size)
                while table[slot] >= 0:
                    slot = (slot + 1) & (size - 1)
                table[slot] = vertex
    return points[:count].copy(), index
