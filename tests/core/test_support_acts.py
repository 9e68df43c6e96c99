"""Supports by hand: each act does what it says, stays where it was picked, and brings nothing else about."""

import numpy as np
import pytest
from pydantic import ValidationError

from tests.shapes import ball, box, concatenated, cylinder
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.edition import Edition
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.build.figure_build import build_figure
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.runner import Recipe, run_recipe
from ulvet.core.stand.by_hand import HandAct
from ulvet.core.stand.steps import Orient, Support

TABLE = concatenated(box(40, 24, 3, at=(-20, -12, 20)), cylinder(3, 21))
"""A plate on a leg: its underside wants holding all round."""
UP = Orient(up=(0, 0, 1))
HOLDING = DEFAULT_BENCH.setup().supports


def under(x, y):
    """A place on the underside of the table, which stands on the ground."""
    return Anchor.at(np.array([x, y, 20.0]), np.array([0, 0, -1.0]), "")


def held(*acts, places=(), mesh=TABLE, factor=1.0, **fields):
    support = Support(acts=acts, places=places, lift=PrintMM(0), **fields)
    recipe = Recipe(steps=(BringIn(source=mesh.hash, name="x.stl"), UP, support))
    run = run_recipe(recipe, {mesh.hash: mesh}, Edition(factor=factor))
    return run.parts[0].stance.contacts, run.receipts[-1]


def near(contacts, x, y, within=2.0):
    return [one for one in contacts if np.hypot(one.point[0] - x, one.point[1] - y) <= within]


@pytest.fixture(scope="module")
def proposal():
    return held()[0]


def test_a_contact_is_taken_away_and_does_not_come_back(proposal):
    taken = proposal[len(proposal) // 2]
    x, y, _ = taken.point
    assert near(proposal, x, y, 0.1)
    left, receipt = held(HandAct(does="take", place=0), places=(under(x, y),))
    assert near(left, x, y, 0.4) == []
    assert len(left) == len(proposal) - 1
    assert receipt.undone == ()


def test_a_contact_is_added_where_it_was_picked_and_said_to_be_by_hand(proposal):
    spot = next((x, y) for x in np.arange(-15, 15, 0.5) for y in (5.3, -7.7) if not near(proposal, x, y, 1.2))
    more, receipt = held(HandAct(does="add", place=0), places=(under(*spot),))
    (added,) = near(more, *spot, 0.05)
    assert added.by_hand
    assert added.point[2] == pytest.approx(20)
    assert len(more) == len(proposal) + 1
    assert sum(one.load_N for one in more) == pytest.approx(sum(one.load_N for one in proposal), rel=0.15)
    assert receipt.undone == ()


def test_a_contact_is_moved_and_one_that_cannot_go_there_stays(proposal):
    x, y, _ = proposal[len(proposal) // 2].point
    moved, _ = held(HandAct(does="move", place=0, to=1), places=(under(x, y), under(x + 1.5, y)))
    assert near(moved, x, y, 0.3) == []
    assert [one.by_hand for one in near(moved, x + 1.5, y, 0.05)] == [True]
    top = Anchor.at(np.array([x, y, 23.0]), np.array([0, 0, 1.0]), "")
    stays, receipt = held(HandAct(does="move", place=0, to=1), places=(under(x, y), top))
    assert near(stays, x, y, 0.3)
    assert receipt.undone == (0,)


def test_a_tip_is_thickened_and_thinned_and_one_that_tears_is_told(proposal):
    x, y, _ = proposal[len(proposal) // 2].point
    (usual,) = near(proposal, x, y, 0.1)
    (thick,) = near(held(HandAct(does="thicken", place=0), places=(under(x, y),))[0], x, y, 0.1)
    assert thick.tip_mm == pytest.approx(1.25 * usual.tip_mm)
    thinned = [HandAct(does="thin", place=0)] * 6
    (thin,) = near(held(*thinned, places=(under(x, y),))[0], x, y, 0.1)
    assert thin.tip_mm == pytest.approx(usual.tip_mm / 1.25**6)
    recipe = Recipe(
        steps=(
            BringIn(source=TABLE.hash, name="x.stl"),
            UP,
            Support(acts=tuple(thinned), places=(under(x, y),), lift=PrintMM(0)),
        )
    )
    build = build_figure(recipe, Edition(factor=1.0), {TABLE.hash: TABLE})
    (weak,) = [one for one in build.findings if one.code == "weak-hold"]
    assert weak.where.point[:2] == pytest.approx((x, y), abs=0.1)


def test_a_region_is_left_bare_or_held_more_closely(proposal):
    bare, _ = held(HandAct(does="forbid", place=0, radius=PrintMM(7)), places=(under(10, 0),))
    assert near(proposal, 10, 0, 6)
    assert near(bare, 10, 0, 6.9) == []
    assert len(near(bare, -10, 0, 6)) == len(near(proposal, -10, 0, 6))
    close, _ = held(HandAct(does="ask", place=0, radius=PrintMM(7)), places=(under(10, 0),))
    assert len(near(close, 10, 0, 7)) > 1.5 * len(near(proposal, 10, 0, 7))
    # What is said later of the same region holds.
    both, _ = held(
        HandAct(does="forbid", place=0, radius=PrintMM(7)),
        HandAct(does="ask", place=0, radius=PrintMM(5)),
        places=(under(10, 0),),
    )
    assert near(both, 10, 0, 5)


def test_an_act_is_done_on_the_other_side_too():
    acts = HandAct(does="forbid", place=0, radius=PrintMM(5), mirrored=True)
    bare, _ = held(acts, places=(under(12, 3),))
    assert near(bare, 12, 3, 4.9) == near(bare, -12, 3, 4.9) == []


def test_it_begins_lighter_stronger_or_with_nothing(proposal):
    light, strong = held(begin="light")[0], held(begin="strong")[0]
    assert len(light) < len(proposal) < len(strong)
    assert min(one.tip_mm for one in strong) > min(one.tip_mm for one in light)
    assert held(begin="none")[0] == ()
    one, _ = held(HandAct(does="add", place=0), places=(under(12, 3),), begin="none")
    assert len(one) == 1


def test_an_island_whose_hold_was_taken_is_left_and_told():
    bar = concatenated(TABLE, ball(2, (14, 0, 12)), cylinder(0.8, 8, at=(14, 0, 12)))
    assert held(mesh=bar)[1].unheld == 0
    assert held(mesh=bar, begin="none")[1].unheld == 1
    left, receipt = held(HandAct(does="forbid", place=0, radius=PrintMM(3)), mesh=bar, places=(
        Anchor.at(np.array([14, 0, 10.0]), np.array([0, 0, -1.0]), ""),))  # fmt: skip
    assert receipt.unheld == 1
    assert min(np.linalg.norm(np.subtract(one.point, (14, 0, 10))) for one in left) > 3


def test_acts_stay_on_the_figure_at_another_size_and_go_with_a_place_that_is_gone():
    acts = HandAct(does="forbid", place=0, radius=PrintMM(5))
    larger, _ = held(acts, places=(under(10, 0),), factor=2.0)
    assert near(larger, 20, 0, 4.9) == []
    assert near(larger, 10, 0, 4)
    gone = Anchor.at(np.array([10, 0, 60.0]), np.array([0, 0, -1.0]), "")
    kept, receipt = held(acts, places=(gone,))
    assert [one.number for one in receipt.lost] == [0]
    assert near(kept, 10, 0, 6)


def test_an_act_without_its_places_is_refused():
    for acts in (
        (HandAct(does="add", place=1),),
        (HandAct(does="move", place=0),),
        (HandAct(does="take", place=0, to=0),),
    ):
        with pytest.raises(ValidationError):
            Support(acts=acts, places=(under(0, 8),))
