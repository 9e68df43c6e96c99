"""Layers as pictures, written and read back."""

import io
import json
import zipfile

import numpy as np
import pytest
from PIL import Image

from tests.core.test_hollow import bumpy
from tests.shapes import box, concatenated
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.files.layer_pictures import LAYERS_JSON, layer_archive, read_layer_archive
from ulvet.core.formats.archive import archive_bytes
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.layers.raster import raster_layers

SETUP = DEFAULT_BENCH.setup()


def solid(stack):
    """Every solid pixel as (layer, row, column)."""
    layer = np.repeat(np.arange(stack.count), np.diff(stack.starts))
    long = stack.end - stack.begin
    column = np.concatenate([np.arange(a, b) for a, b in zip(stack.begin, stack.end, strict=True)] or [[]])
    return set(zip(np.repeat(layer, long).tolist(), np.repeat(stack.row, long).tolist(), column.tolist(), strict=True))


@pytest.fixture
def written(tmp_path):
    stack = raster_layers(concatenated(bumpy(4, 3), box(1, 1, 1, at=(9, 2, 3))), 0.2, 0.1)
    path = tmp_path / "layers.zip"
    path.write_bytes(layer_archive(stack, SETUP))
    return stack, path


def test_layers_read_back_are_the_layers_that_were_written(written):
    stack, path = written
    again = read_layer_archive(path)
    assert (again.layer, again.pixel, again.origin, again.shape) == (0.2, 0.1, stack.origin, stack.shape)
    assert solid(again) == solid(stack)
    assert again.areas == pytest.approx(stack.areas)


def test_a_picture_is_seen_from_above_with_the_back_at_its_top(written):
    stack, path = written
    with zipfile.ZipFile(path) as archive:
        said = json.loads(archive.read(LAYERS_JSON))
        names = archive.namelist()
        picture = np.asarray(Image.open(io.BytesIO(archive.read("00038.png"))).convert("1"))
    assert len(names) == 1 + said["layers"] == 1 + stack.count
    assert said["begins_s"][1] == pytest.approx(SETUP.setting.times.seconds_per_first_layer)
    low = np.array(said["origin_mm"])
    rows, columns = np.nonzero(picture)
    small = columns * 0.1 + low[0] > 8.9
    assert small.any()
    front = (said["deep"] - 1 - rows[small]) * 0.1 + low[1]
    assert front.min() == pytest.approx(2, abs=0.11)
    assert front.max() == pytest.approx(3, abs=0.11)


@pytest.mark.parametrize(
    ("spoil", "says"),
    [
        (lambda files: files.pop("00002.png"), "lacks 00002.png"),
        (lambda files: files.pop(LAYERS_JSON), "has no layers.json"),
        (lambda files: files.update({LAYERS_JSON: b"[]"}), "has no layers.json"),
        (lambda files: files.update({"00002.png": b"no picture"}), "lacks 00002.png"),
        (lambda files: files.update({"00002.png": one_pixel()}), "is 1 x 1 pixels"),
        (
            lambda files: files.update({LAYERS_JSON: files[LAYERS_JSON].replace(b'"layers": ', b'"layers": 9')}),
            "begins",
        ),
    ],
)
def test_an_archive_that_is_not_whole_is_refused(written, spoil, says):
    _, path = written
    with zipfile.ZipFile(path) as archive:
        files = {name: archive.read(name) for name in archive.namelist()}
    spoil(files)
    path.write_bytes(archive_bytes(list(files.items())))
    with pytest.raises(UnreadableFile, match=says):
        read_layer_archive(path)


def more_layers(described):
    return described.replace(b'"layers": ', b'"layers": 9')


def one_pixel():
    buffer = io.BytesIO()
    Image.new("1", (1, 1)).save(buffer, "PNG")
    return buffer.getvalue()
