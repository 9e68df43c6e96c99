"""Layers as pictures in an archive: one PNG a layer and a plain description, written and read back."""

import io
import json
import zipfile
from pathlib import Path
from typing import Annotated, Literal

import numpy as np
from PIL import Image
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ulvet.core.bench.setup import Setup
from ulvet.core.formats.archive import archive_bytes, open_archive
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.layers.clock import layer_seconds
from ulvet.core.layers.raster import LayerStack

__all__ = ["LAYERS_JSON", "LayersDescribed", "layer_archive", "read_layer_archive"]

LAYERS_JSON = "layers.json"
"""Name of the description in the archive."""
_MOST_SIDE = 30_000
"""Pixels of a side, for memory."""
Millimetres = Annotated[float, Field(gt=0, le=1_000, allow_inf_nan=False)]


class LayersDescribed(BaseModel):
    """What the pictures are of. Row 0 of a picture is the back, column 0 the left; white is solid."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    form: Literal["layer-pictures-1"] = "layer-pictures-1"
    layer_mm: Millimetres
    pixel_mm: Millimetres
    origin_mm: tuple[float, float]
    """The left front corner of the pictures, print mm."""
    wide: int = Field(ge=1, le=_MOST_SIDE)
    deep: int = Field(ge=1, le=_MOST_SIDE)
    layers: int = Field(ge=0, le=1_000_000)
    begins_s: tuple[float, ...]
    """When each layer begins, and the last one ends, seconds from the start: an estimate."""


def layer_archive(stack: LayerStack, setup: Setup) -> bytes:
    """A ZIP of ``00001.png`` and so on, one bit a pixel, and ``layers.json``."""
    deep, wide = stack.shape
    said = LayersDescribed(
        layer_mm=stack.layer, pixel_mm=stack.pixel, origin_mm=stack.origin, wide=wide, deep=deep, layers=stack.count,
        begins_s=tuple(round(float(value), 3) for value in layer_seconds(stack, setup)),
    )  # fmt: skip
    files = [(LAYERS_JSON, said.model_dump_json(indent=1).encode())]
    files += [(_name(k), _png(stack, k)) for k in range(stack.count)]
    return archive_bytes(files)


def read_layer_archive(path: Path) -> LayerStack:
    """The layers of an archive that ``layer_archive`` wrote, or that is written like it.

    Raises UnreadableFile for one that lacks a picture or its description, or whose pictures are not as it says.
    """
    with open_archive(path) as archive:
        said = _described(path, archive)
        runs = [_runs(path, archive, k, said) for k in range(said.layers)]
    counts = [len(row) for row, _, _ in runs]
    none = np.empty(0, np.int32)
    row, begin, end = (np.concatenate([none, *(one[k] for one in runs)]).astype(np.int32) for k in range(3))
    return LayerStack(
        layer=said.layer_mm, pixel=said.pixel_mm, origin=said.origin_mm, shape=(said.deep, said.wide),
        starts=np.concatenate([[0], np.cumsum(counts, dtype=np.int64)]).astype(np.int64),
        row=row, begin=begin, end=end, torn=np.empty(0, np.int64), torn_begin=none, torn_end=none,
    )  # fmt: skip


def _name(layer: int) -> str:
    return f"{layer + 1:05}.png"


def _png(stack: LayerStack, layer: int) -> bytes:
    deep, wide = stack.shape
    runs = slice(int(stack.starts[layer]), int(stack.starts[layer + 1]))
    edges = np.zeros((deep, wide + 1), np.int8)
    rows = deep - 1 - stack.row[runs]
    # Runs of one row may touch each other.
    np.add.at(edges, (rows, stack.begin[runs]), 1)
    np.add.at(edges, (rows, stack.end[runs]), -1)
    solid = np.cumsum(edges[:, :wide], axis=1, dtype=np.int8) > 0
    buffer = io.BytesIO()
    Image.fromarray(solid).save(buffer, "PNG")
    return buffer.getvalue()


def _described(path: Path, archive: zipfile.ZipFile) -> LayersDescribed:
    try:
        said = LayersDescribed.model_validate(json.loads(archive.read(LAYERS_JSON)))
    except (KeyError, ValueError, ValidationError) as error:
        raise UnreadableFile(f"{path.name} has no {LAYERS_JSON} that describes its layers: write it anew.") from error
    if len(said.begins_s) != said.layers + 1:
        raise UnreadableFile(f"{path.name} does not say when each of its {said.layers:,} layers begins: write it anew.")
    return said


def _runs(
    path: Path, archive: zipfile.ZipFile, layer: int, said: LayersDescribed
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Rows, begins and ends of one layer's solid pixels, from the front on."""
    try:
        with Image.open(io.BytesIO(archive.read(_name(layer)))) as picture:
            if picture.size != (said.wide, said.deep):
                raise UnreadableFile(
                    f"{_name(layer)} of {path.name} is {picture.size[0]} x {picture.size[1]} pixels and should be "
                    f"{said.wide} x {said.deep}: write the archive anew."
                )
            solid = np.asarray(picture.convert("1"))[::-1]
    except (KeyError, OSError) as error:
        raise UnreadableFile(f"{path.name} lacks {_name(layer)}, or it is no picture: write it anew.") from error
    edges = np.diff(np.pad(solid.astype(np.int8), ((0, 0), (1, 1))), axis=1)
    row, begin = np.nonzero(edges == 1)
    return row, begin, np.nonzero(edges == -1)[1]
