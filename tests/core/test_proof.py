"""What went wrong, who had foretold it, what can be done about it, and what a proof proves."""

from datetime import UTC, datetime

import numpy as np
import pytest
from pydantic import ValidationError

from tests.proofs import came, printed, proof
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.findings.finding import AddSteps, Because, DecidePin, Finding, Place, SetStep, Severity, remedy_adding
from ulvet.core.findings.finding import Cost as NoCost
from ulvet.core.gauge.steps import BluntTip, Thicken
from ulvet.core.lengths import PrintMM
from ulvet.core.proof.foretold import foretold_by, hit_rates
from ulvet.core.proof.pin_findings import PartNow, pin_findings
from ulvet.core.proof.proof import Cause, Copy, Decision, Named, Outcome, Pin, When
from ulvet.core.proof.state import StateKind, differences, state_of
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.stations import Station

SETUP = DEFAULT_BENCH.setup()
TIP = (0.0, 0.0, 38.0)
NOW = {"body": PartNow(np.array([-5.0, -5, 0]), np.array([5.0, 5, 40]), 1.0, SETUP)}


def pin(cause=Cause.THIN_PART, at=TIP, when=When.SUPPORTS_OFF, number=1, **more):
    return Pin(id=number, part=0, at=Anchor(point=at, normal=(0, -1, 0)), when=when, cause=cause, **more)


def named(code, *points):
    return Named(code=code, part="body", title=f"{code} of old", places=[Place(point=one) for one in points])


def failed(*pins, named=()):
    return proof(SETUP, came=came([Outcome.FAILED], pins=pins), named=named)


def thin_wall(remedies=()):
    where = Place(point=TIP)
    return Finding(
        code="thin-wall", station=Station.GAUGE, severity=Severity.STOP, part="body", title="Thin", measured=0.3,
        limit=0.5, unit="mm", where=where, places=(where,), why="", remedies=tuple(remedies),
    )  # fmt: skip


def test_a_finding_foretold_a_pin_where_it_is_near_and_names_its_cause():
    near, far, other = named("thin-wall", (0, 0, 36.5)), named("thin-wall", (0, 0, 2)), named("cup", TIP)
    told = failed(pin(), named=[far, near, other])
    assert foretold_by(told.came.pins[0], told) == (near,)


def test_a_long_place_is_near_along_its_length_and_not_beside_it():
    pole = Place(point=(4.0, 0.0, 10.0), along=(0.0, 0.0, 1.0), extent=PrintMM(30.0))
    of_pole = Named(code="thin-wall", part="body", title="Wall of the pole", places=(pole,))
    on_it, beside = (
        failed(pin(at=(4.0, 0.0, 38.0)), named=[of_pole]),
        failed(pin(at=(-4.0, 0.0, 12.0)), named=[of_pole]),
    )
    assert foretold_by(on_it.came.pins[0], on_it) == (of_pole,)
    assert foretold_by(beside.came.pins[0], beside) == ()


def test_a_finding_of_the_whole_part_foretells_anywhere_on_it():
    told = failed(pin(Cause.DID_NOT_STICK), named=[named("lets-go")])
    assert [one.code for one in foretold_by(told.came.pins[0], told)] == ["lets-go"]


def test_checks_are_counted_as_right_wrong_and_silent():
    hit = failed(pin(), named=[named("thin-wall", TIP), named("thin-wall", (0, 0, 1))])
    silent = failed(pin(Cause.SUCTION), pin(Cause.CLOG, number=2))
    not_yet = proof(SETUP, named=[named("cup", TIP)])
    rates = {one.code: (one.told, one.came_true, one.unsaid) for one in hit_rates([hit, silent, not_yet])}
    assert rates == {"thin-wall": (2, 1, 0), "cup": (0, 0, 1)}


def test_a_pin_stops_until_something_is_decided_about_it():
    (finding,) = pin_findings([(3, failed(pin(what="Crest")))], NOW, [], None)
    assert (finding.code, finding.station, finding.severity) == ("proof-failed", Station.PROOF, Severity.STOP)
    assert finding.title == "Crest was too thin when supports came off"
    assert finding.where.point == TIP
    assert finding.why.startswith("Proof 3, ")
    assert pin_findings([(3, failed(pin(decision=Decision.LEAVE)))], NOW, [], None) == []


def test_each_decision_says_what_it_takes_and_whether_it_is_seen():
    part = printed(ml=12.0, seconds=9_000)
    (finding,) = pin_findings([(3, proof(SETUP, [part], came=came([Outcome.FAILED], pins=[pin()])))], NOW, [], None)
    costs = {one.change.decision: one.cost for one in finding.remedies if isinstance(one.change, DecidePin)}
    again = costs["reprint"]
    price = 12 / 1000 * SETUP.material.price_per_litre
    assert (again.resin_ml, again.print_seconds, again.money) == (12, 9_000, pytest.approx(price))
    assert "min of hands" in costs["repair"].says and costs["repair"].money is None
    assert costs["leave"].says == "buyers are told"


def test_a_change_that_was_undone_leaves_its_pin_open():
    told = [(3, failed(pin(decision=Decision.REDESIGN, redesigned_in=7)))]
    assert pin_findings(told, NOW, [], None, revisions={1, 2, 7}) == []
    assert len(pin_findings(told, NOW, [], None, revisions={1, 2})) == 1


def test_a_flaw_of_a_copy_that_can_be_used_is_a_caution():
    told = proof(SETUP, came=came([Outcome.USABLE], pins=[pin(Cause.CLOG)]))
    (finding,) = pin_findings([(1, told)], NOW, [], None)
    assert finding.severity is Severity.CAUTION
    assert "No check foretells this" in finding.why


def test_pins_of_parts_that_are_gone_are_not_shown():
    assert pin_findings([(1, failed(pin()))], {}, [], None) == []


def test_the_checks_own_remedies_come_first_and_say_what_they_are_because_of():
    blunt = remedy_adding("Blunt it", NoCost(), BluntTip, least=PrintMM(0.8), places=(Anchor(point=TIP),))
    (finding,) = pin_findings([(3, failed(pin()))], NOW, [thin_wall(blunt)], 2.0)
    changes = [one for one in finding.remedies if not isinstance(one.change, DecidePin)]
    assert changes[0].label == "Blunt it"
    assert isinstance(changes[1].change, AddSteps)
    (step,) = changes[1].change.steps
    assert isinstance(step, Thicken)
    assert step.wall >= SETUP.walls.pin.caution
    assert {one.because for one in changes} == {Because(proof=3, pin=1)}


@pytest.mark.parametrize(
    ("cause", "steps"),
    [
        (Cause.THIN_PART, ["thicken"]),
        (Cause.CAME_OFF_SUPPORTS, ["support"]),
        (Cause.SUPPORT_MOVED, ["support"]),
        (Cause.CLOG, []),
        (Cause.UNKNOWN, []),
    ],
)
def test_remedies_follow_from_the_cause(cause, steps):
    (finding,) = pin_findings([(1, failed(pin(cause)))], NOW, [], 2.0)
    kinds = [
        change.kind if isinstance(change, SetStep) else change.steps[0].kind
        for one in finding.remedies
        if not isinstance(change := one.change, DecidePin)
    ]
    assert kinds == steps
    decided = [one.change.decision for one in finding.remedies if isinstance(one.change, DecidePin)]
    assert decided == ["reprint", "repair", "leave"]


def test_contacts_are_set_closer_than_they_were():
    (finding,) = pin_findings([(1, failed(pin(Cause.CAME_OFF_SUPPORTS)))], NOW, [], 2.0)
    assert finding.remedies[0].change.values == {"spacing": 1.5}


def test_a_cause_that_is_not_known_twice_at_one_place_is_asked_for_again():
    first, second = failed(pin(Cause.UNKNOWN, decision=Decision.REPRINT)), failed(pin(Cause.UNKNOWN))
    (finding,) = pin_findings([(1, first), (2, second)], NOW, [], None)
    assert "say what it was" in finding.why
    (elsewhere,) = pin_findings([(1, failed(pin(Cause.UNKNOWN, at=(0, 0, 1), decision=Decision.REPRINT))), (2, second)],
                                NOW, [], None)  # fmt: skip
    assert "say what it was" not in elsewhere.why


FORM = printed().form


def with_form(**changed):
    return {"body": FORM.model_copy(update=changed)}


@pytest.mark.parametrize(
    ("changed", "says"),
    [
        ({}, ()),
        ({"mesh": "b" * 64}, ("another shape",)),
        ({"supports": "c" * 64}, ("other supports",)),
        ({"factor": 2.0, "mesh": "b" * 64, "supports": "c" * 64}, ("200 % of this size",)),
        ({"up": (0.0, 1.0, 0.0), "supports": "c" * 64}, ("stood another way",)),
        ({"setting": "draft"}, ("in the setting draft",)),
    ],
)
def test_what_another_print_had_otherwise_is_said(changed, says):
    assert differences({"body": FORM}, with_form(**changed)) == says


def test_a_proof_without_a_part_is_of_another_form():
    assert differences({"body": FORM, "pole": FORM}, {"body": FORM}) == ("without one of its parts",)


def test_only_the_very_bytes_that_came_out_prove_an_edition():
    now = {"body": FORM}
    sound, bad = proof(SETUP, came=came([Outcome.SOUND])), failed()
    assert state_of(now, []).kind is StateKind.NOT
    assert state_of(now, [(1, sound, now)]).kind is StateKind.EXACT
    other = state_of(now, [(1, sound, with_form(mesh="b" * 64)), (2, bad, with_form(mesh="d" * 64))])
    assert (other.kind, other.proof, other.differs) == (StateKind.ANOTHER, 1, ("another shape",))
    assert state_of(now, [(1, sound, now), (2, bad, now)]).kind is StateKind.FAILED
    assert state_of(now, [(1, bad, now), (2, sound, now)]).kind is StateKind.EXACT
    assert state_of(now, [(1, proof(SETUP), now)]).kind is StateKind.RUNNING


def test_a_proof_that_cannot_be_is_refused_with_the_reason():
    with pytest.raises(ValidationError, match="was not printed"):
        proof(SETUP, came=came([Outcome.SOUND]).model_copy(update={"copies": (Copy(part=4),)}))
    with pytest.raises(ValidationError, match="one number"):
        failed(pin(), pin())
    with pytest.raises(ValidationError, match="before it began"):
        proof(SETUP, came=came(ended=datetime(2020, 1, 1, tzinfo=UTC)))
