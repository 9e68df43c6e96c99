"""The empty pixels of a layer as runs, narrowed by the width of what is too narrow to breathe."""

import numpy as np

from ulvet.core.kernels import kernel, typed

__all__ = ["empty_runs", "narrowed_runs"]

_i32s, _i64s = typed.int32[::1], typed.int64[::1]
_runs = typed.Tuple((_i32s, _i32s, _i64s))


@kernel(_runs(_i32s, _i32s, _i32s, typed.int64, typed.int64, typed.int64, typed.int64, typed.int64))
def empty_runs(row, begin, end, first, last, rows, width, margin):  # type: ignore[no-untyped-def]  # compiled
    """Empty pixels of the layer whose solid runs are first to last - 1, with a margin of empty ones all round.

    Runs (begin, end), and where those of each of the rows + 2 margin rows start. Pixels keep their numbers; row r of
    the layer is row r + margin here.
    """
    total = rows + 2 * margin
    out_begin, out_end = np.empty(last - first + total, np.int32), np.empty(last - first + total, np.int32)
    starts = np.empty(total + 1, np.int64)
    count = 0
    run = first
    for r in range(total):
        starts[r] = count
        at = -margin
        while run < last and row[run] == r - margin:
            if begin[run] > at:
                out_begin[count], out_end[count] = at, begin[run]
                count += 1
            at = end[run]
            run += 1
        if width + margin > at:
            out_begin[count], out_end[count] = at, width + margin
            count += 1
    starts[total] = count
    return out_begin[:count].copy(), out_end[:count].copy(), starts


@kernel(_runs(_i32s, _i32s, _i64s, typed.int64))
def narrowed_runs(begin, end, starts, wide):  # type: ignore[no-untyped-def]
    """Pixels that are the first corner of a square of ``wide`` pixels, all of which are in the runs.

    Along a row by length; across rows by intersecting each with one farther on, over twice the distance each time.
    """
    rows = len(starts) - 1
    out_begin, out_end, out_starts = np.empty_like(begin), np.empty_like(end), np.empty_like(starts)
    count = 0
    for r in range(rows):
        out_starts[r] = count
        for run in range(starts[r], starts[r + 1]):
            if end[run] - begin[run] >= wide:
                out_begin[count], out_end[count] = begin[run], end[run] - (wide - 1)
                count += 1
    out_starts[rows] = count
    begin, end, starts = out_begin[:count].copy(), out_end[:count].copy(), out_starts
    done = 1
    while done < wide:
        step = min(done, wide - done)
        rows -= step
        out_begin, out_end = np.empty(2 * len(begin) + 1, np.int32), np.empty(2 * len(begin) + 1, np.int32)
        out_starts = np.empty(rows + 1, np.int64)
        count = 0
        for r in range(rows):
            out_starts[r] = count
            a, b = starts[r], starts[r + step]
            while a < starts[r + 1] and b < starts[r + step + 1]:
                low, high = max(begin[a], begin[b]), min(end[a], end[b])
                if low < high:
                    out_begin[count], out_end[count] = low, high
                    count += 1
                if end[a] < end[b]:
                    a += 1
                else:
                    b += 1
        out_starts[rows] = count
        begin, end, starts = out_begin[:count].copy(), out_end[:count].copy(), out_starts
        done += step
    return begin, end, starts
