"""Cups: spaces that are open towards the film only, so that every lift sucks at them."""

from dataclasses import dataclass

import numpy as np

from ulvet.core.kernels import kernel, typed
from ulvet.core.layers.empty_runs import empty_runs, narrowed_runs
from ulvet.core.layers.raster import LayerStack
from ulvet.core.layers.run_groups import join_groups, root_of

__all__ = ["LEAST_VENT", "Cup", "find_cups"]

LEAST_VENT = 0.5
"""Mm: a gap narrower than this does not breathe (bench default)."""
_TOLD_ML, _TOLD_MM2 = 0.05, 5.0
"""Volume and mouth from which a cup is told (bench defaults)."""

_i32s, _i64s, _f8s, _bools = typed.int32[::1], typed.int64[::1], typed.float64[::1], typed.boolean[::1]


@dataclass(frozen=True)
class Cup:
    """A cup: its volume, ml, its first and last layer, the greatest area it encloses at the film, mm², in which layer
    that is, and a place (x, y) mm in its first layer."""

    millilitres: float
    first: int
    last: int
    mouth: float
    widest: int
    x: float
    y: float
    sealed: bool


def find_cups(stack: LayerStack, raft_layers: int = 0) -> list[Cup]:
    """Every cup of a part's layers, the largest first; the plate lies under the first.

    Empty pixels of a layer that solid ones shut in, joined through the empty pixels of lower layers, are a cup as long
    as nothing of them has reached the outside of any layer so far (pixels joined by their sides, and straight down).
    Gaps under ``LEAST_VENT`` mm across do not join; volumes and areas count them. What ends within the lowest
    ``raft_layers`` is shut in by bars of a raft alone, and is none.
    """
    wide = max(round(LEAST_VENT / stack.pixel), 1)
    *found, open_ones = _cups(stack.starts, stack.row, stack.begin, stack.end, stack.shape[0], stack.shape[1], wide)
    cups = []
    for number, (first, last, volume, mouth, widest, column, row) in enumerate(zip(*found, strict=True)):
        millilitres = float(volume) * stack.pixel**2 * stack.layer / 1000
        area = float(mouth) * stack.pixel**2
        if millilitres < _TOLD_ML or area < _TOLD_MM2 or last < raft_layers:
            continue
        x, y = (stack.origin[axis] + (float(at) + wide / 2) * stack.pixel for axis, at in enumerate((column, row)))
        cups.append(Cup(millilitres, int(first), int(last), area, int(widest), x, y, number >= open_ones))
    return sorted(cups, key=lambda cup: -cup.millilitres)


@kernel(_i64s(_i32s, _i32s, _i64s))
def _labels(begin, end, starts):  # type: ignore[no-untyped-def]
    """The group of each run: those that touch in neighbouring rows, numbered by their first run."""
    parent = np.arange(len(begin))
    for r in range(len(starts) - 2):
        a, b = starts[r], starts[r + 1]
        while a < starts[r + 1] and b < starts[r + 2]:
            if begin[a] < end[b] and begin[b] < end[a]:
                join_groups(parent, a, b)
            if end[a] < end[b]:
                a += 1
            else:
                b += 1
    for run in range(len(parent)):
        parent[run] = root_of(parent, run)
    return parent


@kernel(_f8s(_i32s, _i32s, _i64s, _i64s, _bools, _i32s, _i32s, _i64s, typed.int64, typed.int64, typed.int64))
def _areas(begin, end, starts, group, outside, whole_begin, whole_end, whole_starts, wide, width, margin):  # type: ignore[no-untyped-def]
    """The empty area of each group that is shut in, narrow gaps counted, in pixels, by its first run."""
    area = np.zeros(len(begin))
    whole = _labels(whole_begin, whole_end, whole_starts)
    pixels = np.zeros(len(whole))
    leads_out = np.zeros(len(whole), np.bool_)
    rows = len(whole_starts) - 1
    for r in range(rows):
        for run in range(whole_starts[r], whole_starts[r + 1]):
            pixels[whole[run]] += whole_end[run] - whole_begin[run]
            if r == 0 or r == rows - 1 or whole_begin[run] == -margin or whole_end[run] == width + margin:
                leads_out[whole[run]] = True
    taken = np.zeros(len(whole), np.bool_)
    left, right = np.full(len(begin), 1 << 30), np.full(len(begin), -(1 << 30))
    for r in range(len(starts) - 1):
        at = whole_starts[r]
        for run in range(starts[r], starts[r + 1]):
            g = group[run]
            if outside[g]:
                continue
            while whole_end[at] <= begin[run]:
                at += 1
            w = whole[at]
            if not leads_out[w]:
                # What narrow gaps part counts once, with the first of them.
                if not taken[w]:
                    area[g] += pixels[w]
                    taken[w] = True
                continue
            # Squares about it: what they cover of a shape without dents (Steiner's formula).
            area[g] += end[run] - begin[run] + wide - 1
            left[g], right[g] = min(left[g], begin[run]), max(right[g], end[run] + wide - 1)
    for g in range(len(begin)):
        if right[g] > left[g]:
            area[g] += (wide - 1) * (right[g] - left[g])
    return area


_found = typed.Tuple((_i64s, _i64s, _f8s, _f8s, _i64s, _i64s, _i64s, typed.int64))


@kernel(_found(_i64s, _i32s, _i32s, _i32s, typed.int64, typed.int64, typed.int64))
def _cups(starts, row, begin, end, rows, width, wide):  # type: ignore[no-untyped-def]
    # A node for every group of a layer; joined nodes share the values of their root.
    size, nodes = 1024, 0
    parent = np.empty(size, np.int64)
    vented = np.empty(size, np.bool_)
    volume, now = np.zeros(size), np.zeros(size)
    values = np.zeros((size, 6), np.int64)  # first and last layer, widest layer, its column and row, layer of now
    mouth = np.zeros(size)
    told_values, told_reals, told = np.empty((64, 5), np.int64), np.empty((64, 2)), 0
    margin = wide + 1
    below_begin, below_end = np.empty(0, np.int32), np.empty(0, np.int32)
    below_starts, below_node = np.zeros(rows + 2 * margin + 1, np.int64), np.empty(0, np.int64)
    for k in range(len(starts) - 1):
        whole_begin, whole_end, whole_starts = empty_runs(
            row, begin, end, starts[k], starts[k + 1], rows, width, margin
        )
        b, e, at = narrowed_runs(whole_begin, whole_end, whole_starts, wide)
        group = _labels(b, e, at)
        outside = np.zeros(len(b), np.bool_)
        lines = len(at) - 1
        for r in range(lines):
            for run in range(at[r], at[r + 1]):
                if r == 0 or r == lines - 1 or b[run] == -margin or e[run] == width + margin - (wide - 1):
                    outside[group[run]] = True
        area = _areas(b, e, at, group, outside, whole_begin, whole_end, whole_starts, wide, width, margin)
        if nodes + len(b) > size:
            more = size + nodes + len(b)
            parent = np.concatenate((parent, np.empty(more, np.int64)))
            vented = np.concatenate((vented, np.empty(more, np.bool_)))
            volume, now = np.concatenate((volume, np.zeros(more))), np.concatenate((now, np.zeros(more)))
            mouth = np.concatenate((mouth, np.zeros(more)))
            values = np.concatenate((values, np.zeros((more, 6), np.int64)))
            size += more
        node = np.full(len(b), -1, np.int64)
        for r in range(lines):
            for run in range(at[r], at[r + 1]):
                g = group[run]
                if node[g] < 0:
                    node[g] = nodes
                    parent[nodes], vented[nodes] = nodes, outside[g]
                    volume[nodes], mouth[nodes], now[nodes] = 0.0, 0.0, 0.0
                    values[nodes, 0], values[nodes, 1], values[nodes, 2] = k, k, k
                    values[nodes, 3], values[nodes, 4], values[nodes, 5] = (b[run] + e[run]) // 2, r - margin, k
                    nodes += 1
                node[run] = node[g]
        # Straight down: whoever meets what is vented is vented, and was a cup until here.
        for r in range(lines):
            one, other = at[r], below_starts[r]
            while len(below_begin) and one < at[r + 1] and other < below_starts[r + 1]:
                if b[one] < below_end[other] and below_begin[other] < e[one]:
                    p, q = root_of(parent, node[one]), root_of(parent, below_node[other])
                    if p != q:
                        for n in (p, q):
                            if vented[p] != vented[q] and not vented[n] and volume[n] > 0:
                                if told == len(told_values):
                                    told_values = np.concatenate((told_values, np.empty((told, 5), np.int64)))
                                    told_reals = np.concatenate((told_reals, np.empty((told, 2))))
                                told_values[told], told_reals[told, 0] = values[n, :5], volume[n]
                                told_reals[told, 1] = mouth[n]
                                told += 1
                        keep, gone = (p, q) if values[p, 0] <= values[q, 0] else (q, p)
                        parent[gone] = keep
                        vented[keep] = vented[p] or vented[q]
                        volume[keep] += volume[gone]
                        if mouth[gone] > mouth[keep]:
                            mouth[keep], values[keep, 2] = mouth[gone], values[gone, 2]
                        values[keep, 1] = max(values[keep, 1], values[gone, 1])
                if e[one] < below_end[other]:
                    one += 1
                else:
                    other += 1
        for g in range(len(b)):
            if area[g] <= 0:
                continue
            n = root_of(parent, node[g])
            if vented[n]:
                continue
            if values[n, 5] != k or volume[n] == 0:
                now[n], values[n, 5] = 0.0, k
            now[n] += area[g]
            volume[n] += area[g]
            values[n, 1] = k
            if now[n] > mouth[n]:
                mouth[n], values[n, 2] = now[n], k
        below_begin, below_end, below_starts, below_node = b, e, at, node
    open_ones = told
    for n in range(nodes):
        if parent[n] == n and not vented[n] and volume[n] > 0:
            if told == len(told_values):
                told_values = np.concatenate((told_values, np.empty((told, 5), np.int64)))
                told_reals = np.concatenate((told_reals, np.empty((told, 2))))
            told_values[told], told_reals[told, 0] = values[n, :5], volume[n]
            told_reals[told, 1] = mouth[n]
            told += 1
    return (
        told_values[:told, 0].copy(), told_values[:told, 1].copy(), told_reals[:told, 0].copy(),
        told_reals[:told, 1].copy(), told_values[:told, 2].copy(), told_values[:told, 3].copy(),
        told_values[:told, 4].copy(), open_ones,
    )  # fmt: skip
