import numpy as np
import pytest

from tests.shapes import ball, box, concatenated, cylinder, tube, turned
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.geometry.mesh import bounds, flipped, translated
from ulvet.core.geometry.solids import mesh_of, solids_of
from ulvet.core.hollow.opening_steps import Vent
from ulvet.core.layers.cup_findings import CUP_PRESSURE, cup_findings, cups_of
from ulvet.core.layers.cup_vents import vent_for
from ulvet.core.layers.cups import find_cups
from ulvet.core.layers.raster import raster_layers
from ulvet.core.recipe.step import Context, Part

LAYER, PIXEL = 0.05, 0.034


def without(mesh, *others):
    first, *rest = (one.body for one in solids_of(mesh, *others))
    for body in rest:
        first = first - body
    return mesh_of(first)[0]


def cups(mesh):
    return find_cups(raster_layers(mesh, LAYER, PIXEL))


def bar(radius, height, x=0.0, y=0.0, z=0.0):
    return cylinder(radius, height, 96, (x, y, z))


FLOOR_ON_PLATE = without(bar(8, 10), bar(6, 10, z=2))
MOUTH_ON_PLATE = without(bar(8, 10), bar(6, 10, z=-2))
TWO = without(box(30, 14, 8), bar(5, 8, 8, 7, 2), bar(5, 8, 22, 7, 2))
BOTTLE = without(bar(8, 14), bar(6, 6, z=3), bar(1.5, 6, z=8.9))
SEALED = concatenated(ball(9), flipped(ball(7)))
DISC = np.pi * 0.9993  # the area of a disc of 96 sides, in squares of its radius


@pytest.mark.parametrize(
    ("mesh", "expected"),
    [
        (FLOOR_ON_PLATE, [(DISC * 36 * 8, 40, 199)]),
        (MOUTH_ON_PLATE, [(DISC * 36 * 8, 0, 159)]),
        (TWO, [(DISC * 25 * 6, 40, 159)] * 2),
        (BOTTLE, [(DISC * (36 * 6 + 1.5**2 * 5), 60, 279)]),
        (SEALED, [(4 / 3 * np.pi * 343, 40, 319)]),
        (concatenated(FLOOR_ON_PLATE, translated(bar(8, 2), np.array([0, 0, 10.0]))), [(DISC * 36 * 8, 40, 199)]),
    ],
    ids=["floor on the plate", "mouth on the plate", "two in one", "bottle neck", "sealed", "lidded"],
)
def test_a_cup_has_its_volume_and_its_layers(mesh, expected):
    found = cups(mesh)
    assert len(found) == len(expected)
    for cup, (volume, first, last) in zip(found, expected, strict=True):
        assert cup.millilitres * 1000 == pytest.approx(volume, rel=0.03)
        assert abs(cup.first - first) <= 1 and abs(cup.last - last) <= 1


def test_a_cup_that_leans_is_one_until_its_lowest_rim():
    leaning = turned(without(bar(8, 14), bar(6, 14, z=2)), "y", 25)
    low, _ = bounds(leaning)
    (cup,) = cups(translated(leaning, -low))
    full = DISC * 36 * 12
    assert 0.6 * full < cup.millilitres * 1000 < full
    assert not cup.sealed


@pytest.mark.parametrize(
    "mesh",
    [
        ball(8),
        box(10, 10, 10),
        turned(box(10, 10, 10), "x", 40),
        turned(tube(8, 6, 12), "y", 90),
        concatenated(MOUTH_ON_PLATE, *(box(2, 2, 3, at=(x, 0, -3)) for x in (-8.0, 6.0))),
        without(FLOOR_ON_PLATE, turned(bar(1, 20, x=-3), "y", 90)),
        without(bar(8, 4), bar(6, 4, z=3.95)),
        without(bar(1.6, 10), bar(1.2, 10, z=2)),
    ],
    ids=["ball", "box", "box on its edge", "tube on its side", "raised", "vented", "shallow", "narrow mouth"],
)
def test_none_is_invented(mesh):
    assert not cups(mesh)


def test_a_gap_narrower_than_the_least_vent_does_not_breathe():
    for wide, number in ((0.3, 1), (1.5, 0)):
        slit = box(20, wide, 9, at=(0, -wide / 2, 2))
        assert len(cups(without(FLOOR_ON_PLATE, slit))) == number, wide


@pytest.mark.parametrize("mesh", [FLOOR_ON_PLATE, MOUTH_ON_PLATE], ids=["floor", "mouth"])
def test_its_vent_cures_it(mesh):
    part, setup = Part("figure", mesh), DEFAULT_BENCH.setup()
    stack = raster_layers(mesh, LAYER, PIXEL)
    (cup,) = cups_of(part, stack, 1.0, setup.supports)
    assert cup.newtons == pytest.approx(DISC * 36 * CUP_PRESSURE, rel=0.03)
    finding = cup_findings(part, [cup], setup.setting)[0]
    (vent,) = finding.remedies[0].change.steps
    assert isinstance(vent, Vent)
    (vented,), receipt = vent.divide(part, Context({"factor": 1.0}, vent.needs))
    assert receipt.openings == 1
    assert not cups(vented.mesh)
    raised = [remedy.change.steps[0] for remedy in finding.remedies if "Raise" in remedy.label]
    assert [step.lift for step in raised] == [setup.supports.lift] * (cup.cup.first == 0)


def test_a_cup_behind_a_wall_that_no_drill_goes_through_has_no_vent():
    mesh = without(box(60, 60, 8), bar(5, 8, 30, 30, 2))
    stack = raster_layers(mesh, LAYER, PIXEL)
    (cup,) = find_cups(stack)
    assert vent_for(stack, cup) is None


def test_a_sealed_space_is_told_with_the_space():
    part, setup = Part("figure", SEALED), DEFAULT_BENCH.setup()
    (cup,) = cups_of(part, raster_layers(SEALED, LAYER, PIXEL), 1.0, setup.supports)
    assert cup.is_sealed_space
    assert not cup_findings(part, [cup], setup.setting)


def test_what_bars_of_a_raft_shut_in_is_none():
    frame = without(box(30, 30, 0.7), box(20, 20, 0.7, at=(5, 5, 0)))
    raised = translated(box(20, 20, 5, at=(5, 5, 0)), np.array([0, 0, 5.0]))
    posts = [box(1, 1, 4.8, at=(x, 2, 0.4)) for x in (2, 27)]
    part = Part("figure", raised, supports=concatenated(frame, *posts))
    stack = raster_layers(concatenated(raised, part.supports), LAYER, PIXEL)
    assert find_cups(stack)
    assert not cups_of(part, stack, 1.0, DEFAULT_BENCH.setup().supports)
