"""The figure as the printer sees it: for every layer, rows of pixels that are solid, kept as runs."""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Floats, Mesh, bounds, face_cross
from ulvet.core.kernels import THREADS, kernel, typed

__all__ = ["LayerStack", "TooManyLayers", "raster_layers"]

_MOST_ROWS = 24_000_000
"""Rows of pixels of all layers, for memory."""
_MOST_CROSSINGS = 400_000_000
"""Crossings of rows and outlines, for memory."""
_LEAST_SHARE = 1e-3  # of a layer: what float32 files round on top makes no layer of its own
Ints = NDArray[np.int64]
Int32s = NDArray[np.int32]

_i32s, _i64s = typed.int32[::1], typed.int64[::1]
_read_f8 = typed.Array(typed.float64, 2, "C", readonly=True)
_read_i4 = typed.Array(typed.int32, 2, "C", readonly=True)


class TooManyLayers(ValueError):
    """The figure would take more rows of pixels than can be held; its text is for the user."""


@dataclass(frozen=True)
class LayerStack:
    """Solid pixels of every layer.

    Layer k is cut at (k + 0.5) ``layer`` mm. Its runs are ``starts[k]`` to ``starts[k + 1]`` of ``row``, ``begin``
    and ``end`` (r,): pixels begin to end - 1 of a row, sorted by row, then place. Pixel (i, row) has its middle at
    ``origin`` + (i + 0.5, row + 0.5) ``pixel`` mm. ``torn`` names the rows in which the surface does not close, as
    layer times rows plus row, rising; from ``torn_begin`` to ``torn_end`` - 1 there is no telling what is solid.
    """

    layer: float
    pixel: float
    origin: tuple[float, float]
    shape: tuple[int, int]
    starts: Ints
    row: Int32s
    begin: Int32s
    end: Int32s
    torn: Ints
    torn_begin: Int32s
    torn_end: Int32s

    @property
    def count(self) -> int:
        """Number of layers."""
        return len(self.starts) - 1

    @property
    def unbalanced(self) -> Ints:
        """Rows in which the surface does not close, of every layer, (layers,)."""
        return np.bincount(self.torn // self.shape[0], minlength=self.count)

    @property
    def areas(self) -> Floats:
        """Solid area of every layer, (layers,) mm²."""
        pixels = np.concatenate([[0], np.cumsum(self.end - self.begin, dtype=np.int64)])
        return np.asarray(np.diff(pixels[self.starts]) * self.pixel**2)


def raster_layers(mesh: Mesh, layer: float, pixel: float) -> LayerStack:
    """Every layer of a mesh that stands on its lowest point, in mm at print size.

    A pixel is solid when its middle is: where the winding number of the surface is not zero, so that overlapping
    shells are one and cavities stay empty. A scan line is unbalanced when its crossings do not cancel.

    Raises TooManyLayers when rows times layers pass 24 million, twice what the largest printer on the bench has,
    or when the surface crosses more than 400 million scan lines.
    """
    low, high = bounds(mesh)
    count = max(int(np.ceil((high[2] - low[2]) / layer - _LEAST_SHARE)), 0)
    shape = tuple(int(np.ceil((high[k] - low[k]) / pixel)) + 1 for k in (1, 0))
    if count * shape[0] > _MOST_ROWS:
        layers = f"{count:,}" if count < 1e6 else "More than a million"
        raise TooManyLayers(
            f"{layers} layers of {min(shape[0], 10**6):,} rows of pixels are too many to look at: "
            "make the figure smaller or choose a printer with coarser layers."
        )
    # Every face crosses as many scan lines as its shadow along x covers.
    if np.abs(face_cross(mesh)[:, 0]).sum() / 2 > _MOST_CROSSINGS * layer * pixel:
        raise TooManyLayers(
            "So much surface lies behind surface that its layers are too many to look at: "
            "mend the figure first, or bring in one that is a solid."
        )
    vertices = mesh.vertices - low
    order, starts = _faces_by_layer(vertices, mesh.faces, layer, count)
    cuts = np.linspace(0, count, THREADS * 4 + 1).astype(np.int64)
    with ThreadPoolExecutor(THREADS) as pool:
        chunks = list(
            pool.map(
                lambda k: _scan(vertices, mesh.faces, order, starts, layer, pixel, shape[0], cuts[k], cuts[k + 1]),
                range(len(cuts) - 1),
            )
        )
    per_layer = np.concatenate([chunk[3] for chunk in chunks])
    row, begin, end = (np.concatenate([chunk[k] for chunk in chunks]) for k in range(3))
    return LayerStack(
        layer=layer,
        pixel=pixel,
        origin=(float(low[0]), float(low[1])),
        shape=(shape[0], shape[1]),
        starts=np.concatenate([[0], np.cumsum(per_layer)]),
        row=row,
        begin=begin,
        end=end,
        torn=np.concatenate([chunk[4] for chunk in chunks]),
        torn_begin=np.concatenate([chunk[5] for chunk in chunks]),
        torn_end=np.concatenate([chunk[6] for chunk in chunks]),
    )


@kernel(typed.Tuple((_i32s, _i64s))(_read_f8, _read_i4, typed.float64, typed.int64))
def _faces_by_layer(vertices, faces, layer, count):  # type: ignore[no-untyped-def]
    """Faces that cross each layer's plane: their numbers, layer after layer, and where each layer starts."""
    starts = np.zeros(count + 1, np.int64)
    for fill in range(2):
        if fill:
            for k in range(count):
                starts[k + 1] += starts[k]
            order = np.empty(starts[count], np.int32)
            at = starts[:-1].copy()
        for f in range(len(faces)):
            a, b, c = vertices[faces[f, 0], 2], vertices[faces[f, 1], 2], vertices[faces[f, 2], 2]
            low, high = min(a, b, c), max(a, b, c)
            # One plane more on either side, then the same comparison as everywhere: rounding cannot lose a face.
            first = max(int(low / layer - 0.5), 0)
            last = min(int(high / layer + 0.5), count - 1)
            for k in range(first, last + 1):
                plane = (k + 0.5) * layer
                if low < plane <= high:
                    if fill:
                        order[at[k]] = f
                        at[k] += 1
                    else:
                        starts[k + 1] += 1
    return order, starts


@kernel(typed.UniTuple(typed.int64, 2)(typed.float64, typed.float64, typed.float64, typed.int64))
def _rows_between(y0, y1, pixel, rows):  # type: ignore[no-untyped-def]
    """First row and one past the last whose middle lies at or above the lower y and below the higher."""
    low = int(np.ceil(min(y0, y1) / pixel - 0.5))
    high = int(np.ceil(max(y0, y1) / pixel - 0.5))
    return max(low, 0), min(high, rows)


@kernel(typed.void(typed.float64[::1], typed.int8[::1]))
def _sort_row(crossing, sign):  # type: ignore[no-untyped-def]
    """Bring the crossings of a row in order; equal ones stay as they came."""
    if len(crossing) > 48:
        order = np.argsort(crossing, kind="mergesort")
        crossing[:], sign[:] = crossing[order], sign[order]
        return
    for k in range(1, len(crossing)):
        x, s = crossing[k], sign[k]
        place = k
        while place > 0 and crossing[place - 1] > x:
            crossing[place], sign[place] = crossing[place - 1], sign[place - 1]
            place -= 1
        crossing[place], sign[place] = x, s


@kernel(
    typed.Tuple((_i32s, _i32s, _i32s, _i64s, _i64s, _i32s, _i32s))(
        _read_f8, _read_i4, _i32s, _i64s, typed.float64, typed.float64, typed.int64, typed.int64, typed.int64
    )
)
def _scan(vertices, faces, order, starts, layer, pixel, rows, first, last):  # type: ignore[no-untyped-def]
    """Runs of layers first to last - 1: row, begin, end, runs in each layer, and the rows that are torn."""
    room = 1024
    row, begin, end = np.empty(room, np.int32), np.empty(room, np.int32), np.empty(room, np.int32)
    runs = 0
    per_layer = np.zeros(last - first, np.int64)
    torn, torn_rows = np.empty(64, np.int64), 0
    torn_begin, torn_end = np.empty(64, np.int32), np.empty(64, np.int32)
    segments = np.empty((1024, 4))
    crossing, sign = np.empty(4096), np.empty(4096, np.int8)
    in_row, at = np.empty(rows + 1, np.int64), np.empty(rows, np.int64)
    for k in range(first, last):
        plane = (k + 0.5) * layer
        number = starts[k + 1] - starts[k]
        if number > len(segments):
            segments = np.empty((2 * number, 4))
        in_row[:] = 0
        for s in range(number):
            f = order[starts[k] + s]
            for corner in range(3):
                i, j = faces[f, corner], faces[f, (corner + 1) % 3]
                i_below, j_below = vertices[i, 2] < plane, vertices[j, 2] < plane
                if i_below == j_below:
                    continue
                # From the lower end whichever face asks, so that neighbours meet in the same point.
                low, high = (i, j) if i_below else (j, i)
                t = (plane - vertices[low, 2]) / (vertices[high, 2] - vertices[low, 2])
                x = vertices[low, 0] + t * (vertices[high, 0] - vertices[low, 0])
                y = vertices[low, 1] + t * (vertices[high, 1] - vertices[low, 1])
                # Down to up keeps the solid on the left.
                at_end = 2 if i_below else 0
                segments[s, at_end], segments[s, at_end + 1] = x, y
            low_row, high_row = _rows_between(segments[s, 1], segments[s, 3], pixel, rows)
            for r in range(low_row, high_row):
                in_row[r + 1] += 1
        for r in range(rows):
            in_row[r + 1] += in_row[r]
            at[r] = in_row[r]
        if in_row[rows] > len(crossing):
            crossing, sign = np.empty(2 * in_row[rows]), np.empty(2 * in_row[rows], np.int8)
        for s in range(number):
            x0, y0, x1, y1 = segments[s, 0], segments[s, 1], segments[s, 2], segments[s, 3]
            low_row, high_row = _rows_between(y0, y1, pixel, rows)
            for r in range(low_row, high_row):
                x = x0 + ((r + 0.5) * pixel - y0) / (y1 - y0) * (x1 - x0)
                crossing[at[r]], sign[at[r]] = x, 1 if y1 < y0 else -1
                at[r] += 1
        for r in range(rows):
            _sort_row(crossing[in_row[r] : in_row[r + 1]], sign[in_row[r] : in_row[r + 1]])
            winding = 0
            opened = 0.0
            for c in range(in_row[r], in_row[r + 1]):
                before = winding
                winding += sign[c]
                if before == 0:
                    opened = crossing[c]
                if winding == 0:
                    a = int(np.ceil(opened / pixel - 0.5))
                    b = int(np.ceil(crossing[c] / pixel - 0.5))
                    if b <= a:
                        continue
                    if per_layer[k - first] and row[runs - 1] == r and end[runs - 1] >= a:
                        end[runs - 1] = max(end[runs - 1], b)
                        continue
                    if runs == room:
                        row = np.concatenate((row, np.empty(room, np.int32)))
                        begin = np.concatenate((begin, np.empty(room, np.int32)))
                        end = np.concatenate((end, np.empty(room, np.int32)))
                        room *= 2
                    row[runs], begin[runs], end[runs] = r, a, b
                    runs += 1
                    per_layer[k - first] += 1
            if winding != 0:
                if torn_rows == len(torn):
                    torn = np.concatenate((torn, np.empty(torn_rows, np.int64)))
                    torn_begin = np.concatenate((torn_begin, np.empty(torn_rows, np.int32)))
                    torn_end = np.concatenate((torn_end, np.empty(torn_rows, np.int32)))
                torn[torn_rows] = k * rows + r
                torn_begin[torn_rows] = int(np.ceil(opened / pixel - 0.5))
                torn_end[torn_rows] = int(np.ceil(crossing[in_row[r + 1] - 1] / pixel - 0.5)) + 1
                torn_rows += 1
    return (
        row[:runs].copy(), begin[:runs].copy(), end[:runs].copy(), per_layer,
        torn[:torn_rows].copy(), torn_begin[:torn_rows].copy(), torn_end[:torn_rows].copy(),
    )  # fmt: skip
