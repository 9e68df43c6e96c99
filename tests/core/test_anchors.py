"""Points picked on a figure, on what the figure has become."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.depth import of_all
from tests.kept import build_kept
from tests.shapes import ball, box, concatenated, cylinder, subdivided
from ulvet.core.bench.edition import Edition
from ulvet.core.bring_in.steps import BringIn, SourcePiece
from ulvet.core.findings.changes import after_change
from ulvet.core.gauge.steps import Thicken
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.recipe.anchors import FARTHEST_MOVE_SHARE, Anchor, project_anchors
from ulvet.core.recipe.changes import IllegalOrder, with_step_set
from ulvet.core.recipe.runner import Recipe, run_recipe


def anchor(*point: float, normal: tuple[float, float, float] | None = None) -> Anchor:
    x, y, z = map(FigureMM, point)
    return Anchor(point=(x, y, z), normal=normal, source="before")


def on_ball(way: np.ndarray, radius: float) -> Anchor:
    return Anchor.at(way / np.linalg.norm(way) * radius, way / np.linalg.norm(way), "before")


directions = st.tuples(*[st.floats(-1, 1)] * 3).map(np.array).filter(lambda way: np.linalg.norm(way) > 0.1)


@settings(max_examples=of_all(60), deadline=None)
@given(st.lists(directions, min_size=1, max_size=5), st.floats(-0.2, 0.2))
def test_anchors_land_on_the_nearest_surface(ways, grown):
    new = ball(10 + grown, rounds=4)
    points, lost = project_anchors([on_ball(way, 10) for way in ways], new, "figure", "after")
    assert not lost
    want = [way / np.linalg.norm(way) * (10 + grown) for way in ways]
    assert np.linalg.norm(points - want, axis=1).max() < 0.06  # as much as the facets lie inside the sphere


def test_the_nearest_point_is_that_of_all_triangles():
    rng = np.random.default_rng(7)
    soup = Mesh(rng.normal(size=(300, 3)) * 10, np.arange(300, dtype=np.int32).reshape(-1, 3))
    for point in rng.normal(size=(20, 3)) * 10:
        points, _ = project_anchors([anchor(*point)], soup, "figure", "")
        # Against points strewn over every triangle.
        weights = rng.dirichlet([0.6] * 3, size=(100, 400))
        strewn = np.einsum("fsk,fkd->fsd", weights, soup.vertices[soup.faces])
        nearest = np.linalg.norm(strewn - point, axis=2).min()
        if len(points):
            assert np.linalg.norm(points[0] - point) <= nearest + 1e-9
        else:
            assert nearest > FARTHEST_MOVE_SHARE * np.ptp(soup.vertices, axis=0).max()


def test_the_far_side_of_a_thin_wall_is_the_wrong_side():
    thin = box(40, 40, 0.4)
    points, lost = project_anchors([anchor(20, 20, 0.1, normal=(0, 0, 1))], thin, "figure", "")
    assert not lost and points[0] == pytest.approx([20, 20, 0.4])
    sheet = Mesh(np.array([[0, 0, 0], [40, 0, 0], [40, 40, 0.0]]), np.array([[0, 2, 1]], np.int32))  # looks down
    _, lost = project_anchors([anchor(20, 10, 0.1, normal=(0, 0, 1))], sheet, "figure", "")
    assert len(lost) == 1


def test_a_picked_corner_lands_though_no_face_looks_its_way():
    needle = cylinder(0.5, 40, 12)
    tip = Mesh(np.where(needle.vertices[:, 2:] > 39, [[0, 0, 40]], needle.vertices), needle.faces)
    points, lost = project_anchors([anchor(0, 0, 40, normal=(0, -0.3, -1))], tip, "figure", "")
    assert not lost and points[0] == pytest.approx([0, 0, 40])


def test_what_is_far_is_lost_and_says_where_the_surface_is():
    _, lost = project_anchors([anchor(0, 0, 14, normal=(0, 0, 1))], ball(10), "figure", "after")
    (one,) = lost
    assert one.away == pytest.approx(4, abs=0.05) and one.limit == pytest.approx(FARTHEST_MOVE_SHARE * 20)
    assert one.nearest.point == pytest.approx((0, 0, 10), abs=0.05) and one.nearest.source == "after"


def test_nothing_is_still_an_answer():
    nothing = Mesh(np.zeros((0, 3)), np.zeros((0, 3), np.int32))
    points, lost = project_anchors([anchor(1, 2, 3)], nothing, "figure", "")
    assert len(points) == 0 and lost[0].nearest.point == (1, 2, 3)
    with pytest.raises(ValueError, match="needs a length"):
        anchor(0, 0, 0, normal=(0, 0, 0))


def recipe(source: Mesh, *steps, **fields) -> Recipe:
    return Recipe(steps=(BringIn(source=source.hash, name="a.stl", up="z", **fields), *steps))


def thicken(*anchors: Anchor) -> Thicken:
    return Thicken(wall=PrintMM(0.8), places=anchors, reach=FigureMM(4))


def plate_with_rod() -> Mesh:
    return concatenated(box(30, 20, 2), subdivided(subdivided(cylinder(0.2, 20, 12, at=(10, 10, 1)))))


def test_a_lost_anchor_is_a_finding_whose_remedy_puts_it_back():
    figure = plate_with_rod()
    on_rod, off_rod = anchor(-5, 0.2, 12, normal=(0, 1, 0)), anchor(-5, 4, 12, normal=(0, 1, 0))
    asked = recipe(figure, thicken(on_rod, off_rod))
    edition = Edition(factor=1.0)
    build = build_kept(asked, edition, {figure.hash: figure})
    (found,) = [finding for finding in build.findings if finding.code == "lost-anchor"]
    assert found.count == 1 and found.measured == pytest.approx(3.8, abs=0.1) and found.limit == pytest.approx(0.9)
    assert build.receipts[1].places == 1
    back, out = found.remedies
    mended, _ = after_change(asked, edition, back.change)
    again = build_kept(mended, edition, {figure.hash: figure})
    assert "lost-anchor" not in {finding.code for finding in again.findings}
    assert again.receipts[1].places == 2
    left, _ = after_change(asked, edition, out.change)
    assert left.steps[1].places == (on_rod,)


def test_a_step_whose_last_point_is_dropped_is_switched_off():
    figure = plate_with_rod()
    asked = recipe(figure, thicken(anchor(0, 90, 0)))
    build = build_kept(asked, Edition(factor=1.0), {figure.hash: figure})
    (found,) = [finding for finding in build.findings if finding.code == "lost-anchor"]
    dropped, _ = after_change(asked, Edition(), found.remedies[1].change)
    assert not dropped.steps[1].on and dropped.steps[1].places
    for step in (1, 7):
        with pytest.raises(IllegalOrder, match="no longer in the record"):
            with_step_set(asked, "thicken", {"on": False}, step)


def test_read_in_another_unit_every_point_is_lost_and_nothing_is_thickened_elsewhere():
    figure = plate_with_rod()
    asked = recipe(figure, thicken(anchor(-5, 0.2, 12, normal=(0, 1, 0))), unit="in")
    run = run_recipe(asked, {figure.hash: figure}, Edition(factor=1.0))
    (bare,) = run_recipe(recipe(figure, unit="in"), {figure.hash: figure}, Edition(factor=1.0)).parts
    assert run.receipts[1].lost and run.parts[0].mesh.hash == bare.mesh.hash


def test_a_point_is_lost_only_where_no_part_has_it():
    left, right = box(10, 10, 2), box(10, 10, 2, at=(30, 0, 0))
    whole = concatenated(left, right)
    pieces = (SourcePiece(name="left", mesh=left.hash), SourcePiece(name="right", mesh=right.hash))
    asked = recipe(whole, thicken(anchor(-15, 0, 2, normal=(0, 0, 1)), anchor(0, 0, 2)), pieces=pieces)
    sources = {mesh.hash: mesh for mesh in (whole, left, right)}
    (_, receipt) = run_recipe(asked, sources, Edition(factor=1.0)).receipts
    assert [one.number for one in receipt.lost] == [1]


def test_a_step_whose_part_is_gone_says_so_and_can_be_turned_to_another():
    plate = box(30, 20, 2)
    step = thicken(anchor(0, 0, 2)).model_copy(update={"scope": "lantern"})
    asked, edition = recipe(plate, step), Edition(factor=1.0)
    build = build_kept(asked, edition, {plate.hash: plate})
    (found,) = [finding for finding in build.findings if finding.code == "lost-part"]
    assert step.said(build.receipts[1]) == ("Thicken: there is no part lantern.",)
    there, _ = after_change(asked, edition, found.remedies[0].change)
    assert there.steps[1].scope == "figure"
    assert not [f for f in build_kept(there, edition, {plate.hash: plate}).findings if f.code == "lost-part"]
