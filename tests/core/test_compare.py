"""What is said to have changed between two versions."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.shapes import ball, box, subdivided
from ulvet.core.compare.findings import Verdict, match_findings
from ulvet.core.findings.finding import Finding, Place, Severity, Unseen
from ulvet.core.geometry.deviation import distance_to
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.stations import Station


def finding(code="thin-wall", at=(0.0, 0, 0), part="figure", station=Station.GAUGE, places=()):
    return Finding(
        code=code, station=station, severity=Severity.STOP, part=part, title="t", measured=0.3, limit=0.5, unit="mm",
        where=Place(point=at), places=tuple(Place(point=p) for p in places), why="w",
    )  # fmt: skip


def verdicts(before, after, size=100.0, unseen=()):
    return [m.verdict for m in match_findings(before, after, size, unseen)]


def test_the_same_place_is_still_there_and_another_is_new():
    before = [finding(at=(0, 0, 0)), finding(at=(50, 0, 0))]
    after = [finding(at=(51, 0, 0)), finding(at=(0, 90, 0))]
    assert verdicts(before, after) == [Verdict.STILL, Verdict.NEW, Verdict.FIXED]


def test_what_moved_a_little_too_far_is_not_sure():
    assert verdicts([finding(at=(0, 0, 0))], [finding(at=(12, 0, 0))]) == [Verdict.UNSURE]


@pytest.mark.parametrize("other", [finding(code="island"), finding(part="head")])
def test_another_kind_or_part_is_never_the_same(other):
    assert verdicts([finding()], [other]) == [Verdict.NEW, Verdict.FIXED]


def test_findings_are_paired_as_a_whole_and_not_each_with_its_nearest():
    # The second of the old ones is nearest to both new ones; taken alone it would leave the first without.
    before = [finding(at=(0, 0, 0)), finding(at=(4, 0, 0))]
    after = [finding(at=(3, 0, 0)), finding(at=(7, 0, 0))]
    matched = match_findings(before, after, 100.0)
    assert [m.before.where.point[0] for m in matched] == [0, 4]


def test_a_gathering_is_known_by_any_of_its_places():
    old = finding(at=(0, 0, 0), places=[(80, 0, 0)])
    assert verdicts([old], [finding(at=(81, 0, 0))]) == [Verdict.STILL]


def test_what_could_not_be_looked_at_is_not_called_fixed():
    gap = Unseen(station=Station.GAUGE, part="figure", why="open")
    assert verdicts([finding()], [], unseen=[gap]) == [Verdict.UNSURE]
    assert verdicts([finding(station=Station.MEND)], [], unseen=[gap]) == [Verdict.FIXED]


def test_a_surface_that_did_not_move_is_told_so_however_it_is_cut():
    shape = box(10, 6, 3)
    assert distance_to(shape, subdivided(subdivided(shape)).vertices) == pytest.approx(0, abs=1e-12)


@given(st.floats(0.01, 2.0))
def test_a_grown_ball_moved_by_what_it_grew(growth):
    small, large = ball(10), ball(10 + growth)
    far = distance_to(small, large.vertices)
    sag = 10 * (1 - np.cos(0.06))  # how far its facets lie inside the round
    assert far.min() >= growth - 1e-9
    assert far.max() <= growth + sag


def test_only_what_moved_is_said_to_have():
    shape = subdivided(subdivided(box(10, 10, 10)))
    pulled = shape.vertices.copy()
    corner = np.linalg.norm(pulled - 10, axis=1).argmin()
    pulled[corner] += 1
    far = distance_to(shape, Mesh(pulled, shape.faces).vertices)
    assert np.flatnonzero(far > 1e-9).tolist() == [corner]
    assert far[corner] == pytest.approx(3**0.5)
