import numpy as np
import pytest

from tests.shapes import ball, box, concatenated
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.geometry.rays import Rays

UP = np.array([[0.0, 0, 1]])


def directions(count, seed=2):
    spread = np.random.default_rng(seed).normal(size=(count, 3))
    return spread / np.linalg.norm(spread, axis=1)[:, None]


@pytest.mark.parametrize("at", [(0, 0, 0), (20_000, -7_000, 3_000)], ids=["at the origin", "far away"])
def test_the_first_hit_is_where_geometry_says(at):
    rays = Rays(box(4, 6, 8, at=at))
    start = np.array([[1.0, 2, 3]]) + at
    for direction, distance in (((1, 0, 0), 3), ((0, -1, 0), 2), ((0, 0, 1), 5), ((0, 0, -1), 3)):
        found, face = rays.first(start, np.array([direction], float))
        assert found[0] == pytest.approx(distance, abs=1e-4)
        assert rays.normals[face[0]] @ direction == pytest.approx(1)


def test_a_ray_that_meets_nothing_says_so():
    distance, face = Rays(box(1, 1, 1)).first(np.array([[5.0, 5, 5]]), UP)
    assert np.isinf(distance[0])
    assert face[0] == -1


def test_more_rays_than_one_batch_come_back_in_order():
    rays = Rays(ball(5, rounds=3))
    spread = directions(300_000)
    distance, _ = rays.first(np.zeros((len(spread), 3)), spread)
    # The facets of a ball of 512 faces lie inside the sphere, the flattest by a cosine.
    met = np.isfinite(distance)
    assert met.mean() > 0.999
    assert distance[met].max() <= 5 + 1e-4
    assert distance[met].min() > 4.6


def test_the_way_out_goes_through_shells_that_overlap_to_the_last():
    chain = concatenated(*(box(4, 4, 4, at=(0, 0, 3 * k)) for k in range(5)))
    length, face = Rays(chain).leaves(np.array([[2.1, 1.7, 1.0]]), UP)
    assert length[0] == pytest.approx(15, abs=1e-2)  # 16 high, begun at 1
    assert face[0] >= 48


def test_there_is_no_way_out_of_an_open_surface():
    mesh = box(4, 4, 4)
    lidless = Mesh(mesh.vertices, mesh.faces[~(mesh.vertices[mesh.faces][:, :, 2] == 4).all(axis=1)])
    length, face = Rays(lidless).leaves(np.array([[2.1, 1.7, 1.0]]), UP)
    assert np.isinf(length[0])
    assert face[0] == -1


def test_what_is_buried_is_told_from_what_is_in_a_cavity():
    inside = ball(3)
    solid = concatenated(ball(8), Mesh(inside.vertices, inside.faces[:, ::-1]))
    points = np.array([[0.1, 0.2, 0.3], [5.0, 0.3, 0.2], [9.0, 0.1, 0.2]])
    for direction in directions(8):
        assert Rays(solid).buried(points, np.tile(direction, (3, 1))).tolist() == [False, True, False]


def test_crossings_count_other_groups_only_and_only_those_that_matter():
    mesh = concatenated(box(4, 4, 2), box(4, 4, 2, at=(0, 0, 5)), box(4, 4, 2, at=(0, 0, 10)))
    group = np.repeat([0, 1, 2], 12)
    start = np.array([[2.1, 1.7, 1.0]])
    counted = np.array([True, True, True])
    assert Rays(mesh).passed(start, UP, group, np.array([0]), counted)[0].tolist() == [4]
    assert Rays(mesh).passed(start, UP, group, np.array([0]), counted & [True, False, True])[0].tolist() == [2]
