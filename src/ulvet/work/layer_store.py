"""Layer runs as a blob, and one layer of them as a picture."""

import io
import json
import struct

import numpy as np
from PIL import Image, ImageDraw

from ulvet.core.layers.raster import LayerStack

__all__ = ["layer_png", "layers_bytes", "layers_from"]

_HEAD = struct.Struct("<4sI")
_INK = (47, 107, 148)
"""RGB of a layer."""
_BELOW = (205, 214, 214)
"""RGB of the layer below it."""


def layers_bytes(stack: LayerStack) -> bytes:
    """Head (magic "ULL2", length of the JSON), JSON of the plain values, then the arrays."""
    said = json.dumps(
        {
            "layer": stack.layer,
            "pixel": stack.pixel,
            "origin": stack.origin,
            "shape": stack.shape,
            "layers": stack.count,
            "runs": len(stack.row),
            "torn": len(stack.torn),
        },
        sort_keys=True,
    ).encode()
    said += b" " * (-(len(said) + _HEAD.size) % 8)
    arrays = (stack.starts, stack.torn, stack.row, stack.begin, stack.end, stack.torn_begin, stack.torn_end)
    return b"".join([_HEAD.pack(b"ULL2", len(said)), said, *(array.tobytes() for array in arrays)])


def layers_from(data: memoryview) -> LayerStack:
    """The stack of ``layers_bytes``, reading from the bytes as it is used."""
    _, length = _HEAD.unpack_from(data)
    said = json.loads(bytes(data[_HEAD.size : _HEAD.size + length]))
    at = _HEAD.size + length
    arrays = []
    for dtype, count in (
        ("<i8", said["layers"] + 1),
        ("<i8", said["torn"]),
        ("<i4", said["runs"]),
        ("<i4", said["runs"]),
        ("<i4", said["runs"]),
        ("<i4", said["torn"]),
        ("<i4", said["torn"]),
    ):
        arrays.append(np.frombuffer(data, dtype, count, at))
        at += arrays[-1].nbytes
    starts, torn, row, begin, end, torn_begin, torn_end = arrays
    return LayerStack(
        layer=said["layer"],
        pixel=said["pixel"],
        origin=tuple(said["origin"]),
        shape=tuple(said["shape"]),
        starts=starts,
        row=row,
        begin=begin,
        end=end,
        torn=torn,
        torn_begin=torn_begin,
        torn_end=torn_end,
    )


def layer_png(stack: LayerStack, number: int, longest: int = 900) -> bytes:
    """Layer ``number`` seen from above, the layer below it pale beneath, at most ``longest`` pixels a side.

    Raises IndexError for a layer that does not exist.
    """
    if not 0 <= number < stack.count:
        raise IndexError(f"There are {stack.count} layers, counted from 0.")
    rows, columns = stack.shape
    scale = min(1.0, longest / max(rows, columns))
    picture = Image.new("RGBA", (max(int(columns * scale), 1), max(int(rows * scale), 1)))
    draw = ImageDraw.Draw(picture)
    for layer, ink in ((number - 1, _BELOW), (number, _INK)):
        if layer >= 0:
            _draw(draw, stack, layer, ink, scale, rows)
    buffer = io.BytesIO()
    picture.save(buffer, "PNG")
    return buffer.getvalue()


def _draw(
    draw: ImageDraw.ImageDraw, stack: LayerStack, layer: int, ink: tuple[int, int, int], scale: float, rows: int
) -> None:
    runs = slice(int(stack.starts[layer]), int(stack.starts[layer + 1]))
    # Row 0 is the front, so it belongs at the bottom of the picture.
    y = ((rows - 1 - stack.row[runs]) * scale).astype(int)
    x0, x1 = (stack.begin[runs] * scale).astype(int), (stack.end[runs] * scale).astype(int)
    for a, b, c in np.unique(np.stack([x0, y, np.maximum(x1 - 1, x0)], axis=1), axis=0).tolist():
        draw.line((a, b, c, b), fill=ink)
