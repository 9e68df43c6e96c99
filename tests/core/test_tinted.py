"""A figure painted with its walls, read by a library that had no part in writing it."""

import io
import zipfile

import numpy as np
import pytest
import trimesh

from tests.shapes import ball, box
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.edition import Edition
from ulvet.core.files.inspection import inspect_file, inspection_walls
from ulvet.core.formats.read import read_mesh
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.formats.tinted import tinted_zip_bytes
from ulvet.core.gauge.walls.tints import STONE, TINTS, tint_levels
from ulvet.core.geometry.mesh import bounds

LEVELS = [0.4, 0.8, 1.2, 2.0]
COLOURS = [*TINTS, STONE]


def unpacked(packed, folder):
    with zipfile.ZipFile(io.BytesIO(packed)) as archive:
        archive.extractall(folder)
    return trimesh.load(folder / "figure.obj", process=False)


def coloured(scene):
    """Corner positions and the colour of each, by sampling the texture as a viewer would; all parts together."""
    parts = scene.geometry.values() if isinstance(scene, trimesh.Scene) else [scene]
    corners, colours = [], []
    for part in parts:
        picture = np.asarray(part.visual.material.image.convert("RGB"))
        u = part.visual.uv[part.faces.ravel(), 0]
        column = np.minimum((u * picture.shape[1]).astype(int), picture.shape[1] - 1)
        corners.append(part.vertices[part.faces.ravel()])
        colours.append(picture[0, column])
    return np.concatenate(corners), np.concatenate(colours)


def test_every_corner_has_the_tint_of_its_value(tmp_path):
    mesh = ball(5, rounds=3)
    values = np.linspace(0, 3, len(mesh.vertices))
    values[7] = np.inf
    corners, colours = coloured(
        unpacked(tinted_zip_bytes([("Heron, old", mesh, values)], LEVELS, COLOURS, "walls"), tmp_path)
    )
    value = values[[np.linalg.norm(mesh.vertices - corner, axis=1).argmin() for corner in corners]]
    clear = np.abs(value[:, None] - LEVELS).min(axis=1) > 0.01  # at a level itself either tint is right
    want = np.array(COLOURS)[np.searchsorted(LEVELS, np.where(np.isfinite(value), value, 99))]
    assert (colours[clear] == want[clear]).all()
    assert len(np.unique(colours, axis=0)) == 5


def test_parts_keep_their_names_and_the_archive_is_read_back_as_the_same_surface(tmp_path):
    parts = [("heron", ball(6, rounds=2)), ("punt/../&", box(8, 3, 2, at=(10, 0, 0)))]
    packed = tinted_zip_bytes([(n, m, np.ones(len(m.vertices))) for n, m in parts], LEVELS, COLOURS, "walls")
    assert packed == tinted_zip_bytes([(n, m, np.ones(len(m.vertices))) for n, m in parts], LEVELS, COLOURS, "walls")
    path = tmp_path / "painted.zip"
    path.write_bytes(packed)
    assert len(read_mesh(path).faces) == sum(len(mesh.faces) for _, mesh in parts)
    with zipfile.ZipFile(path) as archive:
        assert sorted(archive.namelist()) == ["figure.mtl", "figure.obj", "walls.png"]
        text = archive.read("figure.obj").decode()
        assert [line for line in text.splitlines() if line.startswith("o ")] == ["o heron", "o punt-..-"]


@pytest.mark.parametrize("unit", ["mm", "in"])
def test_the_painted_figure_lies_where_the_sculpt_lies_in_its_file(tmp_path, unit):
    sculpt = box(20, 20, 0.3, at=(500, -70, 33))
    path = tmp_path / "plate.stl"
    path.write_bytes(stl_bytes(sculpt))
    inspection = inspect_file(path, Edition(height=20), unit=unit, up="y")
    corners, colours = coloured(unpacked(inspection_walls(inspection), tmp_path))
    assert np.stack([corners.min(0), corners.max(0)]) == pytest.approx(bounds(sculpt), abs=1e-3)
    assert tint_levels(DEFAULT_BENCH.setup().walls)[0] > 0.3
    assert (colours == TINTS[0]).all()
