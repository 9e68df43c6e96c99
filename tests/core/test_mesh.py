import numpy as np
import pytest

from tests.shapes import ball, box, cylinder, tube
from ulvet.core.geometry.mesh import Mesh, area, bounds, vertex_normals, volume
from ulvet.core.geometry.topology import edges_of, face_shells, is_watertight


@pytest.mark.parametrize(
    ("mesh", "surface", "inside", "tolerance"),
    [
        (box(10, 20, 30), 2200, 6000, 1e-12),
        (cylinder(5, 20, 512), 2 * np.pi * 25 + 2 * np.pi * 5 * 20, np.pi * 25 * 20, 1e-4),
        (tube(10, 8, 15, 512), 2 * np.pi * (100 - 64) + 2 * np.pi * 18 * 15, np.pi * 36 * 15, 1e-4),
        (ball(10, rounds=6), 4 * np.pi * 100, 4 / 3 * np.pi * 1000, 1e-3),
    ],
)
def test_area_and_volume_of_known_shapes(mesh, surface, inside, tolerance):
    assert area(mesh) == pytest.approx(surface, rel=tolerance)
    assert volume(mesh) == pytest.approx(inside, rel=tolerance)
    edges = edges_of(mesh)
    assert is_watertight(edges)
    assert face_shells(mesh, edges)[0] == 1


def test_volume_does_not_depend_on_where_the_figure_lies():
    far = box(10, 20, 30, at=(1e7, -3e6, 5e6))
    assert volume(far) == pytest.approx(6000, rel=1e-9)


def test_bytes_survive_a_round_trip_and_name_the_mesh():
    mesh = ball(3)
    again = Mesh.from_bytes(mesh.to_bytes())
    assert again.hash == mesh.hash
    assert Mesh(mesh.vertices + 1e-9, mesh.faces).hash != mesh.hash
    for wrong in (b"", mesh.to_bytes()[:-1], b"X" + mesh.to_bytes()[1:]):
        with pytest.raises(ValueError):
            Mesh.from_bytes(wrong)


@pytest.mark.parametrize(
    ("vertices", "faces"),
    [
        ([[0, 0, 0], [1, 0, 0], [0, np.nan, 0]], [[0, 1, 2]]),
        ([[0, 0, 0], [1, 0, 0], [0, 1, 0]], [[0, 1, 3]]),
        ([[0, 0, 0], [1, 0, 0], [0, 1, 0]], [[0, 1, -1]]),
        ([[0, 0], [1, 0], [0, 1]], [[0, 1, 2]]),
    ],
)
def test_a_mesh_that_cannot_be_is_refused(vertices, faces):
    with pytest.raises(ValueError):
        Mesh(np.array(vertices, float), np.array(faces, np.int32))


def test_a_mesh_cannot_be_changed():
    with pytest.raises(ValueError):
        box(1, 1, 1).vertices[0, 0] = 5


def test_vertex_normals_look_outward_whatever_the_triangulation():
    mesh = box(2, 2, 2, at=(-1, -1, -1))
    assert np.allclose(vertex_normals(mesh), mesh.vertices / np.sqrt(3))


def test_bounds_of_nothing_are_nothing():
    empty = Mesh(np.empty((0, 3)), np.empty((0, 3), np.int32))
    assert not bounds(empty).any()
    assert volume(empty) == 0
