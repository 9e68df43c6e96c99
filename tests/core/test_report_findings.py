"""What buyers report lies on the figure as findings, until somebody ends it."""

import datetime

import numpy as np
import pytest

from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.findings.finding import AddSteps, Finding, Place, Remedy, SetStep, Severity
from ulvet.core.gauge.steps import Thicken
from ulvet.core.proof.proof import Cause
from ulvet.core.proof.remedies_by_cause import PartNow
from ulvet.core.release.release_set import Ending, Item, ReleaseSet, Report
from ulvet.core.release.report_findings import report_findings
from ulvet.core.stations import Station

DAY = datetime.date(2026, 12, 24)
NOW = PartNow(np.zeros(3), np.array([10.0, 10, 40]), 1.5, DEFAULT_BENCH.setup(None))
PARTS = {"crest": NOW, "body": NOW}
ITEMS = (Item(figure=1, edition="e1"), Item(figure=1, edition="e2"), Item(figure=2, edition="e1"))


def report(name, item=0, **more):
    said = {"came": DAY, "issue": 1, "part": "crest", "cause": Cause.THIN_PART, "point": (5, 5, 38), **more}
    return Report(id=name, item=item, **said)


def found(*reports, edition="e1", figure=1, others=(), spacing=None, parts=PARTS):
    release = ReleaseSet(name="Fen folk", items=ITEMS, tiers=(), reports=reports)
    return report_findings([release], figure, edition, parts, others, spacing)


def test_reports_of_one_thing_are_one_finding_where_they_lie():
    (one,) = found(
        report("a", says="It broke."),
        report("b", point=(5, 5, 36), setting="clear resin", issue=10),
        report("c", issue=2),
    )
    assert (one.code, one.station, one.severity, one.part) == ("reported", Station.RELEASE, Severity.CAUTION, "crest")
    assert one.measured == 3 and one.title.startswith("3 buyers of Fen folk")
    assert one.where is not None and one.where.point == (5, 5, 38)
    assert "issue 1, 2, 10" in one.why and "clear resin" in one.why and "It broke." in one.why


def test_only_open_reports_on_this_edition_are_told():
    ended = report("a", ending=Ending(kind="answer", says="Thank you."))
    assert found(ended) == []
    assert [one.measured for one in found(ended, report("b"))] == [1]
    assert found(report("a", item=1)) == [] and found(report("a", item=2)) == [] and found(report("a", item=None)) == []
    assert len(found(report("a", item=1), edition="e2")) == 1
    assert len(found(report("a", item=2), figure=2)) == 1
    assert len(found(report("a"), report("b", cause=Cause.WARP), report("c", point=(5, 5, 3)))) == 3


@pytest.mark.parametrize("more", [{"part": "gone"}, {"part": "", "point": None}, {"point": None}])
def test_a_report_without_a_place_is_told_without_one(more):
    (one,) = found(report("a", **more))
    assert one.where is None and one.places == () and one.remedies == ()


def test_what_helps_is_taken_from_the_checks_near_it_and_by_the_cause():
    wall = Remedy(label="Thicken it to 0.8 mm", change=SetStep(kind="x", values={}))
    near = Place(point=(5, 5, 37), normal=None)
    thin = Finding(code="thin-wall", station=Station.GAUGE, severity=Severity.STOP, part="crest", title="Wall 0.4 mm",
                   measured=0.4, limit=0.8, unit="mm", where=near, places=(near,), why="",
                   remedies=(wall,))  # fmt: skip
    (one,) = found(report("a"), others=[thin])
    assert one.remedies[0] == wall
    far = thin.model_copy(update={"where": None, "places": (Place(point=(5, 5, 2), normal=None),)})
    (one,) = found(report("a"), others=[far])
    (steps,) = [remedy.change for remedy in one.remedies]
    assert isinstance(steps, AddSteps) and isinstance(steps.steps[0], Thicken)
    # Supports that gave way are set closer, where there are any.
    came_off = report("a", cause=Cause.CAME_OFF_SUPPORTS)
    assert found(came_off)[0].remedies == ()
    (closer,) = found(came_off, spacing=4.0)[0].remedies
    assert closer.change == SetStep(kind="support", values={"spacing": 3.0})
