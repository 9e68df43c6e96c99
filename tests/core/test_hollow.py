import numpy as np
import pytest
import trimesh

from tests.shapes import ball, box, concatenated, tube
from ulvet.core.geometry.mesh import Mesh, bounds, flipped, scaled, volume
from ulvet.core.geometry.topology import edges_of, is_watertight
from ulvet.core.hollow.hollow_mesh import hollow_mesh, walls_between
from ulvet.core.hollow.hollowing import CannotHollow, HollowRegion, pitch_for
from ulvet.core.hollow.spaces import lies_in, spaces_of
from ulvet.core.hollow.steps import Hollow, RegionInside
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.step import Context, Part


def bumpy(radius, seed, bumps=6):
    """A ball with smooth bumps."""
    mesh, rng = ball(radius, rounds=5), np.random.default_rng(seed)
    out = mesh.vertices / radius
    ways = rng.normal(size=(bumps, 3))
    ways /= np.linalg.norm(ways, axis=1)[:, None]
    swell = (np.exp(6 * (out @ ways.T - 1)) * rng.uniform(-0.25, 0.25, bumps)).sum(axis=1)
    return Mesh(mesh.vertices * (1 + swell)[:, None], mesh.faces)


def walls_by_trimesh(made, count=20_000):
    """The wall at points of the inside, by an independent library."""
    inside = concatenated(*made.spaces)
    points, _ = trimesh.sample.sample_surface(
        trimesh.Trimesh(inside.vertices, inside.faces, process=False), count, seed=1
    )
    _, away, _ = trimesh.proximity.closest_point(
        trimesh.Trimesh(made.skin.vertices, made.skin.faces, process=False), points
    )
    return away


@pytest.mark.parametrize(
    ("mesh", "wall", "room"),
    [
        (ball(12), 2.0, 4 / 3 * np.pi * 10**3),
        (box(24, 18, 15), 1.5, 21 * 15 * 12),
        (tube(12, 4, 20, 128), 2.0, np.pi * (10**2 - 6**2) * 16),
    ],
    ids=["ball", "box", "tube"],
)
def test_the_wall_and_the_room_are_those_asked_for(mesh, wall, room):
    made = hollow_mesh(mesh, wall, 2.0)
    away = walls_by_trimesh(made, 4_000)
    assert np.median(away) == pytest.approx(wall, rel=0.03)
    assert away.min() > 0.9 * wall
    assert sum(volume(space) for space in made.spaces) == pytest.approx(room, rel=0.02)
    assert is_watertight(edges_of(made.mesh))
    assert volume(made.mesh) == pytest.approx(volume(mesh) - sum(map(volume, made.spaces)))


@pytest.mark.parametrize("seed", [1, 2])
def test_a_bumpy_solid_has_its_wall_everywhere(seed):
    made = hollow_mesh(bumpy(11, seed), 1.8, 2.0)
    away = walls_between(made.skin, made.spaces)
    assert np.median(away) == pytest.approx(1.8, rel=0.03)
    assert away.min() > 0.9 * 1.8


def test_a_limb_that_would_be_narrow_inside_stays_solid():
    body = box(20, 20, 20)
    limb = box(30, 5, 5, at=(15, 7.5, 7.5))
    wide = hollow_mesh(concatenated(body, limb), 1.5, 1.5)
    narrow = hollow_mesh(concatenated(body, limb), 1.5, 4.0)
    tip = np.array([[40.0, 10, 10]])
    assert any(lies_in(space, tip)[0] for space in wide.spaces)
    assert not any(lies_in(space, tip)[0] for space in narrow.spaces)


def test_overlapping_shells_are_one_before_they_are_hollowed():
    made = hollow_mesh(concatenated(box(16, 16, 16), box(16, 16, 16, at=(8, 0, 0))), 2.0, 2.0)
    assert len(made.spaces) == 1
    assert volume(made.spaces[0]) == pytest.approx(20 * 12 * 12, rel=0.02)
    assert volume(made.mesh) == pytest.approx(24 * 16 * 16 - volume(made.spaces[0]))


def test_a_cavity_becomes_one_with_the_space_about_it():
    made = hollow_mesh(concatenated(ball(12), flipped(ball(4))), 2.0, 2.0)
    (space,) = spaces_of(made.mesh)
    assert volume(space.mesh) == pytest.approx(4 / 3 * np.pi * 10**3, rel=0.02)
    assert made.saved == pytest.approx(volume(space.mesh) - volume(ball(4)), rel=0.02)


def test_regions_stay_solid_or_get_thicker():
    mesh = box(30, 20, 20)
    solid = hollow_mesh(mesh, 2.0, 2.0, [HollowRegion(np.array([0.0, 10, 10]), 8.0, None)])
    assert not lies_in(solid.spaces[0], np.array([[4.0, 10, 10], [7.0, 10, 10]])).any()
    assert lies_in(solid.spaces[0], np.array([[10.0, 10, 10]])).all()
    thick = hollow_mesh(mesh, 2.0, 2.0, [HollowRegion(np.array([15.0, 10, 0]), 8.0, 4.0)])
    inside = thick.spaces[0]
    assert lies_in(inside, np.array([[15, 10, 3.7], [15.0, 10, 4.3]])).tolist() == [False, True]
    assert lies_in(inside, np.array([[26.0, 10, 2.3]])).all()


@pytest.mark.parametrize(
    ("mesh", "wall", "says"),
    [
        (ball(5), 4.8, "thick enough"),
        (Mesh(ball(5).vertices, ball(5).faces[1:]), 1.0, "does not close"),
        (flipped(ball(5)), 1.0, "inside out"),
        (Mesh(np.zeros((0, 3)), np.zeros((0, 3), np.int32)), 1.0, "does not close"),
    ],
    ids=["too thick", "open", "inside out", "nothing"],
)
def test_what_cannot_be_hollowed_is_said_and_changes_nothing(mesh, wall, says):
    with pytest.raises(CannotHollow, match=says):
        hollow_mesh(mesh, wall, 1.0)
    part = Part("figure", mesh)
    after, receipt = Hollow(wall=wall).change(part, Context({"factor": 1.0}, ("factor",)))
    assert after is part
    assert says in receipt.not_done


def test_the_grid_is_coarser_where_memory_asks_and_says_so_where_it_cannot_be():
    assert pitch_for(box(20, 20, 20), 2.0) == pytest.approx(0.2)
    assert 0.2 < pitch_for(box(100, 100, 100), 2.0) <= 0.4
    with pytest.raises(CannotHollow, match="too fine"):
        pitch_for(box(400, 400, 400), 2.0)


def test_the_wall_stays_in_mm_at_another_size_and_the_skin_keeps_its_bits():
    part = Part("figure", scaled(ball(10, at=(3, 1, 10)), 1 / 3))
    small, large = (
        Hollow(wall=PrintMM(1.5)).change(part, Context({"factor": factor}, ("factor",)))[0] for factor in (3.0, 6.0)
    )
    for made, factor in ((small, 3.0), (large, 6.0)):
        (space,) = spaces_of(scaled(made.mesh, factor))
        assert volume(space.mesh) == pytest.approx(4 / 3 * np.pi * (10 * factor / 3 - 1.5) ** 3, rel=0.02)
        assert np.array_equal(made.mesh.vertices[: len(part.mesh.vertices)], part.mesh.vertices)


def test_a_region_that_finds_no_surface_is_told():
    place = Anchor(point=(FigureMM(0), FigureMM(0), FigureMM(90)))
    step = Hollow(regions=(RegionInside(place=place, radius=FigureMM(3)),))
    _, receipt = step.change(Part("figure", ball(12)), Context({"factor": 1.0}, ("factor",)))
    assert [one.number for one in receipt.lost] == [0]


def test_spaces_in_a_space_are_told_apart():
    shells = [ball(12), flipped(ball(9)), ball(6), flipped(ball(3))]
    spaces = spaces_of(concatenated(*shells))
    assert [space.sealed for space in spaces] == [True, True]
    low, high = bounds(spaces[1].mesh)
    assert (high - low).max() == pytest.approx(6, rel=0.01)
    assert spaces_of(ball(3)) == []
