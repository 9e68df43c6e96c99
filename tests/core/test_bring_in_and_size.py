import numpy as np
import pytest

from tests.shapes import ball, box, cylinder
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.edition import Edition, factor_for
from ulvet.core.bench.setup import UnknownOnBench
from ulvet.core.bring_in.guess import guess_unit, guess_up
from ulvet.core.geometry.mesh import bounds
from ulvet.core.geometry.placement import placement_of
from ulvet.core.lengths import FigureMM, PrintMM, spoken
from ulvet.core.recipe.step import Part
from ulvet.core.size.check import check_fit, largest_height
from ulvet.core.units import UNITS


@pytest.mark.parametrize(
    ("longest", "unit", "sure"),
    [(75, "mm", True), (10, "mm", True), (1900, "mm", True), (0.07, "m", False), (0.3, "m", False), (2.95, "in", False),
     (7.5, "cm", False), (1.26, "in", False), (5000, "mm", False), (1e-5, "m", False)],
)  # fmt: skip
def test_units_are_guessed_from_size_and_doubted_when_unlikely(longest, unit, sure):
    guess = guess_unit(box(longest / 3, longest / 4, longest))
    assert (guess.value, guess.sure) == (unit, sure)
    assert f"{longest:.4g}" in guess.reason


def test_up_is_z_unless_a_flat_base_says_y():
    assert guess_up(box(10, 10, 30)).value == "z"
    assert guess_up(box(10, 30, 10)).value == "z"  # flat on every side says nothing
    assert guess_up(ball(5)).value == "z"
    lying = cylinder(5, 40)
    assert guess_up(lying).value == "z"
    upright_in_y = type(lying)(lying.vertices @ np.array([[1, 0, 0], [0, 0, 1], [0, -1, 0]]).T, lying.faces)
    guess = guess_up(upright_in_y)
    assert (guess.value, guess.sure) == ("y", False)


@pytest.mark.parametrize("up", ["x", "y", "z"])
@pytest.mark.parametrize("unit", UNITS)
def test_a_placed_figure_stands_on_the_ground_and_finds_its_way_back(unit, up):
    mesh = box(1, 2, 3, at=(100, -50, 7))
    placement = placement_of(mesh, unit, up)
    placed = placement.placed(mesh)
    low, high = bounds(placed)
    assert low[2] == pytest.approx(0, abs=1e-9)
    assert (low + high)[:2] == pytest.approx(0, abs=1e-9)
    assert high[2] == pytest.approx({"x": 1, "y": 2, "z": 3}[up] * UNITS[unit])
    assert placement.in_file(placed.vertices) == pytest.approx(mesh.vertices * UNITS[unit])
    assert np.linalg.det(placement.turn) == pytest.approx(1)  # turned, never mirrored


def test_height_and_factor_exclude_each_other_and_must_be_real():
    assert factor_for(Edition(height=PrintMM(32)), FigureMM(64)) == 0.5
    assert factor_for(Edition(factor=2.5), FigureMM(64)) == 2.5
    assert factor_for(Edition(), FigureMM(64)) == 1
    for wrong in ({"height": 5, "factor": 1}, {"height": -1}, {"height": 0}, {"factor": float("nan")},
                  {"height": float("inf")}):  # fmt: skip
        with pytest.raises(ValueError):
            Edition(**wrong)


def test_figure_lengths_grow_and_print_lengths_stay():
    assert FigureMM(40).printed(0.5) == PrintMM(20)
    assert PrintMM(0.6).in_figure(0.5) == FigureMM(1.2)
    assert [spoken(x) for x in (0.3149, 4.21, 75, 312.4)] == ["0.31", "4.2", "75.0", "312"]


def test_a_figure_too_large_says_which_side_and_what_fits():
    setup = DEFAULT_BENCH.setup(printer_id="lantern-6")
    part = Part("figure", box(40, 30, 200))
    (finding,) = check_fit(part, 1.0, setup, Edition(), DEFAULT_BENCH)
    assert (finding.measured, finding.limit) == (200, 165)
    assert finding.remedies[0].change.edition.height == 165
    assert not check_fit(part, 0.8, setup, Edition(factor=0.8), DEFAULT_BENCH)
    for remedy in finding.remedies[1:]:
        edition = remedy.change.edition
        assert not check_fit(part, 1.0, DEFAULT_BENCH.setup(edition.setting), edition, DEFAULT_BENCH)


def test_a_quarter_turn_counts_as_fitting():
    setup = DEFAULT_BENCH.setup(printer_id="lantern-6")  # 130 x 72 x 165 clear of its edges
    assert not check_fit(Part("figure", box(70, 129, 10)), 1.0, setup, Edition(), DEFAULT_BENCH)
    assert check_fit(Part("figure", box(80, 130, 10)), 1.0, setup, Edition(), DEFAULT_BENCH)
    assert largest_height(np.array([72.0, 130, 10]), setup.printer) == 10


def test_printer_and_material_go_together_or_are_refused():
    assert DEFAULT_BENCH.setup(material_id="matt-filament").printer.process == "filament"
    assert DEFAULT_BENCH.setup(printer_id="long-reed-300").material.process == "filament"
    for wrong in (("", "lantern-6", "matt-filament"), ("", "no-such", None), ("", None, "no-such"), ("no-such",)):
        with pytest.raises(UnknownOnBench):
            DEFAULT_BENCH.setup(*wrong)
