"""The finest of a figure's layers: lines that are hardly drawn, and gaps that grow shut."""

from dataclasses import dataclass

import numpy as np

from ulvet.core.kernels import kernel, typed
from ulvet.core.layers.raster import LayerStack

__all__ = ["Narrow", "narrow_places"]

_CELL = 3
"""Limits that a cell is wide in which narrow places are gathered (bench default)."""
_ASLANT = 2.1
"""Limits within which both ways across are looked at, for what runs aslant to rows by 30° to 60°."""
_LONG = 2
"""Limits that a line or gap is long at least: what is shorter is the end of a point (bench default)."""
_FEWEST_LAYERS = 3
"""Layers through which a line or gap goes on at least (bench default)."""
_i32s, _i64s, _i64s2 = typed.int32[::1], typed.int64[::1], typed.int64[:, ::1]


@dataclass(frozen=True)
class Narrow:
    """Where a line or a gap begins that goes on through more layers than it is wide: layer, place and width, mm."""

    layer: int
    x: float
    y: float
    width: float


def narrow_places(stack: LayerStack, line: float, gap: float) -> tuple[list[Narrow], list[Narrow]]:
    """Lines no wider than ``line`` mm and gaps no wider than ``gap`` mm, the narrowest first.

    They are looked for along rows and across them, must be twice as long as they may be wide, and go on through more
    layers than they are wide; a gap is bounded by solid on both sides.
    """
    return _gathered(stack, line, False), _gathered(stack, gap, True)


def _gathered(stack: LayerStack, limit: float, gaps: bool) -> list[Narrow]:
    most = limit / stack.pixel + 1e-9
    if most < 1 or not len(stack.row):
        return []
    layers = max(_FEWEST_LAYERS, int(np.ceil(limit / stack.layer)))
    layer, x, y, width = _narrow(
        stack.starts, stack.row, stack.begin, stack.end, stack.shape[0], stack.shape[1], most, layers, gaps
    )
    order = np.lexsort((layer, width))
    return [
        Narrow(
            int(layer[k]),
            stack.origin[0] + float(x[k]) * stack.pixel,
            stack.origin[1] + float(y[k]) * stack.pixel,
            float(width[k]) * stack.pixel,
        )
        for k in order
    ]


@kernel(typed.boolean(_i32s, _i32s, typed.int64, typed.int64, typed.int64))
def _solid(begin, end, first, last, column):  # type: ignore[no-untyped-def]
    """Whether a column is in one of the runs first to last - 1 of a row."""
    stop = last
    while first < last:
        middle = (first + last) // 2
        if end[middle] <= column:
            first = middle + 1
        else:
            last = middle
    return first < stop and begin[first] <= column


@kernel(
    typed.int64(
        typed.int64, typed.int64, typed.int64, typed.int64, typed.int64, _i64s, _i64s2, _i64s2, _i64s, typed.int64
    )
)
def _mark(cell, layer, way, weight, width, seen, marks, totals, marked, count):  # type: ignore[no-untyped-def]
    """Mark a narrow place of some width in a cell, along rows (way 0) or across them; gives how many cells this layer
    has marked."""
    if seen[cell] != layer:
        seen[cell] = layer
        marks[:, cell] = 0
        totals[:, cell] = 0
        marked[count] = cell
        count += 1
    marks[way, cell] += weight
    totals[way, cell] += weight * width
    return count


@kernel(
    typed.int64(typed.boolean, _i32s, _i32s, _i64s, typed.int64, typed.int64, typed.int64, typed.int64, typed.int64)
)
def _across(gaps, begin, end, row_start, low, high, row, column, most):  # type: ignore[no-untyped-def]
    """Rows that solid goes on from a row up, or that a gap below it is wide, where there is none in the row below; more
    than most where it is not narrow."""
    if gaps:
        for step in range(2, most + 2):
            below = row - step
            if below < low:
                break
            if _solid(begin, end, row_start[below], row_start[below + 1], column):
                return step - 1
        return most + 1
    width = 1
    while width <= most and row + width <= high:
        if not _solid(begin, end, row_start[row + width], row_start[row + width + 1], column):
            break
        width += 1
    return width


@kernel(
    typed.Tuple((_i64s, typed.float64[::1], typed.float64[::1], typed.float64[::1]))(
        _i64s, _i32s, _i32s, _i32s, typed.int64, typed.int64, typed.float64, typed.int64, typed.boolean
    )
)
def _narrow(starts, row, begin, end, rows, columns, limit, layers, gaps):  # type: ignore[no-untyped-def]
    side = int(_CELL * limit)
    most = int(_ASLANT * limit)
    wide = columns // side + 1
    cells = (rows // side + 1) * wide
    # Of each cell: marks in this layer along either way and their widths, and through how many layers it goes on.
    marks, totals = np.zeros((2, cells), np.int64), np.zeros((2, cells), np.int64)
    seen = np.full(cells, -1, np.int64)
    since, until = np.zeros(cells, np.int64), np.full(cells, -2, np.int64)
    narrowest = np.zeros(cells)
    told = np.zeros(cells, np.bool_)
    marked = np.empty(cells, np.int64)
    row_start = np.zeros(rows + 2, np.int64)
    out = [(np.int64(0), 0.0, 0.0, 0.0)]
    out.clear()
    for k in range(len(starts) - 1):
        first, last = starts[k], starts[k + 1]
        if first == last:
            continue
        low, high = row[first], row[last - 1]
        at = first
        for r in range(low, high + 2):
            while at < last and row[at] < r:
                at += 1
            row_start[r] = at
        count = 0
        under, under_of = first, low - 1
        for run in range(first, last):
            b, e = begin[run], end[run]
            r = row[run]
            # Along the row: the run itself, or the gap to the next one.
            if gaps:
                width = begin[run + 1] - e if run + 1 < last and row[run + 1] == r else most + 1
                middle = e + width // 2
            else:
                width = e - b
                middle = (b + e) // 2
            if width <= most:
                cell = (r // side) * wide + middle // side
                count = _mark(cell, k, 0, 1, width, seen, marks, totals, marked, count)
            # Across the rows: every second column that has nothing in the row below.
            if under_of != r:
                under, under_of = row_start[max(r - 1, low)], r
            over = row_start[r] if r > low else under
            c = b
            while c < e:
                while under < over and end[under] <= c:
                    under += 1
                if under < over and begin[under] <= c:
                    c += (end[under] - c + 1) // 2 * 2
                    continue
                width = _across(gaps, begin, end, row_start, low, high, r, c, most)
                if width <= most:
                    cell = (r // side) * wide + c // side
                    count = _mark(cell, k, 1, 2, width, seen, marks, totals, marked, count)
                c += 2
        for n in range(count):
            cell = marked[n]
            if max(marks[0, cell], marks[1, cell]) < _LONG * limit:
                continue
            u = totals[0, cell] / marks[0, cell] if marks[0, cell] else 0.0
            v = totals[1, cell] / marks[1, cell] if marks[1, cell] else 0.0
            # Of what runs aslant both ways across are longer than it is wide.
            width_here = u * v / np.sqrt(u * u + v * v) if u and v else max(u, v)
            if width_here > limit:
                continue
            if until[cell] != k - 1:
                since[cell] = k
                narrowest[cell] = width_here
                told[cell] = False
            until[cell] = k
            narrowest[cell] = min(narrowest[cell], width_here)
            if not told[cell] and k - since[cell] + 1 >= layers:
                told[cell] = True
                x, y = (cell % wide + 0.5) * side, (cell // wide + 0.5) * side
                out.append((since[cell], x, y, narrowest[cell]))
    size = len(out)
    out_layer = np.empty(size, np.int64)
    out_x, out_y, out_width = np.empty(size), np.empty(size), np.empty(size)
    for n in range(size):
        out_layer[n], out_x[n], out_y[n], out_width[n] = out[n]
    return out_layer, out_x, out_y, out_width
