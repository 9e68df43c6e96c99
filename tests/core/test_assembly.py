"""What can and cannot be put together, and what opens a joint."""

import numpy as np
import pytest
import shapely

from tests.core.test_part import made
from tests.kept import build_kept
from tests.shapes import ball, box, concatenated, cylinder, subdivided, tube
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.edition import Edition, Use
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.geometry.mesh import Mesh, translated, volume
from ulvet.core.geometry.solids import mesh_of, solids_of
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.part.assembly import assembly_in_order, assembly_of
from ulvet.core.part.check import check_joints, glue_for, opens_at
from ulvet.core.part.check_cuts import check_cuts
from ulvet.core.part.key_steps import Key
from ulvet.core.part.order_steps import AssemblyOrder
from ulvet.core.part.report import assembly_report, pulled_apart
from ulvet.core.part.steps import Cut, CutBoxes
from ulvet.core.part.strength import bending_modulus
from ulvet.core.part.survey import survey_parts
from ulvet.core.part.ways_in import Movable, free_way
from ulvet.core.part.ways_round import FlatKey, ways_round
from ulvet.core.recipe.runner import Recipe

SETUP, GLUES = DEFAULT_BENCH.setup(), DEFAULT_BENCH.glues
UP, RIGHT = np.array([0.0, 0, 1]), np.array([1.0, 0, 0])


def minus(mesh, *others):
    bodies = [one.body for one in solids_of(mesh, *others)]
    whole = bodies[0]
    for body in bodies[1:]:
        whole -= body
    return mesh_of(whole)[0]


def movable(*meshes):
    return [Movable(mesh) for mesh in meshes]


def pot(outer, wall, at=(0, 0, 0)):
    return minus(box(outer, outer, outer, at), box(*[outer - 2 * wall] * 2, outer, np.add(at, wall)))


def test_a_lid_comes_off_upwards_and_holds_what_is_in_its_box():
    body, lid = pot(20, 2), box(20, 20, 2, at=(0, 0, 20))
    inside = box(8, 8, 8, at=(6, 6, 3))
    parts = movable(body, lid, inside)
    assert np.isinf(free_way(parts[1], parts[0], UP))
    assert free_way(parts[2], parts[1], UP) == pytest.approx(9, abs=0.05)
    found = assembly_of(parts, [])
    assert not found.stuck and found.steps[-1].moved == (1,)
    late = assembly_in_order(parts, [], [0, 1, 2])
    (stuck,) = late.stuck
    assert (stuck.part, round(stuck.free)) == (2, 9)


def test_nested_pots_go_in_from_the_innermost_or_the_outermost_on_but_not_between():
    outer, middle = pot(30, 2), pot(24, 2, at=(3, 3, 3))
    ball_in = ball(5, at=(15, 15, 14))
    parts = movable(outer, middle, ball_in)
    assert not assembly_of(parts, []).stuck
    lid = box(30, 30, 2, at=(0, 0, 30))
    shut = movable(outer, middle, lid)
    assert assembly_in_order(shut, [], [0, 2, 1]).stuck


def test_a_ring_on_a_bar_with_two_heads_cannot_come_off_and_with_one_can():
    ring = translated(tube(6, 4, 4), np.array([0.0, 0, 8]))
    bar = cylinder(3, 20)
    heads = [cylinder(5, 2, at=(0, 0, z)) for z in (-2, 20)]
    (one,) = solids_of(concatenated(bar, heads[0]))
    (two,) = solids_of(concatenated(bar, *heads))
    once, twice = mesh_of(one.body)[0], mesh_of(two.body)[0]
    assert not assembly_of(movable(once, ring), []).stuck
    (stuck,) = assembly_of(movable(twice, ring), []).stuck
    assert stuck.free == pytest.approx(8, abs=0.1)


def test_a_hook_leaves_sideways_only():
    shank, tip, back = box(2, 4, 14), box(2, 4, 6, at=(8, 0, 8)), box(10, 4, 2, at=(0, 0, 14))
    (hook,) = solids_of(concatenated(shank, tip, back))
    wall = minus(box(12, 12, 4, at=(-1, -4, 8)), box(4, 6, 6, at=(-2, -1, 7)), box(4, 6, 8, at=(7, -1, 7)))
    parts = movable(mesh_of(hook.body)[0], wall)
    assert np.isinf(free_way(parts[0], parts[1], UP))
    assert free_way(parts[0], parts[1], RIGHT) < 2


def test_a_figure_cut_twice_closes_half_by_half_and_not_one_part_after_the_other():
    cuts = Cut(offset=FigureMM(11.0)), Cut(normal=(1.0, 0.0, 0.0), offset=FigureMM(1.0))
    steps = (*cuts, Key(cut=2, number=1), Key(cut=3, number=1))
    both = made(ball(10, rounds=4), *steps, factor=2.0)
    halves = survey_parts(both.parts, 2.0)
    assert not halves.blocked and [len(step.parts) for step in halves.order] == [1, 1, 2]
    moved = [name.split(".") for name in halves.order[2].parts]
    assert len({one[1] for one in moved}) == 1 or len({one[2] for one in moved}) == 1  # one half
    order = AssemblyOrder(order=[part.name for part in both.parts])
    one_by_one = survey_parts(both.parts, 2.0, order.order)
    found = check_joints(one_by_one, recipe_of((*steps, order)), SETUP, Use.TABLETOP, GLUES)
    blocked = [one for one in found if one.code == "cannot-insert"]
    assert len(blocked) == 1 and blocked[0].remedies[0].change.values == {"on": False}
    assert any("pins of their own" in remedy.label for remedy in blocked[0].remedies)


def recipe_of(steps):
    """Steps as they stand in a recipe, counted from the first cut on."""
    return Recipe(steps=tuple(step.model_copy(update={"id": k}) for k, step in enumerate(steps, 2)))


def test_thirty_parts_go_together():
    run = made(box(30, 30, 30), CutBoxes(size=(PrintMM(10), PrintMM(10), PrintMM(10))))
    survey = survey_parts(run.parts, 1.0)
    assert len(run.parts) == 27 and len(survey.order) == 26 and not survey.blocked
    placed = {survey.first}
    for step in survey.order:
        assert not placed & set(step.parts)
        placed |= set(step.parts)
    apart = pulled_apart(run.parts, survey)
    assert len({tuple(np.round(move, 6)) for move in apart.values()}) > 9


def key(shape, x, y, size, turned_by=0.0):
    return FlatKey(shape, np.array([x, y], float), size, np.deg2rad(turned_by), 0.1)


@pytest.mark.parametrize(
    ("keys", "flips", "ways"),
    [
        ([], False, 0),
        ([key("round", 2, 1, 3)], False, None),
        ([key("flat-sided", 2, 1, 3, 40)], False, 1),
        ([key("square", 0, 0, 3)], False, 4),
        ([key("round", -4, 0, 3), key("round", 4, 0, 3)], False, 2),
        ([key("round", -4, 0, 3), key("round", 4, 0, 2.2)], False, 1),
        ([key("round", -4, 0, 3), key("round", 4, 0, 2.3)], False, 1),
        ([key("round", -4, 0, 3), key("round", 4, 0, 2.8)], False, 2),
        ([key("round", -4, 0, 3), key("round", 4, 0, 2.2)], True, 2),
        ([key("round", 0, 0, 3), key("round", 4, 0, 3), key("round", 0, 6, 3)], False, 1),
        ([key("round", 0, 0, 3), key("round", 4, 0, 3), key("round", 2, 12**0.5, 3)], False, 3),
    ],
)
def test_keys_go_in_as_many_ways_as_they_are_alike(keys, flips, ways):
    assert ways_round(keys, flips) == ways


def test_sections_bend_as_a_table_of_them_says():
    assert bending_modulus(shapely.box(1, 2, 5, 8)) == pytest.approx(6 * 4**2 / 6)
    assert bending_modulus(shapely.Point(3, 1).buffer(2, quad_segs=64)) == pytest.approx(np.pi * 4**3 / 32, rel=0.01)
    tube_like = shapely.Point(0, 0).buffer(3, quad_segs=64).difference(shapely.Point(0, 0).buffer(2, quad_segs=64))
    assert bending_modulus(tube_like) == pytest.approx(np.pi * (6**4 - 4**4) / (32 * 6), rel=0.01)


def test_a_butt_joint_opens_as_its_glue_bends_and_a_spigot_as_its_peg():
    bar = subdivided(box(6, 6, 60))
    glued = made(bar, Cut(offset=FigureMM(40.0)))
    (joint,) = survey_parts(glued.parts, 1.0).joints
    glue = glue_for(joint, GLUES)
    assert glue is not None and joint.lever_mm == pytest.approx(np.hypot(20, np.hypot(3, 3)), abs=0.01)
    by_hand = glue.strength * 6**3 / 6 / 20
    assert opens_at(joint, SETUP, glue) == pytest.approx(by_hand, rel=0.15)
    pegged = made(bar, Cut(offset=FigureMM(40.0)), Key(cut=2, shape="round", number=1, size=PrintMM(3), fit="press"))
    (held,) = survey_parts(pegged.parts, 1.0).joints
    assert held.along_pegs == pytest.approx(1)
    strength = SETUP.material.strength * SETUP.material.across_layers / 1.4
    assert opens_at(held, SETUP, None) == pytest.approx(strength * np.pi * 3**3 / 32 / 20, rel=0.15)


def test_a_thin_joint_is_weak_and_a_rod_through_it_is_offered_no_less():
    bar = cylinder(1.5, 60, 24)
    steps = (Cut(offset=FigureMM(30.0)),)
    run = made(bar, *steps)
    survey = survey_parts(run.parts, 1.0)
    found = check_joints(survey, recipe_of(steps), SETUP, Use.PLAY, GLUES, DEFAULT_BENCH.bought_parts)
    assert [one.code for one in found] == ["unkeyed", "joint-weak"]
    assert found[1].measured < found[1].limit == Use.PLAY.push
    assert [remedy.label for remedy in found[1].remedies] == ["Set keys into it", "Put steel wire 1.5 through it"]
    rod = Key(cut=2, joins="rod", name="Steel wire 1", size=PrintMM(1.0), deep=PrintMM(5.0), density=7.85)
    held = made(bar, *steps, rod)
    assert held.receipts[2].inserts[0].length == 10.0
    (joint,) = survey_parts(held.parts, 1.0).joints
    assert opens_at(joint, SETUP, None) > 0.5


def test_slivers_and_refused_keys_are_told():
    steps = (Cut(offset=FigureMM(19.9)), Key(cut=2, size=PrintMM(4.0)))
    run = made(ball(10, rounds=4), *steps)
    found = check_cuts(run.parts, recipe_of(steps), run.receipts[1:], 1.0)
    assert [one.code for one in found] == ["sliver", "key-too-near"]
    assert found[0].remedies[1].change.values["offset"] == pytest.approx(18.9)


def test_what_goes_together_is_told_with_its_glue_and_its_minutes():
    run = made(ball(10, rounds=4), Cut(offset=FigureMM(11.0)), Key(cut=2))
    survey = survey_parts(run.parts, 1.0)
    report = assembly_report(run.parts, survey, SETUP, GLUES)
    (step,) = report.order
    assert step.glue == "Two-part glue" and step.sanding_minutes == pytest.approx(step.area_mm2 / 60)
    moved = report.apart["figure.2-upper"]
    assert moved[2] > 2 and moved[:2] == (0.0, 0.0)


def test_a_part_that_lies_in_another_touches_it_nowhere_where_both_are_drawn_in():
    slot = minus(box(20, 20, 10), box(10, 30, 6, at=(5, -5, 2)))
    bar = box(10, 20, 6, at=(5, 0, 2))
    parts = movable(slot, bar)
    assert np.isinf(free_way(parts[1], parts[0], np.array([0.0, 1, 0])))
    assert free_way(parts[1], parts[0], UP) < 0.05
    far = Movable(Mesh(bar.vertices + 100, bar.faces))
    assert np.isinf(free_way(far, parts[0], UP))


def test_joints_stand_among_what_breaks_first():
    mesh = box(6, 6, 60)
    build = build_kept(
        Recipe(steps=(BringIn(source=mesh.hash, name="bar.stl"), Cut(offset=FigureMM(40.0)))), Edition(factor=1.0),
        {mesh.hash: mesh},
    )  # fmt: skip
    rows = [row for row in build.gauge.limbs if row.name == "joint of upper figure and lower figure"]
    assert len(rows) == 1 and rows[0].force_N == pytest.approx(build.assembly.joints[0].opens_N)
    assert [row.force_N for row in build.gauge.limbs] == sorted(row.force_N for row in build.gauge.limbs)


@pytest.mark.parametrize("shut_below", [False, True])
def test_what_hangs_on_a_part_goes_in_from_below_or_with_it(shut_below):
    # A post with an arm that comes down again: a level cut takes it from the post and from its own end.
    foot = box(18, 6, 4) if shut_below else box(6, 6, 4)
    (whole,) = solids_of(concatenated(box(6, 6, 40), foot, box(10, 6, 4, at=(5, 0, 30)), box(3, 6, 24, at=(12, 0, 10))))
    run = made(mesh_of(whole.body)[0], Cut(offset=FigureMM(20.0)))
    survey = survey_parts(run.parts, 1.0)
    sizes = {part.name: volume(part.mesh) for part in run.parts}
    hanging = min(sizes, key=sizes.get)
    assert (len(survey.joints), survey.first, survey.blocked) == (2, "figure.2-lower", ())
    if shut_below:
        assert survey.order[0].parts in ((hanging,), ("figure.2-upper",))
        assert set(survey.order[1].parts) == {hanging, "figure.2-upper"}
    else:
        assert survey.order[1].parts == (hanging,) and survey.order[1].way == (0.0, 0.0, 1.0)


def test_a_joint_that_is_not_glued_is_told_without_glue_everywhere():
    steps = (Cut(offset=FigureMM(11.0)), Key(cut=2, fit="slide"))
    run = made(ball(10, rounds=4), *steps)
    survey = survey_parts(run.parts, 1.0)
    report = assembly_report(run.parts, survey, SETUP, GLUES)
    (joint,) = report.joints
    assert (joint.glue, report.order[0].glue, report.order[0].minutes) == ("", "", 0.0)
    assert joint.opens_N == pytest.approx(opens_at(joint, SETUP, None)) and joint.opens_N > 0
    found = check_joints(survey, recipe_of(steps), SETUP, Use.PLAY, GLUES)
    assert [one.measured for one in found if one.code == "joint-weak"] in ([], [pytest.approx(joint.opens_N)])
