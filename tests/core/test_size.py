"""Sizes against worked examples, walls at other sizes against the check itself, measurements against geometry."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.depth import of_all
from tests.shapes import ball, box, concatenated, cylinder, subdivided, tube
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.edition import Edition
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.foreign.shapes import foreign_mesh, yardsticks
from ulvet.core.foreign.steps import Block, Foreign, Round, ScrewBoss
from ulvet.core.gauge.walls.kinds import limit_for
from ulvet.core.gauge.walls.place_names import places_with_kinds
from ulvet.core.gauge.walls.thickness import measure_thickness
from ulvet.core.geometry.mesh import bounds, volume
from ulvet.core.geometry.topology import edges_of, is_watertight
from ulvet.core.layers.estimate import Estimate
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.changes import with_steps_added
from ulvet.core.recipe.runner import Recipe, run_recipe
from ulvet.core.size.consequences import estimate_at
from ulvet.core.size.measure import measure_between
from ulvet.core.size.scales import SizeScale, survey_sizes
from ulvet.core.size.steps import MeasureFigure
from ulvet.core.size.ways import UnusableSize, figure_size, way_adapter

# A figure 20 wide, 10 deep, 40 tall, standing on a disc 16 across.
FIGURE = figure_size(cylinder(8, 1, 64), box(20, 10, 39, at=(-10, -5, 1)))


def worked(**way):
    return way_adapter.validate_python(way).work(FIGURE)


@pytest.mark.parametrize(
    ("way", "factor"),
    [
        ({"way": "height", "height": 75}, 75 / 40),
        ({"way": "eye", "eye": 28}, 28 / (40 * 14 / 15)),
        ({"way": "eye", "eye": 28, "at": 35}, 0.8),
        ({"way": "ratio", "n": 35, "real": 1750}, 50 / 40),
        ({"way": "percent", "percent": 150}, 1.5),
        ({"way": "match", "length": 12.5, "wanted": 5}, 0.4),
        ({"way": "base", "diameter": 32, "rim": 0}, 2.0),
        ({"way": "base", "diameter": 34, "rim": 1}, 2.0),
        ({"way": "fit", "printer": "lantern-6"}, 165 / 40),
    ],
)
def test_every_way_against_its_worked_example(way, factor):
    found = worked(**way)
    assert found.factor == pytest.approx(factor, rel=2e-3)
    assert found.working[-1].startswith("factor ")
    assert len(found.working) >= 2


@pytest.mark.parametrize(
    "way",
    [
        {"way": "base", "diameter": 4, "rim": 2},
        {"way": "match", "length": 1e-6, "wanted": 100_000},
        {"way": "percent", "percent": 1e-5},
    ],
)
def test_sizes_that_cannot_be_are_refused_with_a_sentence(way):
    with pytest.raises(UnusableSize, match=r"\w+ .*[.:]"):
        worked(**way)


def test_a_figure_that_stands_on_a_point_fills_no_base():
    spike = figure_size(ball(10))
    with pytest.raises(UnusableSize, match="single point"):
        way_adapter.validate_python({"way": "base", "diameter": 30}).work(spike.model_copy(update={"footprint": 0}))


@settings(max_examples=of_all(25), deadline=None)
@given(st.tuples(*[st.floats(2, 200) for _ in range(3)]), st.sampled_from(["lantern-6", "lantern-10", "long-reed-300"]))
def test_turned_to_fit_it_does_fit_and_is_no_smaller_than_standing(size, printer):
    mesh = box(*size)
    figure = figure_size(mesh)
    standing = way_adapter.validate_python({"way": "fit", "printer": printer}).work(figure)
    turned = way_adapter.validate_python({"way": "fit", "printer": printer, "turned": True}).work(figure)
    # Heights are rounded down to a hundredth of a millimetre, corners to a ten-thousandth of the figure.
    assert turned.factor >= standing.factor * (1 - 3e-4) - 0.011 / size[2]
    from ulvet.core.recipe.stance import turn_to

    points = mesh.vertices @ turn_to(np.array(turned.turned.up), turned.turned.spin).T * turned.factor
    wide, deep, tall = DEFAULT_BENCH.setup(printer_id=printer).printer.room
    x, y, z = np.ptp(points, axis=0)
    assert z <= tall * 1.002
    assert min(max(x / wide, y / deep), max(y / wide, x / deep)) <= 1.002


def test_a_long_rod_fits_larger_along_the_diagonal():
    rod = figure_size(box(1, 1, 100))
    turned = way_adapter.validate_python({"way": "fit", "printer": "lantern-6", "turned": True}).work(rod)
    diagonal = float(np.linalg.norm([132, 74, 165]))
    assert 0.95 * diagonal < 100 * turned.factor < diagonal


def test_thin_places_at_any_size_are_those_of_the_check():
    figure = concatenated(
        box(10, 10, 4), cylinder(0.5, 20, 24, at=(2, 2, 3)), cylinder(0.25, 9, 24, at=(-2, 2, 3)), tube(3, 2.5, 8)
    )
    walls, setup = measure_thickness(figure), DEFAULT_BENCH.setup()
    height = FigureMM(np.ptp(figure.vertices[:, 2]))
    scale = SizeScale([(figure, walls)], height, setup, PrintMM(5))
    for tall in (5, 12, 23, 40, 90, 200):
        factor = tall / height
        kinded = places_with_kinds(figure, walls, setup.walls, factor)
        found = scale.at(PrintMM(tall))
        assert found.thin == len(kinded)
        assert found.stops == sum(place.wall * factor < limit_for(setup.walls, kind).stop for place, kind in kinded)
    with pytest.raises(ValueError, match="small"):
        scale.at(PrintMM(4))


def test_the_smallest_size_that_prints_is_where_the_thinnest_wall_reaches_its_limit():
    pole = concatenated(box(10, 10, 4), cylinder(0.5, 20, 48, at=(2, 2, 3)))
    height = FigureMM(23)
    survey = survey_sizes([(pole, measure_thickness(pole))], height, PrintMM(23), DEFAULT_BENCH.setup())
    # A pole 1 mm across prints from 0.45 mm on.
    assert survey.smallest == pytest.approx(0.45 * 23, rel=0.03)
    assert len(survey.sizes) == 49
    assert survey.near(PrintMM(23)).height == pytest.approx(23)
    assert survey.near(PrintMM(500)) is None


def test_costs_at_another_size_grow_with_it_as_solids_do():
    now = Estimate(layers=1000, seconds=8380.0, material_ml=10.0, money=0.42, peak_area_mm2=50.0, model="")
    twice = estimate_at(now, 2.0, DEFAULT_BENCH.setup())
    assert (twice.layers, twice.material_ml) == (2000, 80.0)
    assert twice.money == pytest.approx(80 * 0.042)
    assert twice.seconds == pytest.approx(5 * 36 + 1995 * 8.2)


# Measuring


def test_measurements_against_geometry():
    cube, globe = subdivided(subdivided(box(10, 10, 10))), ball(10, rounds=5)
    corners = np.array([[0.0, 0, 10], [10, 0, 10], [10, 10, 10]])
    assert measure_between("straight", corners[[0, 2]], cube).value == pytest.approx(200**0.5)
    assert measure_between("angle", corners, cube).value == pytest.approx(90)
    assert measure_between("diameter", corners, cube).value == pytest.approx(200**0.5)
    # Over two sides of a cube, unfolded: from the middle of one to the middle of the next is 10 mm.
    over = measure_between("surface", np.array([[5.0, 5, 10], [10, 5, 5]]), cube).value
    assert over == pytest.approx(10, rel=1e-6)
    half_way = measure_between("surface", np.array([[10.0, 0, 0], [0, 10.0, 0]]), globe).value
    assert half_way == pytest.approx(5 * np.pi, rel=5e-3)
    assert measure_between("girth", np.array([[10.0, 0, 0]]), globe).value == pytest.approx(20 * np.pi, rel=5e-3)
    upright = measure_between("girth", np.array([[5.0, 5, 10]]), cube, np.array([1.0, 0, 0])).value
    assert upright == pytest.approx(40, rel=1e-3)


@pytest.mark.parametrize(
    ("how", "points", "why"),
    [
        ("diameter", [[0, 0, 0], [5, 0, 0], [10, 0, 0]], "one line"),
        ("angle", [[0, 0, 0], [0, 0, 0], [10, 0, 0]], "one place"),
        ("surface", [[0, 0, 0], [30, 0, 0]], "no surface joins"),
    ],
)
def test_what_cannot_be_measured_says_why(how, points, why):
    apart = concatenated(box(10, 10, 10), box(10, 10, 10, at=(30, 0, 0)))
    assert why in measure_between(how, np.array(points, float), apart).why


def test_a_measurement_keeps_its_name_and_follows_the_figure_and_its_size():
    mesh = box(20, 10, 40)
    step = BringIn(source=mesh.hash, name="post.stl")
    ends = (Anchor(point=(-10, -5, 40), normal=None), Anchor(point=(10, -5, 40), normal=None))
    recipe = with_steps_added(Recipe(steps=(step,)), (MeasureFigure(name="brow", how="straight", places=ends),))
    run = run_recipe(recipe, {mesh.hash: mesh}, Edition(height=PrintMM(80)))
    assert (run.receipts[1].figure, run.receipts[1].printed) == pytest.approx((20, 40))
    assert "brow, point to point: 40.0 mm" in "".join(map(str, recipe.steps[1].said(run.receipts[1])))
    again = with_steps_added(recipe, (MeasureFigure(name="brow", how="straight", places=ends[::-1]),))
    assert len(again.steps) == 2
    with pytest.raises(ValueError, match="takes 3 picks"):
        MeasureFigure(name="brow", how="angle", places=ends)


# Foreign objects


@pytest.mark.parametrize(
    ("thing", "size", "inside"),
    [
        (Round(diameter=10, length=30), (10, 10, 30), np.pi * 25 * 30),
        (Round(diameter=10, length=30, diameter_above=4), (10, 10, 30), np.pi * 10 * (25 + 10 + 4)),
        (Block(wide=3, deep=4, tall=5), (3, 4, 5), 60),
        (ScrewBoss(diameter=8, hole=4, length=6), (8, 8, 6), np.pi * 12 * 6),
    ],
)
def test_a_foreign_thing_keeps_its_own_size_whatever_the_figures(thing, size, inside):
    step = Foreign(name="neck", thing=thing, at=(5, 0, 0))
    for factor in (0.5, 2.0):
        mesh = foreign_mesh(step, factor, {})
        assert np.ptp(bounds(mesh), axis=0) * factor == pytest.approx(size, rel=2e-3)
        assert volume(mesh) * factor**3 == pytest.approx(inside, rel=5e-3)
        assert is_watertight(edges_of(mesh))
        assert bounds(mesh)[:, 0].mean() == pytest.approx(5)


def test_a_foreign_thing_gives_its_lengths_and_is_no_part_of_the_figure():
    mesh = box(20, 10, 40)
    step = Foreign(name="screw", thing=ScrewBoss(diameter=8, hole=4, length=6))
    assert yardsticks(step, {}) == {"diameter": 8, "hole": 4, "length": 6}
    run = run_recipe(Recipe(steps=(BringIn(source=mesh.hash, name="a.stl"), step)), {mesh.hash: mesh}, Edition())
    assert [part.name for part in run.parts] == ["figure"]
    with pytest.raises(ValueError, match="narrower"):
        ScrewBoss(diameter=4, hole=4, length=6)
