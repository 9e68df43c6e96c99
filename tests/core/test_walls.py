"""Walls, their kinds and balance on shapes whose answer is known, also with noisy corners."""

import numpy as np
import pytest
import trimesh

from tests.core.test_gauge import shell, turned
from tests.shapes import box
from ulvet.core.gauge.balance.balance import balance_of, tip_angle_on_base, with_inserts
from ulvet.core.gauge.walls.kinds import Kind, kinds_of
from ulvet.core.gauge.walls.thickness import measure_thickness, straight_walls
from ulvet.core.geometry.mesh import Mesh, volume
from ulvet.core.geometry.solids import mesh_of, solids_of
from ulvet.core.geometry.topology import edges_of


def fine(mesh, edge):
    points, faces = trimesh.remesh.subdivide_to_size(mesh.vertices, mesh.faces, edge, max_iter=20)
    whole = trimesh.Trimesh(points, faces)
    return Mesh(np.asarray(whole.vertices, float), np.asarray(whole.faces, np.int32))


def lathe(radii, heights, sides):
    """A surface of rings about z, closed to an axis point at either end where the radius is zero."""
    turn = np.linspace(0, 2 * np.pi, sides, endpoint=False)
    rings = np.stack(
        [np.outer(radii, np.cos(turn)), np.outer(radii, np.sin(turn)), np.repeat(np.array(heights)[:, None], sides, 1)],
        axis=2,
    )
    i, k = np.meshgrid(np.arange(len(radii) - 1), np.arange(sides), indexing="ij")
    a, b, c, d = (sides * (i + x) + (k + y) % sides for x, y in ((0, 0), (0, 1), (1, 0), (1, 1)))
    faces = np.concatenate([np.stack([a, b, d], -1).reshape(-1, 3), np.stack([a, d, c], -1).reshape(-1, 3)])
    whole = trimesh.Trimesh(rings.reshape(-1, 3), faces)
    whole.merge_vertices()
    whole.update_faces(whole.nondegenerate_faces())
    mesh = Mesh(np.asarray(whole.vertices, float), np.asarray(whole.faces, np.int32))
    return mesh if volume(mesh) > 0 else Mesh(mesh.vertices, mesh.faces[:, ::-1])


def pin(radius, height, sides):
    inside = np.linspace(0, height, 40)
    return lathe([0, *np.full(40, radius), 0], [0, *inside, height], sides)


def tube():
    up, down = np.linspace(0, 12, 40), np.linspace(12, 0, 40)
    return lathe([*np.full(40, 5.0), *np.full(40, 4.0), 5.0], [*up, *down, 0], 96)


def torus():
    made = trimesh.creation.torus(8, 1.5, major_sections=160, minor_sections=32)
    return Mesh(np.asarray(made.vertices, float), np.asarray(made.faces, np.int32))


def cone(degrees):
    heights = np.linspace(0, 20, 60)
    return lathe([*(heights * np.tan(np.radians(degrees))), 0], [*heights, 20], 128)


def tapered(degrees):
    """The wall of a cone by what is inside it, and where that is farther from its flat end than the wall is thick."""
    slope = np.tan(np.radians(degrees))
    return (
        lambda v: 2 * np.linalg.norm(v, axis=1) * slope,
        lambda v: (
            (v[:, 2] > 1) & (np.hypot(v[:, 0], v[:, 1]) > 0.9 * v[:, 2] * slope) & (20 - v[:, 2] > 2 * v[:, 2] * slope)
        ),
    )


def known(wall):
    return lambda v: np.full(len(v), wall)


def between(low, high):
    return lambda v: (v[:, 2] > low) & (v[:, 2] < high)


def anywhere(v):
    return np.ones(len(v), bool)


SHAPES = {
    "plate": (fine(box(20, 15, 1), 0.4), known(1.0), lambda v: ((v[:, :2] > 1) & (v[:, :2] < [19, 14])).all(axis=1)),
    "tube": (tube(), known(1.0), between(1, 11)),
    "shell": (shell(10, 9.2), known(0.8), anywhere),
    "torus": (torus(), known(3.0), anywhere),
    **{f"cone of {degrees} degrees": (cone(degrees), *tapered(degrees)) for degrees in (5, 15, 25)},
    **{f"pin of {sides} sides": (pin(0.5, 15, sides), known(1.0), between(1, 14)) for sides in (12, 24)},
}


@pytest.mark.parametrize("noise", [0.0, 0.1])
@pytest.mark.parametrize("name", SHAPES)
def test_walls_are_right_away_from_edges_also_with_noise(name, noise):
    mesh, truth, away = SHAPES[name]
    ends = edges_of(mesh).ends
    length = np.linalg.norm(mesh.vertices[ends[:, 0]] - mesh.vertices[ends[:, 1]], axis=1)
    least = np.full(len(mesh.vertices), np.inf)
    np.minimum.at(least, ends.ravel(), np.repeat(length, 2))
    shaken = mesh.vertices + noise * least[:, None] * np.random.default_rng(3).uniform(-1, 1, mesh.vertices.shape)
    walls = measure_thickness(turned(Mesh(shaken, mesh.faces))).walls[: len(mesh.vertices)]
    asked = away(mesh.vertices)
    off = np.abs(walls[asked] / truth(mesh.vertices[asked]) - 1)
    assert asked.sum() > 200
    assert np.median(off) < 0.02 and np.percentile(off, 95) < 0.06


def test_rays_and_spheres_differ_in_a_cone_as_they_must():
    mesh, truth, away = SHAPES["cone of 15 degrees"]
    asked = away(mesh.vertices)
    straight = straight_walls(mesh)[asked] / truth(mesh.vertices[asked])
    assert np.median(straight) == pytest.approx(1 / (1 - np.tan(np.radians(15)) ** 2), rel=0.01)


def united(*meshes):
    bodies = [solid.body for solid in solids_of(*meshes)]
    return fine(mesh_of(sum(bodies[1:], bodies[0]))[0], 0.4)


@pytest.mark.parametrize(
    ("mesh", "kind"),
    [
        (fine(box(20, 15, 1), 0.4), Kind.FREE),
        (tube(), Kind.HELD),
        (shell(10, 9.2), Kind.HELD),
        (pin(0.5, 15, 12), Kind.PIN),
        (cone(5), Kind.PIN),
        (united(box(3, 8, 8), box(3, 8, 8, at=(10, 0, 0)), box(9, 0.5, 6, at=(2, 4, 0))), Kind.HELD),
        (united(box(3, 8, 8), box(9, 0.5, 6, at=(2, 4, 0))), Kind.FREE),
    ],
    ids=["plate", "tube", "shell", "pin", "spike", "panel between posts", "fin of a post"],
)
def test_walls_are_told_by_how_they_are_held(mesh, kind):
    mesh = turned(mesh)
    thickness = measure_thickness(mesh)
    thin = thickness.walls < 1.2
    assert (kinds_of(mesh, thickness, 1.2)[thin] == kind).mean() > 0.9


def test_what_is_set_into_a_figure_draws_its_middle_of_mass_to_it():
    found = balance_of(box(10, 10, 20), 1.0)
    weighted = with_inserts(found, np.array([found.mass / 2, found.mass / 2]), np.array([[5.0, 5, 19], [9.0, 5, 19]]))
    assert weighted.mass == pytest.approx(2 * found.mass)
    assert weighted.centre == pytest.approx([6, 5, 14.5])
    assert weighted.tip_angle == pytest.approx(np.degrees(np.arctan2(4, 14.5)))
    assert tuple(weighted.tips_to) == pytest.approx((1, 0))


def test_the_balance_of_a_block_is_what_the_textbook_says():
    found = balance_of(box(10, 20, 40, at=(3, 4, 5)), 1.2)
    assert found.mass == pytest.approx(9.6) and found.centre == pytest.approx([8, 14, 25])
    assert found.tip_angle == pytest.approx(np.degrees(np.arctan(5 / 20)), rel=1e-3)
    assert abs(found.tips_to[0]) == pytest.approx(1)
    # On a disc of the same stuff, 30 across and 2 thick: 1.696 g more under it.
    base = np.pi * 15**2 * 2 * 1.2 / 1000
    height = (9.6 * 22 + base * 1) / (9.6 + base)
    angle = np.degrees(np.arctan(15 / height))
    assert tip_angle_on_base(found, 30, 2, 1.2) == pytest.approx(angle, rel=1e-2)
    assert tip_angle_on_base(found, 30, 2, 7.8) > angle


def test_what_leans_out_over_its_foot_falls_by_itself():
    foot, arm = solids_of(box(4, 4, 4), box(40, 4, 4, at=(0, 0, 4)))
    found = balance_of(mesh_of(foot.body + arm.body)[0], 1.0)
    assert found.tip_angle < 0 and found.tips_to[0] == pytest.approx(1)
    assert balance_of(Mesh(np.eye(3), np.array([[0, 1, 2]], np.int32)), 1.0) is None
