"""Islands: solid that begins in the air."""

from dataclasses import dataclass

import numpy as np

from ulvet.core.kernels import kernel, typed
from ulvet.core.layers.raster import LayerStack
from ulvet.core.layers.run_groups import root_of

__all__ = ["Island", "find_islands"]

_i32s, _i64s, _f8s = typed.int32[::1], typed.int64[::1], typed.float64[::1]


@dataclass(frozen=True)
class Island:
    """Where solid begins with nothing under it: first layer, place (x, y) mm, and area when it counted (mm²)."""

    layer: int
    x: float
    y: float
    area: float


def find_islands(stack: LayerStack, dilation: float, least_area: float) -> list[Island]:
    """Every island, from the plate up.

    A component (pixels joined by their sides) of a layer is held when a pixel of held solid in the layer below lies
    within ``dilation`` mm along rows and columns, rounded to whole pixels and at least none; all of the first layer is
    held by the plate. A component that is not held, grown on from smaller ones that were not, is an island once its
    area reaches ``least_area`` mm²; from there on it counts as held, so that it is told once. What never grows
    that large, or meets held solid before, is none. Each island is told with the layer and place where it began.
    Where a row in or under a component is torn there is no telling what holds it, so it counts as held.
    """
    pixels = max(round(dilation / stack.pixel), 0)
    least = max(int(np.ceil(least_area / stack.pixel**2 - 1e-9)), 1)
    layer, x, y, area = _islands(
        stack.starts, stack.row, stack.begin, stack.end, stack.torn, stack.torn_begin, stack.torn_end,
        stack.shape[0], pixels, least,
    )  # fmt: skip
    x0, y0 = stack.origin
    return [
        Island(int(k), x0 + float(i) * stack.pixel, y0 + float(j) * stack.pixel, int(n) * stack.pixel**2)
        for k, i, j, n in zip(layer, x, y, area, strict=True)
    ]


@kernel(typed.void(_i32s, _i32s, _i32s, typed.int64, typed.int64, _i64s))
def _label(row, begin, end, first, last, parent):  # type: ignore[no-untyped-def]
    """Join the runs first to last - 1 of one layer that touch in neighbouring rows."""
    for run in range(first, last):
        parent[run] = run
    above = first
    for run in range(first, last):
        while above < run and (row[above] < row[run] - 1 or (row[above] == row[run] - 1 and end[above] <= begin[run])):
            above += 1
        other = above
        while other < run and row[other] == row[run] - 1 and begin[other] < end[run]:
            a, b = root_of(parent, run), root_of(parent, other)
            parent[max(a, b)] = min(a, b)
            other += 1


@kernel(
    typed.Tuple((_i64s, _f8s, _f8s, _i64s))(
        _i64s, _i32s, _i32s, _i32s, _i64s, _i32s, _i32s, typed.int64, typed.int64, typed.int64
    )
)
def _islands(starts, row, begin, end, torn, torn_begin, torn_end, rows, reach, least):  # type: ignore[no-untyped-def]
    runs = len(row)
    parent = np.empty(runs, np.int64)
    size = np.zeros(runs, np.int64)
    # Of each component, kept at its root: held by what is under it; layer and place where it began.
    held = np.zeros(runs, np.bool_)
    since = np.empty(runs, np.int64)
    x, y = np.empty(runs), np.empty(runs)
    below = np.zeros(rows + 1, np.int64)
    # Of every row, the last one torn.
    torn_last = np.full(rows, -1, np.int64)
    next_torn = 0
    found = 0
    out_layer, out_area = np.empty(64, np.int64), np.empty(64, np.int64)
    out_x, out_y = np.empty(64), np.empty(64)
    for k in range(len(starts) - 1):
        first, last = starts[k], starts[k + 1]
        _label(row, begin, end, first, last, parent)
        while next_torn < len(torn) and torn[next_torn] < (k + 1) * rows:
            torn_last[torn[next_torn] - k * rows] = next_torn
            next_torn += 1
        for run in range(first, last):
            root = root_of(parent, run)
            size[root] += end[run] - begin[run]
            since[run] = k
            x[run], y[run] = (begin[run] + end[run]) / 2, row[run] + 0.5
            held[run] = k == 0
        if k > 0:
            for run in range(first, last):
                root = root_of(parent, run)
                for r in range(max(row[run] - reach - 1, 0), min(row[run] + reach + 2, rows)):
                    t = torn_last[r]
                    lately = t >= 0 and torn[t] >= (k - 1) * rows
                    if lately and begin[run] < torn_end[t] + reach and end[run] > torn_begin[t] - reach:
                        held[root] = True
                for r in range(max(row[run] - reach, 0), min(row[run] + reach + 1, rows)):
                    for other in range(below[r], below[r + 1]):
                        if begin[other] >= end[run] + reach:
                            break
                        if end[other] > begin[run] - reach:
                            under = root_of(parent, other)
                            if held[under]:
                                held[root] = True
                            elif since[under] < since[root]:
                                since[root], x[root], y[root] = since[under], x[under], y[under]
                    if held[root]:
                        break
            for run in range(first, last):
                if parent[run] == run and not held[run] and size[run] >= least:
                    if found == len(out_layer):
                        out_layer = np.concatenate((out_layer, np.empty(found, np.int64)))
                        out_area = np.concatenate((out_area, np.empty(found, np.int64)))
                        out_x = np.concatenate((out_x, np.empty(found)))
                        out_y = np.concatenate((out_y, np.empty(found)))
                    out_layer[found], out_area[found] = since[run], size[run]
                    out_x[found], out_y[found] = x[run], y[run]
                    found += 1
                    held[run] = True
        below[:] = 0
        for run in range(first, last):
            below[row[run] + 1] += 1
        below[0] = first
        for r in range(rows):
            below[r + 1] += below[r]
    return out_layer[:found], out_x[:found], out_y[:found], out_area[:found]
