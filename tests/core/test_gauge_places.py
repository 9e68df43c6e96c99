"""Thin places by name, how much is how thin, what sanding leaves, and faces that are meant to be level."""

import numpy as np
import pytest

from tests.core.test_gauge_remedies import BEAKED, ROD, built, of
from tests.core.test_handling import BLOCK, united
from tests.kept import build_kept
from tests.shapes import ball, box, concatenated, cylinder, subdivided, turned
from ulvet.core.bench.edition import Edition
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.findings.finding import SetStep
from ulvet.core.gauge.record_steps import MeantLevel, NamePlace
from ulvet.core.gauge.steps import GrowBase, Thicken
from ulvet.core.geometry.mesh import Mesh, bounds, translated
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.changes import with_step_set
from ulvet.core.recipe.runner import Recipe

HOLLOW = concatenated(ball(8, rounds=5), Mesh(ball(7.35, rounds=5).vertices, ball(7.35, rounds=5).faces[:, ::-1]))
"""A wall of 0.65 mm about a cavity that is shut."""


def test_places_tell_their_kind_and_where_and_how_long_they_are():
    gauge = built(BEAKED).gauge
    tip = gauge.places[0]
    assert tip.name.startswith("tip, ") and tip.name.endswith("right") and tip.kind == "pin" and not tip.given
    assert tip.limit_mm == 0.45 > tip.least_mm and 0.5 < tip.extent_mm < 4
    assert [place.least_mm for place in gauge.places] == sorted(place.least_mm for place in gauge.places)


def test_a_name_is_that_of_every_finding_there_and_stays_over_another_source():
    place = of(built(ROD), "snap-risk")[0].where.point
    name = NamePlace(name=" the mast ", places=(Anchor(point=place),), within=FigureMM(2))
    again = united(BLOCK, translated(cylinder(0.41, 12.4, 40), [4.05, 2, 5.5]))
    for mesh in (ROD, again):
        build = built(mesh, None, name)
        (finding,) = of(build, "snap-risk")
        assert finding.title.endswith(" N, the mast") and build.gauge.limbs[0].name == "the mast"
        assert build.receipts[-1].lost == ()
    elsewhere = name.model_copy(update={"places": (Anchor(point=(-9.0, -9.0, 6.0)),)})
    assert "mast" not in of(built(ROD, None, elsewhere), "snap-risk")[0].title
    off = name.model_copy(update={"on": False})
    assert "mast" not in of(built(ROD, None, off), "snap-risk")[0].title


def test_shares_of_the_surface_add_up_and_lie_where_the_wall_is():
    walls = built(HOLLOW).gauge.walls
    assert sum(walls.shares) + walls.beyond == pytest.approx(1)
    progress = np.array(walls.upto_mm)[np.array(walls.shares) > 0.01]
    assert progress.min() >= 0.6 and progress.max() <= 0.8
    # All of it is thin at the outer skin and at the inner, up to where facets are a little thicker.
    assert walls.stops == 0 and walls.wants_care > 0.95
    assert built(Mesh(HOLLOW.vertices, HOLLOW.faces[::7])).gauge.walls is None


@pytest.mark.parametrize(
    ("mesh", "wall", "sides"), [(HOLLOW, 0.65, 1), (subdivided(subdivided(box(20, 20, 0.9))), 0.9, 2)]
)
def test_sanding_takes_from_the_sides_it_gets_to(mesh, wall, sides):
    off = 0.15
    assert not of(built(mesh), "thin-wall")
    after = min(of(built(mesh, Edition(sanding=PrintMM(off))), "thin-wall"), key=lambda finding: finding.measured)
    assert after.measured == pytest.approx(wall - sides * off, abs=0.02)
    assert "sanded off" in after.why


def test_thickened_for_sanding_it_is_thick_enough_after_it():
    edition = Edition(sanding=PrintMM(0.2))
    (finding,) = of(built(HOLLOW, edition), "thin-wall")
    thicker = next(one for one in finding.remedies if one.label.startswith("Thicken"))
    assert not of(built(HOLLOW, edition, *thicker.change.steps), "thin-wall")


def leaning(degrees, noise=0.0):
    """A block on a level foot whose top leans, its faces small."""
    mesh = box(20, 16, 8)
    for _ in range(5):
        mesh = subdivided(mesh)
    up = mesh.vertices[:, 2:] / 8 * np.tan(np.radians(degrees)) * mesh.vertices[:, :1]
    rough = np.random.default_rng(3).normal(0, noise, mesh.vertices.shape) * (mesh.vertices[:, 2:] > 1)
    return Mesh(mesh.vertices + up * [0, 0, 1] + rough, mesh.faces)


@pytest.mark.parametrize(
    ("degrees", "noise"),
    [pytest.param(0.3, 0, marks=pytest.mark.deep), (2, 0), (2, 0.02), pytest.param(7, 0, marks=pytest.mark.deep)],
)
def test_a_face_meant_to_be_level_is_told_and_turned(degrees, noise):
    mesh = leaning(degrees, noise)
    top = mesh.vertices[np.linalg.norm(mesh.vertices - bounds(mesh).mean(axis=0) - [0, 0, 4], axis=1).argmin()]
    recipe = Recipe(
        steps=(
            BringIn(source=mesh.hash, name="x.stl"),
            MeantLevel(places=(Anchor.at(top - [10, 8, 0], np.array([0, 0, 1.0]), ""),)),
        )
    )
    found = of(build_kept(recipe, Edition(), {mesh.hash: mesh}), "not-level")
    if degrees < 0.5:
        assert not found
        return
    (finding,) = found
    assert finding.measured == pytest.approx(degrees, abs=0.15)
    change = finding.remedies[0].change
    assert isinstance(change, SetStep)
    turned_one = with_step_set(recipe, change.kind, change.values, change.step)
    build = build_kept(turned_one, Edition(), {mesh.hash: mesh})
    assert not of(build, "not-level")
    normals = build.parts[0].mesh.cross
    tops = normals[(build.parts[0].mesh.vertices[build.parts[0].mesh.faces][:, :, 2] > 5).all(axis=1)]
    way = tops[tops[:, 2] > np.linalg.norm(tops[:, :2], axis=1)].sum(axis=0)
    assert np.degrees(np.arccos(way[2] / np.linalg.norm(way))) < 0.1 + 20 * noise
    assert bounds(build.parts[0].mesh)[0, 2] == pytest.approx(0, abs=1e-9)


def test_a_level_face_that_is_gone_is_told_as_lost():
    level = MeantLevel(places=(Anchor(point=(300.0, 0.0, 0.0)),))
    (finding,) = of(built(ROD, None, level), "lost-anchor")
    assert finding.station == "gauge"


def test_what_would_make_it_stand_surer_is_told_and_comes_true():
    pole = cylinder(2, 60, 48)
    surer = {(way.how, way.size_mm): way.tip_angle_deg for way in built(pole).gauge.surer}
    assert surer["longer feet", 5.0] == pytest.approx(np.degrees(np.arctan(7 / 30)), abs=0.05)
    assert surer["heavy base", 30.0] > surer["base", 30.0] > built(pole).gauge.tip_angle_deg
    on_it = built(pole, None, GrowBase(diameter=PrintMM(30)))
    assert on_it.gauge.tip_angle_deg == pytest.approx(surer["base", 30.0], rel=0.03)


def test_a_base_is_measured_with_the_wire_that_was_set_in_before():
    (finding,) = of(built(ROD), "snap-risk")
    wire = next(one for one in finding.remedies if one.label.startswith("Replace it by wire")).change.steps
    base = GrowBase(diameter=PrintMM(12))
    bare, wired = built(ROD, None, base), built(ROD, None, *wire, base)
    assert wired.receipts[-1].tip_angle == pytest.approx(wired.gauge.tip_angle_deg, abs=0.5)
    assert bare.receipts[-1].tip_angle == pytest.approx(bare.gauge.tip_angle_deg, abs=0.5)
    # Steel stands high in it.
    assert wired.receipts[-1].tip_angle < bare.receipts[-1].tip_angle - 0.5


def test_how_far_it_tips_is_told_each_way():
    gauge = built(translated(box(10, 20, 30), [0, 0, 0])).gauge
    progress = {tip.way: tip.angle_deg for tip in gauge.tips}
    assert len(progress) == 8 and progress["right"] == pytest.approx(np.degrees(np.arctan(5 / 15)))
    assert progress["front"] == pytest.approx(np.degrees(np.arctan(10 / 15)))
    assert min(progress.values()) == pytest.approx(gauge.tip_angle_deg)


def test_all_places_of_a_kind_are_thickened_at_once():
    pins = [translated(cylinder(0.3, 6, 24), [x, 0, 3.5]) for x in (-8, 8)]
    block = box(24, 10, 4, at=(-12, -5, 0))
    for _ in range(5):
        block = subdivided(block)
    two = united(block, *pins)
    finding = of(built(two), "thin-wall")[0]
    (remedy,) = [one for one in finding.remedies if "all 2 pins" in one.label]
    (step,) = remedy.change.steps
    assert sorted(np.sign(anchor.point[0]) for anchor in step.places) == [-1, 1]
    mesh = built(two, None, step).parts[0].mesh
    for side in (-1, 1):
        half_way_up = mesh.vertices[(mesh.vertices[:, 0] * side > 0) & (mesh.vertices[:, 2] > 9)]
        assert np.ptp(half_way_up[:, 1]) >= 0.7


def test_after_the_work_a_place_is_measured_again_and_says_so():
    thin = turned(subdivided(subdivided(subdivided(box(20, 20, 0.4)))), "x", 90)
    middle = bounds(thin).mean(axis=0)
    step = Thicken(wall=PrintMM(0.8), places=(Anchor.at(middle, None, ""),), reach=FigureMM(3))
    build = built(thin, None, step)
    sentence = "".join(part if isinstance(part, str) else f"{part.value}" for part in step.said(build.receipts[-1]))
    assert "measured again, nothing there is under 0.80 mm" in sentence
    angle = built(cylinder(2, 60, 48), None, GrowBase(diameter=PrintMM(30))).receipts[-1].tip_angle
    assert angle > 10
