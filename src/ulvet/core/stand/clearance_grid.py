"""The air about a figure: how far every place is from it, and the way down to the plate from there."""

from dataclasses import dataclass

import edt
import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Floats, Points
from ulvet.core.kernels import THREADS, kernel, typed
from ulvet.core.layers.raster import LayerStack

__all__ = ["ClearanceGrid", "clearance_grid_of"]

_FINEST = 0.25
"""Pitch (mm) of the grid at the finest (bench default)."""
_MOST_CELLS = 16_000_000
"""Cells of the grid, for memory."""
_SIDE = 6.0  # mm of air kept beside the figure
_LEANING = 1.8  # what a step down and sideways costs, against 1 straight down
_SLANTING = 2.6
"""Cost of a step aslant both ways, against one straight down (bench default)."""
_BLOCKED = np.float32(1e9)
"""Cost of a cell from which no way leads down."""
Float32s = NDArray[np.float32]
_f4 = typed.Array(typed.float32, 3, "C", readonly=True)
_i1 = typed.Array(typed.int8, 3, "C", readonly=True)


@dataclass(frozen=True)
class ClearanceGrid:
    """A grid over the plate: cell (k, j, i) has its middle at ``origin`` + (i + ½, j + ½, k + ½) ``pitch``, print mm.

    ``air`` (nz, ny, nx) is the distance to the figure in mm, 0 inside. ``cost`` is that of the way down to the plate
    for a column that keeps ``need`` mm from the figure to its axis, 1e9 where there is none; ``way`` its first step.
    """

    pitch: float
    origin: Points
    air: Float32s
    need: float
    cost: Float32s
    way: NDArray[np.int8]

    def air_at(self, points: Points) -> Floats:
        """Distance to the figure at points (n, 3); infinite outside the grid, negative below the plate."""
        cell, inside = self._cells(points)
        air = np.where(inside, self.air[tuple(cell.T)], np.inf)
        return np.where(points[:, 2] < 0, -1.0, air)

    def cost_at(self, points: Points) -> Floats:
        """Cost of the way down from points (n, 3), in mm; infinite where there is none."""
        cell, inside = self._cells(points)
        cost = self.cost[tuple(cell.T)].astype(np.float64)
        return np.where(inside & (cost < _BLOCKED), cost * self.pitch, np.inf)

    def way_down(self, point: Points) -> Points:
        """The way from a place (3,) with a finite cost to the plate, as few straight pieces as keep clear: (p, 3)."""
        cell, _ = self._cells(point[None])
        steps = _steps(self.way, *map(int, cell[0]))
        path = (steps[:, ::-1] + 0.5) * self.pitch + self.origin
        path[0] = point
        path[-1, 2] = 0.0
        return path[_straightened(self.air, path, self.origin, self.pitch, self.need - self.pitch / 2)]

    def _cells(self, points: Points) -> tuple[NDArray[np.int64], NDArray[np.bool_]]:
        cell = np.floor((points - self.origin) / self.pitch).astype(np.int64)[:, ::-1]
        shape = np.array(self.air.shape)
        inside = np.asarray(((cell >= 0) & (cell < shape)).all(axis=1))
        return np.clip(cell, 0, shape - 1), inside


def clearance_grid_of(stack: LayerStack, lift: float, need: float) -> ClearanceGrid:
    """The air about the layers of a figure whose lowest point is ``lift`` mm over the plate.

    A cell counts as solid when any pixel reaches into it. Cells are 0.25 mm, or as much coarser as keeps them under
    16 million. Distances (Felzenszwalb and Huttenlocher 2012) are short by half a cell, to be on the safe side.
    """
    wide, deep = (n * stack.pixel + 2 * _SIDE for n in stack.shape[::-1])
    tall = lift + stack.count * stack.layer
    pitch = max(_FINEST, (wide * deep * tall / _MOST_CELLS) ** (1 / 3))
    shape = tuple(int(np.ceil(side / pitch)) + 1 for side in (tall, deep, wide))
    origin = np.array([stack.origin[0] - _SIDE, stack.origin[1] - _SIDE, 0.0])
    free = np.ones(shape, np.uint8)
    beside = (stack.origin[0] - origin[0], stack.origin[1] - origin[1])
    _fill(free, stack.starts, stack.row, stack.begin, stack.end, stack.layer, stack.pixel, lift, *beside, pitch)
    air = edt.edt(free, anisotropy=(pitch,) * 3, black_border=False, parallel=THREADS) - np.float32(pitch / 2)
    air = np.ascontiguousarray(np.maximum(air, 0), np.float32)
    cost, way = _ways(air, np.float32(need))
    return ClearanceGrid(pitch, origin, air, need, cost, way)


@kernel(
    typed.void(
        typed.uint8[:, :, ::1], typed.int64[::1], typed.int32[::1], typed.int32[::1], typed.int32[::1],
        typed.float64, typed.float64, typed.float64, typed.float64, typed.float64, typed.float64,
    )
)  # fmt: skip
def _fill(free, starts, row, begin, end, layer, pixel, lift, x, y, pitch):  # type: ignore[no-untyped-def]
    for k in range(len(starts) - 1):
        k0 = int((lift + k * layer) / pitch)
        k1 = int((lift + (k + 1) * layer) / pitch - 1e-9)
        for run in range(starts[k], starts[k + 1]):
            j0, j1 = int((y + row[run] * pixel) / pitch), int((y + (row[run] + 1) * pixel) / pitch)
            i0, i1 = int((x + begin[run] * pixel) / pitch), int((x + end[run] * pixel) / pitch)
            for a in range(k0, k1 + 1):
                for b in range(j0, j1 + 1):
                    for c in range(i0, i1 + 1):
                        free[a, b, c] = 0


@kernel(typed.Tuple((typed.float32[:, :, ::1], typed.int8[:, :, ::1]))(_f4, typed.float32))
def _ways(air, need):  # type: ignore[no-untyped-def]
    """Least cost from every free cell down to the plate, layer upon layer, and the step (0 to 8) that begins it."""
    nz, ny, nx = air.shape
    cost = np.full((nz, ny, nx), _BLOCKED, np.float32)
    way = np.full((nz, ny, nx), -1, np.int8)
    for j in range(ny):
        for i in range(nx):
            if air[0, j, i] >= need:
                cost[0, j, i] = 0
                way[0, j, i] = 4
    for k in range(1, nz):
        for j in range(ny):
            for i in range(nx):
                if air[k, j, i] < need:
                    continue
                best = cost[k - 1, j, i] + np.float32(1)
                step = 4
                for b in range(max(j - 1, 0), min(j + 2, ny)):
                    for c in range(max(i - 1, 0), min(i + 2, nx)):
                        if b == j and c == i:
                            continue
                        more = np.float32(_LEANING if b == j or c == i else _SLANTING)
                        if cost[k - 1, b, c] + more < best:
                            best = cost[k - 1, b, c] + more
                            step = (b - j + 1) * 3 + (c - i + 1)
                if best < _BLOCKED:
                    cost[k, j, i] = best
                    way[k, j, i] = step
    return cost, way


@kernel(typed.int64[:, ::1](_i1, typed.int64, typed.int64, typed.int64))
def _steps(way, k, j, i):  # type: ignore[no-untyped-def]
    path = np.empty((k + 1, 3), np.int64)
    for n in range(k + 1):
        path[n, 0], path[n, 1], path[n, 2] = k - n, j, i
        step = way[k - n, j, i]
        j, i = j + step // 3 - 1, i + step % 3 - 1
    return path


@kernel(typed.int64[::1](_f4, typed.float64[:, ::1], typed.Array(typed.float64, 1, "C"), typed.float64, typed.float64))
def _straightened(air, path, origin, pitch, need):  # type: ignore[no-untyped-def]
    """Numbers of the places of a path that are kept: each sees the next with air enough between."""
    kept = [0]
    here = 0
    while here < len(path) - 1:
        chosen = here + 1
        # From far to near, at most a few dozen tries: halving finds a long straight piece soon.
        reach = len(path) - 1 - here
        while reach > 1:
            there = here + reach
            clear = True
            count = max(2 * reach, 2)
            for n in range(1, count):
                t = n / count
                cell = np.empty(3, np.int64)
                for axis in range(3):
                    at = path[here, axis] + t * (path[there, axis] - path[here, axis])
                    cell[axis] = int((at - origin[axis]) / pitch)
                if air[cell[2], cell[1], cell[0]] < need:
                    clear = False
                    break
            if clear:
                chosen = there
                break
            reach = reach * 3 // 4
        kept.append(chosen)
        here = chosen
    return np.array(kept)
