import struct

import numpy as np
import pytest

from tests.shapes import ball, box, concatenated
from ulvet.core.gauge.walls.thickness import measure_thickness
from ulvet.core.geometry.mesh import Mesh, bounds, flipped
from ulvet.core.layers.raster import raster_layers
from ulvet.work.display import MOST_TRIANGLES, display_bytes, first_look_bytes, soundings_bytes
from ulvet.work.layer_store import layer_png, layers_bytes, layers_from


def read(data):
    magic, n, m = struct.unpack_from("<4sII", data)
    assert magic == b"ULD1"
    assert len(data) == 12 + 16 * n + 12 * m
    points = np.frombuffer(data, "<f4", 3 * n, 12).reshape(n, 3)
    return points, np.frombuffer(data, "<f4", n, 12 + 12 * n), np.frombuffer(data, "<u4", 3 * m, 12 + 16 * n)


def test_a_light_mesh_is_shown_as_it_is_with_its_walls():
    mesh = box(20, 20, 0.5)
    points, walls, corners = read(display_bytes(mesh, measure_thickness(mesh)))
    assert np.array_equal(points, mesh.vertices.astype(np.float32))
    assert walls == pytest.approx(0.5, rel=0.01)
    assert np.array_equal(corners.reshape(-1, 3), mesh.faces)


def test_a_heavy_mesh_is_thinned_out_and_keeps_its_shape_and_walls():
    outer, inner = ball(30, rounds=7), ball(29, rounds=5)
    mesh = concatenated(outer, Mesh(inner.vertices, inner.faces[:, ::-1]))
    points, walls, corners = read(display_bytes(mesh, measure_thickness(mesh)))
    assert len(corners) // 3 <= MOST_TRIANGLES * 1.02
    assert np.ptp(points, axis=0) == pytest.approx(np.ptp(bounds(mesh), axis=0), rel=0.01)
    assert np.median(walls) == pytest.approx(1.0, rel=0.02)


def test_a_first_look_is_light_as_large_as_the_figure_and_tells_about_how_thick_it_is():
    outer, inner = ball(20, rounds=8), ball(19, rounds=6)
    points, walls, corners = read(first_look_bytes(concatenated(outer, flipped(inner))))
    assert 20_000 < len(corners) // 3 <= MOST_TRIANGLES
    assert np.ptp(points, axis=0) == pytest.approx([40, 40, 40], rel=0.02)
    assert np.median(walls) == pytest.approx(1.0, rel=0.02)


@pytest.mark.parametrize("mesh", [box(20, 20, 0.5), flipped(box(20, 20, 0.5))], ids=["outward", "inside out"])
def test_a_first_look_at_a_light_mesh_is_the_mesh(mesh):
    points, walls, corners = read(first_look_bytes(mesh))
    assert np.array_equal(points, mesh.vertices.astype(np.float32))
    assert np.array_equal(corners.reshape(-1, 3), mesh.faces)
    assert walls == pytest.approx(0.5, rel=0.01)


def test_a_first_look_at_an_open_sheet_has_no_walls():
    sheet = box(20, 20, 0.5)
    flat = Mesh(sheet.vertices, sheet.faces[:2])
    assert (read(first_look_bytes(flat))[1] == 1e6).all()


def test_soundings_are_true_and_lie_on_the_surface():
    mesh = concatenated(box(20, 20, 0.5), box(10, 10, 10, at=(40, 0, 0)))
    said = np.frombuffer(soundings_bytes(mesh, measure_thickness(mesh)), "<f4").reshape(-1, 7)
    points, normals, walls = said[:, :3], said[:, 3:6], said[:, 6]
    assert 0 < len(said) <= 900 and len(np.unique(points, axis=0)) == len(said)
    assert (np.diff(walls[:40]) >= 0).all() and walls[0] == pytest.approx(0.5, rel=0.02)
    level = np.abs(normals[:, 2]) > 0.9
    assert walls[level] == pytest.approx(np.where(points[level, 0] < 30, 0.5, 10), rel=0.02)


def test_layers_survive_the_store_and_can_be_looked_at():
    stack = raster_layers(box(10, 5, 2), 0.05, 0.1)
    again = layers_from(memoryview(layers_bytes(stack)))
    assert np.array_equal(again.row, stack.row)
    assert (again.count, again.shape, again.origin) == (stack.count, stack.shape, stack.origin)
    assert layer_png(again, 3).startswith(b"\x89PNG")
    for wrong in (-1, 40):
        with pytest.raises(IndexError):
            layer_png(again, wrong)
