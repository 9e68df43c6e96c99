"""How the surface lies to itself: shells, specks, gaps, what shows, and the steps that settle it."""

import numpy as np
import pytest

from tests.core.test_mend import check, run
from tests.core.test_mending import crossing_itself
from tests.shapes import ball, box, concatenated, cylinder
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.geometry.mesh import Mesh, scaled, translated, volume
from ulvet.core.geometry.topology import edges_of, is_watertight
from ulvet.core.mend.check import check_mesh
from ulvet.core.mend.diagnosis import diagnose
from ulvet.core.mend.mend_steps import MendPlace, MendWhole
from ulvet.core.mend.steps import CloseHoles, LeaveOverlaps, TakeApart
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.step import Context, Part
from ulvet.core.tolerances import BENCH_TOLERANCES

NOTHING = Context({}, ())
FINE, COARSE = DEFAULT_BENCH.setup(), DEFAULT_BENCH.setup(printer_id="long-reed-300")


def inward(mesh):
    return Mesh(mesh.vertices, mesh.faces[:, ::-1])


def applied(finding, number, mesh):
    part = Part("figure", mesh)
    for step in finding.remedies[number].change.steps:
        part, _ = step.change(part, NOTHING)
    return part


def test_bodies_that_overlap_are_one_finding_and_each_way_out_ends_it() -> None:
    both = concatenated(box(10, 10, 10), box(4, 4, 12, at=(3, 3, 2.5)))
    finding = check(both)["overlapping-shells"]
    assert set(check(both)) == {"overlapping-shells"}
    assert finding.count == 2 and finding.where.shows
    united = applied(finding, 0, both)
    assert not check(united.mesh) and volume(united.mesh) == pytest.approx(1000 + 4 * 4 * 4.5)
    left = applied(finding, 1, both)
    assert left.mesh is both and not check_mesh(left, 1.0, BENCH_TOLERANCES, FINE)


def test_leaving_overlaps_silences_nothing_else() -> None:
    itself = ball(6)
    folded = Mesh(np.where(itself.vertices[:, 2:] > 3, itself.vertices * [1, 1, -1.2], itself.vertices), itself.faces)
    part, receipt = LeaveOverlaps().change(
        Part("figure", concatenated(folded, translated(ball(3), np.array([6.0, 0, 0])))), NOTHING
    )
    codes = {finding.code for finding in check_mesh(part, 1.0, BENCH_TOLERANCES, FINE)}
    assert "crossing-faces" in codes and "overlapping-shells" not in codes
    assert "relies on" in str(LeaveOverlaps().sentence(receipt)[0])


def test_faces_that_only_lie_on_each_other_are_not_offered_a_grid() -> None:
    faces = np.array([[0, 1, 2], [1, 3, 2], [2, 3, 4], [3, 5, 4]], np.int32)
    sheet = [[0.0, 0, 20], [0, 4, 20], [6, 0, 20], [6, 4, 20]]
    offered = {}
    # A sheet folded back onto itself, or through itself.
    for name, lift in (("flat", 0.0), ("through", 1.0)):
        folded = Mesh(np.array([*sheet, [1, 1, 20 - lift], [1, 3, 20 + lift]]), faces)
        finding = check(concatenated(box(10, 10, 10), folded))["crossing-faces"]
        offered[name] = any("only where it crosses" in remedy.label for remedy in finding.remedies)
    assert offered == {"flat": False, "through": True}


def test_what_lies_inside_never_shows_and_goes_one_by_one_or_all_at_once() -> None:
    kernels = [translated(ball(r), np.array([x, 0.0, 0])) for r, x in ((1.0, -4.0), (1.5, 4.0))]
    mesh = concatenated(ball(10), *kernels)
    finding = check(mesh)["inner-shells"]
    assert finding.count == 2 and len(finding.places) == 2
    assert [place.shows for place in finding.places] == [False, False]
    assert finding.where.extent == pytest.approx(3.0, rel=0.02) and finding.where.point[0] > 2
    one = applied(finding, 1, mesh).mesh
    assert check(one)["inner-shells"].where.point[0] < -2  # the widest went
    assert not check(applied(finding, 0, mesh).mesh)


def test_specks_are_small_and_touch_nothing() -> None:
    rivet, crumb = translated(ball(0.05), np.array([10.0, 0, 0])), translated(ball(0.05), np.array([12.0, 0, 0]))
    assert "specks" not in check(concatenated(ball(10), rivet))  # half in the surface: it is held
    mesh = concatenated(ball(10), crumb)
    assert set(check(mesh)) == {"specks"}
    assert not check(applied(check(mesh)["specks"], 0, mesh).mesh)
    scanned = Part("figure", mesh, captured=Mesh(mesh.vertices, np.empty((0, 3), np.int32)))
    assert not check_mesh(scanned, 1.0, BENCH_TOLERANCES, FINE)  # its own station tells


@pytest.mark.parametrize(("away", "setup", "found"), [(0.05, FINE, True), (0.2, FINE, False), (0.2, COARSE, True)])
def test_surfaces_closer_than_the_printer_keeps_apart_are_a_gap(away, setup, found) -> None:
    beside = concatenated(box(10, 10, 10), box(10, 10, 10, at=(10 + away, 0, 0)))
    for mesh in (beside, Mesh(beside.vertices + 1e6, beside.faces)):
        gaps = [f for f in check_mesh(Part("figure", mesh), 1.0, BENCH_TOLERANCES, setup) if f.code == "thin-gap"]
        assert len(gaps) == found
        if found:
            assert gaps[0].measured == pytest.approx(away, abs=1e-3) and gaps[0].count == 1


def test_a_groove_or_a_wall_is_no_gap() -> None:
    across = np.array([[-5, 0], [-1.5, 0], [0, -3], [1.5, 0], [5, 0], [5, -8], [-5, -8]], float)
    n = len(across)
    low, high = (np.column_stack([across[:, 0], np.full(n, y), across[:, 1]]) for y in (0, 20.0))
    fan = np.array([(5, 6, 2), (6, 0, 2), (0, 1, 2), (2, 3, 4), (2, 4, 5)])
    sides = np.array([f for k in range(n) for f in ((k, n + k, (k + 1) % n), (n + k, n + (k + 1) % n, (k + 1) % n))])
    groove = Mesh(np.concatenate([low, high]), np.concatenate([fan, fan[:, ::-1] + n, sides]).astype(np.int32))
    groove = groove if volume(groove) > 0 else inward(groove)
    assert is_watertight(edges_of(groove)) and not check(groove)
    assert not check(box(10, 0.05, 10))


def test_tips_that_touch_in_a_point_are_taken_apart() -> None:
    cone = Mesh(
        np.array([[0, 0, 0], [1, 0, 2], [-1, 1, 2], [-1, -1, 2.0]]),
        np.array([[0, 2, 1], [0, 3, 2], [0, 1, 3], [1, 2, 3]]),
    )
    cone = cone if volume(cone) > 0 else inward(cone)
    pinched = Mesh(
        np.concatenate([cone.vertices, -cone.vertices[1:]]),
        np.concatenate([cone.faces, np.where(cone.faces > 0, cone.faces + 3, 0)[:, ::-1]]).astype(np.int32),
    )
    assert set(check(pinched)) == {"nonmanifold-vertices"}
    assert "mm wide" not in check(pinched)["nonmanifold-vertices"].why  # a point has no width
    apart, receipt = run(TakeApart(), pinched)
    assert not check(apart) and receipt.parted == 1


def test_one_hole_of_several_is_closed_alone() -> None:
    whole = ball(6)
    open_twice = Mesh(whole.vertices, np.delete(whole.faces, [0, 100], axis=0))
    finding = check(open_twice)["open-edges"]
    assert len(finding.places) == 2 and len(finding.lines) == 6 and "mm² to close" not in finding.why
    closed, receipt = run(CloseHoles(places=(Anchor(point=finding.where.point),)), open_twice)
    assert receipt.closed == 1 and len(check(closed)["open-edges"].places) == 1


def test_one_place_that_crosses_is_mended_alone() -> None:
    knot = scaled(crossing_itself(), 0.1)
    knots = concatenated(knot, translated(knot, np.array([30.0, 0, 0])))
    bodies = concatenated(box(4, 4, 4, at=(0, 30, 0)), box(4, 4, 4, at=(2, 31, 1)))
    more = translated(bodies, np.array([20.0, 0, 0]))
    mesh = concatenated(knots, bodies, more)
    found = check(mesh)
    for code, says in (("crossing-faces", "cutting a tangle out"), ("overlapping-shells", "making them one")):
        chosen = found[code].places[1]
        (offered,) = (way.change for way in found[code].remedies if getattr(way.change, "here", False))
        step = offered.at(chosen).steps[0]
        assert step.places[0].point == chosen.point != offered.steps[0].places[0].point
        part, receipt = step.change(Part("figure", mesh), NOTHING)
        assert "1 place" in str(step.sentence(receipt)[0]) and says in str(step.sentence(receipt)[0])
        left = check(part.mesh)
        gone = {place.point for place in found[code].places} - {place.point for place in left[code].places}
        assert gone == {chosen.point}
        other = {"crossing-faces", "overlapping-shells"} - {code}
        assert left[other.pop()].count and is_watertight(edges_of(part.mesh))
    wide = concatenated(crossing_itself(), translated(crossing_itself(), np.array([30.0, 0, 0])))
    part, receipt = MendPlace(places=(Anchor(point=(0, 0, 0)),)).change(Part("figure", wide), NOTHING)
    assert part.mesh is wide and "reaches over" in receipt.not_done
    sound, receipt = MendPlace(places=(Anchor(point=(0, 0, 0)),)).change(Part("figure", box(4, 4, 4)), NOTHING)
    assert sound.mesh.faces.tobytes() == box(4, 4, 4).faces.tobytes() and not receipt.worked


def test_faces_turned_the_wrong_way_are_told_patch_by_patch() -> None:
    whole = ball(6)
    middles = whole.vertices[whole.faces].mean(axis=1)
    wrong = (middles[:, 2] > 5) | (middles[:, 2] < -5.5)
    faces = np.where(wrong[:, None], whole.faces[:, ::-1], whole.faces)
    finding = check(Mesh(whole.vertices, faces))["inconsistent-winding"]
    assert finding.count == wrong.sum() and len(finding.places) == 2
    assert finding.places[0].extent > finding.places[1].extent > 3


def test_mending_whole_is_one_sentence_with_its_price_or_says_why_not() -> None:
    folded = concatenated(cylinder(4, 9, 48), box(3, 3, 3, at=(0, 0, 4)))
    part, receipt = MendWhole().change(Part("figure", folded), NOTHING)
    assert not check(part.mesh)
    said = str(MendWhole().sentence(receipt)[0])
    assert said.startswith("Mended exactly") and "2 shells to 1" in said
    sheet = Mesh(np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0.0]]), np.array([[0, 1, 2]], np.int32))
    part, receipt = MendWhole().change(Part("figure", sheet), NOTHING)
    assert part.mesh is sheet and receipt.idle and "could not be made sound" in receipt.not_done


def test_a_small_shell_far_from_the_origin_looks_the_way_it_does_near_it() -> None:
    whole = concatenated(box(5, 5, 5), box(0.05, 0.05, 0.01, at=(2, 2, 4.995)))
    near, far = (diagnose(Mesh(whole.vertices + shift, whole.faces), 1e-6).counts for shift in (0, 1e6))
    assert near == far and not near["inverted-shell"]
