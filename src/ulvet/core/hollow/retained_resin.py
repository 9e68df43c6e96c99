"""Resin that stays in a part when it runs out: what lies deeper than every way out."""

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import find_objects, label

from ulvet.core.geometry.mesh import Mesh, Points, bounds
from ulvet.core.geometry.voxels import ASKEW, surface_distances, winding_depths
from ulvet.core.hollow.opening_proposals import LEAST_DIAMETER
from ulvet.core.kernels import kernel, typed
from ulvet.core.recipe.stance import turn_to

__all__ = ["Pool", "pools_in", "resin_cell"]

_IN_AN_OPENING = 4
"""Cells across the smallest opening."""
_MOST_CELLS = 40_000_000
"""Cells of the grid, for memory."""
_NEAR = 0.5
"""Steps from the surface within which a cell lets nothing through."""
_BAND = 1.5
"""Steps from the surface as far as it is known: a cell with more air below it has a free one there."""
_PARTS = 8
"""Parts of a cell's height in which brims are told apart."""
_TOLD_ML = 0.02
"""Millilitres from which a pool is told (bench default)."""


@dataclass(frozen=True)
class Pool:
    """Resin that stays in one place, ml, and the place in it that is deepest, mm."""

    millilitres: float
    point: Points


def resin_cell(mesh: Mesh, least_opening: float = LEAST_DIAMETER) -> float:
    """The side of a cell, mm: a quarter of the smallest opening, or as much coarser as memory asks."""
    cell = least_opening / _IN_AN_OPENING
    return float(max(cell, (float(np.prod(np.ptp(bounds(mesh), axis=0) + 4 * cell)) / _MOST_CELLS) ** (1 / 3)))


def pools_in(mesh: Mesh, down: Points, cell: float, told: float = _TOLD_ML) -> list[Pool]:
    """Where resin stays in a part, in print mm, that is held so that ``down`` (3,) points down; the most first.

    A cell keeps its resin up to the brim of its lowest way out, over all 26 neighbours; air comes in freely. Cells that
    the surface passes let nothing through; they count for the share of them that is empty.
    """
    if not len(mesh.faces):
        return []
    turn = turn_to(-np.asarray(down, float) / np.linalg.norm(down))
    turned = np.ascontiguousarray(mesh.vertices @ turn.T)
    origin = turned.min(axis=0) - (2 - ASKEW) * cell
    shape = np.ceil((turned.max(axis=0) - origin) / cell).astype(np.int64) + 3
    corners = np.ascontiguousarray((turned[mesh.faces] - origin) / cell)
    air = np.minimum(surface_distances(corners, shape, _BAND), np.float32(_BAND))
    air[winding_depths(corners, shape) > 0] *= -1
    brim = np.full(tuple(shape), -1, np.int32)
    _lowest_ways_out(air, brim)
    resin = np.zeros(tuple(shape), np.float32)
    _fill(air, brim, resin)
    groups, count = label(resin > 0, np.ones((3, 3, 3), bool))
    sizes = np.bincount(groups.ravel(), resin.ravel(), minlength=count + 1)[1:] * cell**3 / 1000
    found = find_objects(groups)
    pools = []
    for number in np.flatnonzero(sizes >= told):
        box = found[number]
        at = np.argwhere(groups[box] == number + 1) + [side.start for side in box]
        deepest = at[at[:, 2] == at[:, 2].min()].mean(axis=0)
        pools.append(Pool(float(sizes[number]), (deepest * cell + origin) @ turn))
    return sorted(pools, key=lambda pool: -pool.millilitres)


_air, _brim = typed.float32[:, :, ::1], typed.int32[:, :, ::1]


@kernel(typed.void(_air, _brim))
def _lowest_ways_out(air, brim):  # type: ignore[no-untyped-def]  # compiled: the signature above is its type
    # The lowest brim between each cell and the outside, taken brim by brim from below (the flooding of Barnes et al.
    # 2014), so that a cell is reached over its lowest way first. What is passed at a cell lies as far below its middle
    # as the surface is away. Cells reached over one brim are a list.
    nx, ny, nz = air.shape
    following = np.full(nx * ny * nz, -1, np.int32)
    first = np.full((nz + 2) * _PARTS, -1, np.int32)
    for i in range(nx):
        for j in range(ny):
            for k in range(nz):
                on_border = i == 0 or j == 0 or k == 0 or i == nx - 1 or j == ny - 1 or k == nz - 1
                if on_border and air[i, j, k] > _NEAR:
                    brim[i, j, k] = 0
                    cell = (i * ny + j) * nz + k
                    following[cell] = first[0]
                    first[0] = cell
    for height in range(len(first)):
        while first[height] >= 0:
            cell = first[height]
            first[height] = following[cell]
            i, j, k = cell // (ny * nz), cell // nz % ny, cell % nz
            for a in range(max(i - 1, 0), min(i + 2, nx)):
                for b in range(max(j - 1, 0), min(j + 2, ny)):
                    for c in range(max(k - 1, 0), min(k + 2, nz)):
                        if brim[a, b, c] >= 0 or air[a, b, c] <= _NEAR:
                            continue
                        over = max(height, round((c - air[a, b, c]) * _PARTS))
                        brim[a, b, c] = over
                        other = (a * ny + b) * nz + c
                        following[other] = first[over]
                        first[over] = other


@kernel(typed.void(_air, _brim, typed.float32[:, :, ::1]))
def _fill(air, brim, resin):  # type: ignore[no-untyped-def]
    # The share of each cell that resin fills: up to the brim, and where the surface passes, beside a cell with resin,
    # as much of it as is empty. What is never reached from outside is full.
    nx, ny, nz = air.shape
    full = nz * _PARTS
    for i in range(1, nx - 1):
        for j in range(1, ny - 1):
            for k in range(1, nz - 1):
                height = -1
                if air[i, j, k] > _NEAR:
                    height = full if brim[i, j, k] < 0 else brim[i, j, k]
                elif air[i, j, k] > -_NEAR:
                    for n in range(27):
                        a, b, c = i + n // 9 - 1, j + n // 3 % 3 - 1, k + n % 3 - 1
                        if air[a, b, c] > _NEAR:
                            beside = full if brim[a, b, c] < 0 else brim[a, b, c]
                            if beside > (c - 0.5) * _PARTS:
                                height = max(height, beside)
                depth = height / _PARTS - (k - 0.5)
                if depth > 0:
                    resin[i, j, k] = min(depth, 1.0) * min(air[i, j, k] + 0.5, 1.0)
