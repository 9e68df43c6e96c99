import numpy as np
import pytest

from tests.shapes import ball, box, concatenated, cylinder
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.geometry.mesh import flipped, volume
from ulvet.core.geometry.solids import mesh_of, solids_of
from ulvet.core.geometry.topology import edges_of, is_watertight
from ulvet.core.hollow.check import check_pocket, check_resin_left, check_spaces
from ulvet.core.hollow.hollow_mesh import hollow_mesh
from ulvet.core.hollow.opening_steps import Drain, FillSpaces
from ulvet.core.hollow.pocket_steps import Pocket
from ulvet.core.hollow.retained_resin import pools_in
from ulvet.core.hollow.spaces import mouths_of, spaces_of
from ulvet.core.hollow.steps import Hollow, RegionInside
from ulvet.core.hollow.survey import look_at_spaces, resin_left
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.mirroring import mirrored_part
from ulvet.core.recipe.stance import Stance
from ulvet.core.recipe.step import Context, Part

SETUP = DEFAULT_BENCH.setup()
UP, DOWN, FRONT = np.array([0, 0, 1.0]), np.array([0, 0, -1.0]), (0.0, -1.0, 0.0)
HOLLOW = hollow_mesh(box(30, 20, 24), 2.0, 2.0).mesh
IN_HOLLOW = 26 * 16 * 20 / 1000


def at(*places):
    return tuple(Anchor.at(np.array(point, float), np.array(way, float), "") for point, way in places)


def opened(part, step, factor=1.0):
    return step.divide(part, Context({"factor": factor, "show_side": None}, step.needs))


def findings(part):
    return check_spaces(part, look_at_spaces(part, 1.0, None), (), SETUP)


def test_it_finds_both_ends_away_from_what_shows_and_writes_them_down():
    step = Drain(id=4)
    ((part,), receipt) = step.divide(Part("figure", HOLLOW), Context({"factor": 1.0, "show_side": FRONT}, step.needs))
    assert receipt.openings == 2
    low, high = sorted(part.openings, key=lambda one: one.point[2])
    assert low.point[2] < 6 and high.point[2] > 18
    assert all(np.dot(one.way, FRONT) < 0.1 for one in part.openings)
    assert step.written_down(receipt).places == receipt.found
    assert is_watertight(edges_of(part.mesh))
    (space,) = spaces_of(part.mesh, mouths_of(part.openings, 1.0))
    assert space.mouths == (0, 1)
    assert space.millilitres == pytest.approx(IN_HOLLOW, rel=0.02)
    assert not findings(part)
    assert not resin_left(part, 1.0).pools


def test_a_sealed_space_stops_and_is_opened_or_filled():
    part = Part("figure", HOLLOW)
    (finding,) = findings(part)
    assert finding.code == "sealed-void"
    assert finding.measured == pytest.approx(IN_HOLLOW, rel=0.02)
    opening, filling = (remedy.change.steps[0] for remedy in finding.remedies)
    assert not findings(opened(part, opening)[0][0])
    filled, receipt = filling.change(part, Context({"factor": 1.0}, filling.needs))
    assert receipt.filled == 1
    assert volume(filled.mesh) == pytest.approx(30 * 20 * 24)


def test_a_tiny_space_is_proposed_to_be_filled_and_the_large_one_kept():
    mesh = concatenated(box(40, 20, 24), flipped(ball(1.5, at=(3, 10, 12))), flipped(ball(8, at=(20, 10, 12))))
    part = Part("figure", mesh)
    fill = findings(part)[0].remedies[1].change.steps[0]
    made, receipt = fill.change(part, Context({"factor": 1.0}, fill.needs))
    assert receipt.filled == 1
    assert volume(made.mesh) == pytest.approx(40 * 20 * 24 - volume(ball(8)), rel=1e-6)
    every, _ = FillSpaces(most_ml=100).change(part, Context({"factor": 1.0}, fill.needs))
    assert volume(every.mesh) == pytest.approx(40 * 20 * 24)


@pytest.mark.parametrize(
    ("place", "says"),
    [
        (((30, 2.5, 12), (1, 0, 0)), "beside the wall"),
        (((30, 1.0, 12), (1, 0, 0)), "No space lies behind"),
    ],
    ids=["half in a wall", "into a wall"],
)
def test_an_opening_that_cannot_be_cut_is_refused_with_a_sentence(place, says):
    part = Part("figure", HOLLOW)
    parts, receipt = opened(part, Drain(places=at(place)))
    assert parts == (part,)
    assert receipt.refused == 1

    assert says in receipt.not_done


def test_a_solid_has_no_space_to_open():
    part = Part("figure", box(9, 9, 9))
    parts, receipt = opened(part, Drain(places=at(((9, 4, 4), (1, 0, 0)))))
    assert parts == (part,)
    assert "no space" in receipt.not_done


def test_each_opening_may_have_a_plug_that_fits_it():
    part = Part("figure", HOLLOW)
    (whole, *plugs), receipt = opened(part, Drain(id=9, places=at(((30, 10, 12), (1, 0, 0))), diameter=4, plug=True))
    assert receipt.plugs == len(plugs) == 1
    assert plugs[0].name == "figure.9-plug-1"
    hole = volume(HOLLOW) - volume(whole.mesh)
    assert 0.85 * hole < volume(plugs[0].mesh) < hole


def test_a_space_is_judged_as_it_stands():
    low = Drain(places=at(((30, 10, 4), (1, 0, 0)), ((0, 10, 20), (-1, 0, 0))), diameter=3)
    ((part,), _) = opened(Part("figure", HOLLOW), low)
    assert not findings(part)
    lying = Part("figure", part.mesh, Stance(up=(0, 1, 0)), openings=part.openings)
    (finding,) = findings(lying)
    assert finding.code == "drains-badly"
    assert "plate and its film end" in finding.why
    assert finding.remedies


def test_an_opening_on_the_plate_is_shut_by_it():
    ((part,), _) = opened(
        Part("figure", HOLLOW), Drain(places=at(((15, 10, 0), (0, 0, -1)), ((15, 10, 24), (0, 0, 1))))
    )
    (finding,) = findings(part)
    assert "lies on the plate" in finding.why
    raised = Part("figure", part.mesh, Stance(lift=PrintMM(5)), openings=part.openings)
    assert not findings(raised)


def test_a_single_narrow_opening_runs_slowly():
    ((narrow,), _) = opened(Part("figure", HOLLOW), Drain(places=at(((15, 10, 24), (0, 0, 1))), diameter=3))
    assert "single opening" in findings(narrow)[0].why


CUP = mesh_of(solids_of(cylinder(10, 12, 96))[0].body - solids_of(cylinder(8, 12, 96, (0, 0, 2)))[0].body)[0]


@pytest.mark.parametrize("cell", [0.375, 0.75])
def test_a_bowl_keeps_what_lies_under_its_rim(cell):
    (pool,) = pools_in(CUP, DOWN, cell)
    assert pool.millilitres == pytest.approx(np.pi * 64 * 10 * 0.9993 / 1000, rel=0.03)
    assert pool.point[2] == pytest.approx(2, abs=cell)
    assert not pools_in(CUP, UP, cell)


def test_what_lies_deeper_than_the_opening_stays_and_the_best_way_to_hold_it_is_told():
    ((part,), _) = opened(Part("figure", HOLLOW), Drain(places=at(((30, 10, 12), (1, 0, 0))), diameter=4))
    left = resin_left(part, 1.0)
    # From the lower lip of the opening, as it hangs: 22 - (12 + 2) mm of a space 26 x 16 mm wide.
    assert left.millilitres == pytest.approx(26 * 16 * 8 / 1000, rel=0.03)
    assert left.best[0] > 0.5
    assert sum(pool.millilitres for pool in left.best_pools) < 0.2 * left.millilitres
    (finding,) = check_resin_left(part, left, SETUP)
    assert finding.code == "trapped-resin"
    ((vented,), _) = opened(part, finding.remedies[0].change.steps[0])
    assert not resin_left(vented, 1.0).pools


def test_mirrored_its_openings_are_where_its_holes_are():
    ((part,), _) = opened(Part("figure", HOLLOW), Drain(places=at(((30, 10, 4), (1, 0, 0)), ((0, 10, 20), (-1, 0, 0)))))
    other = mirrored_part(part)
    (space,) = spaces_of(other.mesh, mouths_of(other.openings, 1.0))
    assert space.mouths == (0, 1)


MAGNET = {"item": "magnet-6x3", "name": "Magnet 6 x 3", "diameter": 6.0, "depth": 3.0, "density": 7.5}


@pytest.mark.parametrize(("pole", "marks"), [(None, 0), ("south", 1), ("north", 2)])
def test_a_pocket_has_the_size_of_its_part_and_a_mark_for_its_pole(pole, marks):
    step = Pocket(**MAGNET, places=at(((10, 10, 0), (0, 0, -1))), fit=0.1, pole=pole)
    part, receipt = step.change(Part("figure", box(20, 20, 10)), Context({"factor": 1.0}, step.needs))
    taken = 20 * 20 * 10 - volume(part.mesh)
    bar = 0.7 * 6.2 * 0.5 * 0.3
    cross = {0: 0.0, 1: bar, 2: 2 * bar - 0.5**2 * 0.3}[marks]
    assert taken == pytest.approx(np.pi * 3.1**2 * 3 * 0.9971 + cross, rel=0.005)
    assert receipt.below == pytest.approx(7 - (0.3 if marks else 0), abs=0.01)
    assert receipt.beside == pytest.approx(10 - 3.1, abs=0.05)
    (magnet,) = receipt.inserts
    assert magnet.grams == pytest.approx(np.pi * 9 * 3 * 7.5 / 1000)
    assert magnet.middle[2] == pytest.approx(1.5)


def test_a_pocket_that_leaves_little_wall_is_told_and_one_that_breaks_through_is_refused():
    part = Part("figure", box(20, 20, 3.4))
    thin = Pocket(**MAGNET, places=at(((10, 10, 0), (0, 0, -1))))
    made, receipt = thin.change(part, Context({"factor": 1.0}, thin.needs))
    (finding,) = check_pocket(thin, receipt, made)
    assert (finding.code, finding.measured) == ("pocket-thin", pytest.approx(0.4, abs=0.01))
    deep = thin.model_copy(update={"depth": PrintMM(4.0)})
    kept, receipt = deep.change(part, Context({"factor": 1.0}, thin.needs))
    assert kept is part
    assert "break through" in receipt.not_done


def test_a_flat_that_is_wide_for_its_wall_gives_and_is_made_thicker():
    step = Hollow(id=3, wall=PrintMM(1.5))
    part, _ = step.change(Part("figure", box(60, 50, 40)), Context({"factor": 1.0}, ("factor",)))
    seen = look_at_spaces(part, 1.0, None)
    assert seen[0].flats[0].width == pytest.approx(47, rel=0.1)
    assert seen[0].flats[0].wall == pytest.approx(1.5, rel=0.02)
    flat = next(one for one in check_spaces(part, seen, (), SETUP, step) if one.code == "flat-gives")
    assert flat.limit == pytest.approx(30, rel=0.02)
    thicker = step.model_copy(
        update={"regions": tuple(map(RegionInside.model_validate, flat.remedies[0].change.values["regions"]))}
    )
    again, _ = thicker.change(Part("figure", box(60, 50, 40)), Context({"factor": 1.0}, ("factor",)))
    (space,) = look_at_spaces(again, 1.0, None)
    assert all(one.width < 20 * one.wall for one in space.flats)


def test_a_ball_has_no_flat_wall():
    (space,) = look_at_spaces(Part("figure", hollow_mesh(ball(20), 1.0, 2.0).mesh), 1.0, None)
    assert not [one for one in space.flats if one.width > 20 * one.wall]


def test_in_filament_nothing_drains_but_a_wide_roof_sags():
    setup = DEFAULT_BENCH.setup("long-reed-300-matt-filament")
    (finding,) = check_spaces(
        Part("figure", HOLLOW), look_at_spaces(Part("figure", HOLLOW), 1.0, None), (), setup, Hollow()
    )
    assert finding.code == "roof-sags"
    assert finding.measured == pytest.approx(16, rel=0.1)
