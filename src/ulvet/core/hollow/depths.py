"""How deep the nodes of a grid lie inside a solid, exact to a small share of the grid's pitch."""

import edt
import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Floats, Mesh, Points
from ulvet.core.geometry.voxels import winding_depths
from ulvet.core.kernels import THREADS, kernel, typed

__all__ = ["depths_inside"]

_SPACING = 0.7
"""Steps between samples of the skin: what lies half of that aside of one is farther by 0.6 % of a step at a depth of
ten."""
_ROUNDS = 2
"""Sweeps there and back: after one a node may be off by 0.8 of a step on a ball of facets, after two by 0.4, after more
by no less."""
_OFF = 2.0
"""Steps by which the distance between nodes may be off."""


def depths_inside(
    mesh: Mesh, pitch: float, origin: Points, shape: NDArray[np.int64], most: float
) -> NDArray[np.float32]:
    """Distance of every node from the surface where it is inside, mm, else 0; infinite where it is clearly more than
    ``most`` mm. The grid has two nodes about the mesh on every side.

    The nearest sample of the surface is handed on from node to node (Danielsson 1980; the vectors of all 26
    neighbours, there and back), as deep as distances between nodes say that it is needed.
    """
    corners = np.ascontiguousarray((mesh.vertices[mesh.faces] - origin) / pitch)
    solid = winding_depths(corners, shape) > 0
    depth = edt.edt(solid, black_border=True, parallel=THREADS)
    near = solid & (depth < most / pitch + _OFF)
    samples = _samples((mesh.vertices - origin) / pitch, corners)
    depth[solid] = np.inf
    nearest = np.full(solid.shape, -1, np.int32)
    _seed(samples, near, nearest, depth)
    for back in (False, True) * _ROUNDS:
        _sweep(samples, near, nearest, depth, back)
    depth *= np.float32(pitch)
    return depth


def _samples(vertices: Points, corners: Floats) -> Points:
    """Points all over a surface: its vertices, and a lattice in every triangle with a longer side than the spacing."""
    a, b, c = (corners[:, k] for k in range(3))
    sides = [np.einsum("ij,ij->i", side, side) for side in (b - a, c - b, a - c)]
    parts = np.ceil(np.sqrt(np.maximum(np.maximum(sides[0], sides[1]), sides[2])) / _SPACING).astype(np.int64)
    found = [vertices]
    for number in np.unique(parts[parts > 1]):
        i, j = np.meshgrid(np.arange(number + 1), np.arange(number + 1), indexing="ij")
        i, j = i[i + j <= number], j[i + j <= number]
        shares = np.stack([i, j, number - i - j], axis=1) / number
        found.append((shares @ corners[parts == number]).reshape(-1, 3))
    return np.ascontiguousarray(np.concatenate(found))


_points = typed.Array(typed.float64, 2, "C")
_solid, _nearest, _depth = typed.boolean[:, :, ::1], typed.int32[:, :, ::1], typed.float32[:, :, ::1]


@kernel(typed.void(_points, _solid, _nearest, _depth))
def _seed(samples, solid, nearest, depth):  # type: ignore[no-untyped-def]  # compiled: the signature above is its type
    nx, ny, nz = solid.shape
    for s in range(len(samples)):
        x, y, z = samples[s, 0], samples[s, 1], samples[s, 2]
        for i in range(max(int(np.floor(x)), 0), min(int(np.floor(x)) + 2, nx)):
            for j in range(max(int(np.floor(y)), 0), min(int(np.floor(y)) + 2, ny)):
                for k in range(max(int(np.floor(z)), 0), min(int(np.floor(z)) + 2, nz)):
                    if not solid[i, j, k]:
                        continue
                    d = np.sqrt((i - x) ** 2 + (j - y) ** 2 + (k - z) ** 2)
                    if nearest[i, j, k] < 0 or d < depth[i, j, k]:
                        nearest[i, j, k] = s
                        depth[i, j, k] = d


@kernel(typed.void(_points, _solid, _nearest, _depth, typed.boolean))
def _sweep(samples, near, nearest, depth, back):  # type: ignore[no-untyped-def]
    # Each node asks the thirteen neighbours that come before it in the sweep for their nearest sample. No node on the
    # border of the grid is near.
    nx, ny, nz = near.shape
    way = -1 if back else 1
    beside = np.empty((13, 3), np.int64)
    for n in range(13):
        beside[n, 0], beside[n, 1], beside[n, 2] = way * (n // 9 - 1), way * (n // 3 % 3 - 1), way * (n % 3 - 1)
    for a in range(nx):
        i = nx - 1 - a if back else a
        for b in range(ny):
            j = ny - 1 - b if back else b
            for c in range(nz):
                k = nz - 1 - c if back else c
                if not near[i, j, k]:
                    continue
                best = nearest[i, j, k]
                least = depth[i, j, k] ** 2 if best >= 0 else np.inf
                asked = best
                for n in range(13):
                    s = nearest[i + beside[n, 0], j + beside[n, 1], k + beside[n, 2]]
                    if s < 0 or s in (asked, best):
                        continue
                    asked = s
                    x, y, z = i - samples[s, 0], j - samples[s, 1], k - samples[s, 2]
                    d = x * x + y * y + z * z
                    if d < least:
                        least = d
                        best = s
                nearest[i, j, k] = best
                depth[i, j, k] = np.sqrt(least)
