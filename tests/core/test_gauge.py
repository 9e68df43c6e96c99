import numpy as np
import pytest

from tests.shapes import ball, box, concatenated, cylinder, subdivided, tube
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.edition import Edition
from ulvet.core.findings.finding import AddSteps, SetEdition, Severity
from ulvet.core.gauge.thickening.thicken import thicken_walls
from ulvet.core.gauge.walls.check_walls import check_walls
from ulvet.core.gauge.walls.place_names import places_with_kinds
from ulvet.core.gauge.walls.thickness import measure_near, measure_thickness
from ulvet.core.gauge.walls.thin_places import thin_places
from ulvet.core.geometry.mesh import Mesh, translated, volume
from ulvet.core.geometry.topology import edges_of, is_watertight
from ulvet.core.recipe.step import Part


def shell(outer, inner):
    a, b = ball(outer, rounds=5), ball(inner, rounds=5)
    return concatenated(a, Mesh(b.vertices, b.faces[:, ::-1]))


def findings(mesh, factor=1.0, material="tough-grey"):
    setup = DEFAULT_BENCH.setup(material_id=material)
    edition = Edition(factor=factor, setting=setup.setting.id)
    places = places_with_kinds(mesh, measure_thickness(mesh), setup.walls, factor)
    return check_walls(Part("figure", mesh), places, factor, setup, edition, DEFAULT_BENCH)


def turned(mesh, seed=1):
    axes, _ = np.linalg.qr(np.random.default_rng(seed).normal(size=(3, 3)))
    axes *= np.sign(np.linalg.det(axes))
    return Mesh(mesh.vertices @ axes.T, mesh.faces)


@pytest.mark.parametrize(
    ("mesh", "wall"),
    [
        (box(40, 30, 0.3), 0.3),
        (subdivided(subdivided(box(40, 30, 0.3))), 0.3),
        (turned(box(40, 30, 0.3)), 0.3),
        (cylinder(0.2, 20, 96), 0.4),
        (turned(cylinder(0.2, 20, 24)), 0.4 * np.cos(np.pi / 24)),
        (tube(10, 9.6, 20, 192), 0.4),
        (shell(10, 9.5), 0.5),
        (box(40, 30, 0.3, at=(5000, -3000, 900)), 0.3),
    ],
    ids=["plate", "fine plate", "turned plate", "bar", "turned bar", "tube", "shell", "far away"],
)
def test_known_walls_are_measured_within_two_percent(mesh, wall):
    (place,) = thin_places(mesh, measure_thickness(mesh), 0.6)
    assert place.wall == pytest.approx(wall, rel=0.02)


def test_thick_shapes_have_no_thin_place():
    for mesh in (box(10, 10, 10), ball(5), cylinder(4, 20)):
        assert not thin_places(mesh, measure_thickness(mesh), 0.8)


def test_the_sides_of_a_plate_are_edges_not_walls():
    mesh = box(40, 30, 0.3)
    thickness = measure_thickness(mesh)
    on_side = np.abs(thickness.normals[:, 2]) < 0.01
    inner = np.arange(len(thickness.walls)) >= len(mesh.vertices)
    assert thickness.walls[on_side & inner].min() > 20


def test_two_plates_are_two_places_each_with_its_own_wall_and_extent():
    mesh = concatenated(box(10, 10, 0.3), box(6, 6, 0.5, at=(0, 0, 30)))
    thin, thicker = thin_places(mesh, measure_thickness(mesh), 0.6)
    assert (thin.wall, thicker.wall) == (pytest.approx(0.3, rel=0.01), pytest.approx(0.5, rel=0.01))
    assert thin.extent == pytest.approx(np.hypot(10, 10), rel=0.2)
    assert thin.point[2] < 1 < thicker.point[2]
    assert np.allclose(thin.point[:2], 5, atol=1.0)  # amid the plate, not at its corner


def test_a_bar_through_a_body_is_thin_only_where_it_shows():
    body, bar = ball(10), cylinder(0.2, 30, 24, at=(0, 0, -5))
    (place,) = thin_places(concatenated(body, bar), measure_thickness(concatenated(body, bar)), 0.6)
    assert 14 < place.extent < 16  # of 30 mm, 15 stand out above the body


def test_overlapping_shells_are_one_wall():
    mesh = concatenated(box(10, 10, 0.4), box(10, 10, 0.4, at=(0, 0, 0.3)))
    (place,) = thin_places(mesh, measure_thickness(mesh), 0.9)
    assert place.wall == pytest.approx(0.7, rel=0.02)


def test_limits_belong_to_the_material_and_the_size():
    plate = box(40, 30, 1.0)
    assert not findings(plate)
    (finding,) = findings(plate, factor=0.4)
    assert (finding.severity, finding.limit) == (Severity.STOP, pytest.approx(0.45))
    (finding,) = findings(plate, factor=0.6)
    assert (finding.severity, finding.limit) == (Severity.CAUTION, pytest.approx(0.70))
    assert finding.measured == pytest.approx(0.6, rel=0.01)
    (finding,) = findings(plate, material="matt-filament")
    assert finding.severity is Severity.CAUTION


def test_near_places_are_gathered_and_counted():
    pins = [cylinder(0.2, 4, 24, at=(x, 0, 9.5)) for x in (-1, 0, 1)]
    body = box(60, 10, 10, at=(-30, -5, 0))
    far = cylinder(0.2, 4, 24, at=(28, 0, 9.5))
    counts = sorted(finding.count for finding in findings(concatenated(body, *pins, far)))
    assert counts == [1, 3]


def test_thickening_reaches_the_wall_and_moves_nothing_far_away():
    post, plate = box(10, 10, 10, at=(40, 0, 0)), box(20, 20, 0.3)
    for _ in range(4):
        plate = subdivided(plate)
    mesh = concatenated(plate, post)
    after, count, translated = thicken_walls(mesh, 0.6, 2.0, np.array([[10.0, 10, 0.15]]), 15.0)
    assert count > 0
    assert translated < 0.31
    (place,) = thin_places(after, measure_thickness(after), 0.7)
    assert place.wall == pytest.approx(0.6, rel=0.02)
    assert np.array_equal(after.vertices[len(plate.vertices) : len(mesh.vertices)], post.vertices)
    assert is_watertight(edges_of(after))
    assert volume(after) > volume(mesh)


def test_remedies_cure_what_they_are_offered_for():
    bar = cylinder(0.2, 20, 32)
    (finding,) = findings(bar)
    labels = [remedy.label for remedy in finding.remedies]
    assert any("Thicken" in label for label in labels)
    assert any("tall" in label for label in labels)
    assert any("bending clear" in label for label in labels)
    for remedy in finding.remedies:
        if "wire" in remedy.label:
            continue  # a bar alone has nothing to drill into; see test_gauge_remedies
        if isinstance(remedy.change, SetEdition):
            edition = remedy.change.edition
            factor = edition.height / 20 if edition.height else 1.0
            after = findings(bar, factor, DEFAULT_BENCH.setup(edition.setting).material.id)
        else:
            assert isinstance(remedy.change, AddSteps)
            (step,) = remedy.change.steps
            mesh = step.change(Part("figure", bar), {"factor": 1.0})[0].mesh
            after = findings(mesh)
        assert all(f.severity is not Severity.STOP for f in after), remedy.label


@pytest.mark.parametrize("k", range(4))
def test_near_a_place_walls_are_those_of_the_whole(k):
    mesh = concatenated(shell(8, 7.5), translated(cylinder(0.4, 20, 16), [9, 0, 0]), box(3, 30, 0.6, at=(12, -8, 3)))
    whole = measure_thickness(mesh)
    place = mesh.vertices[np.random.default_rng(k).integers(len(mesh.vertices))]
    near = np.linalg.norm(mesh.vertices - place, axis=1) < 2.5
    around = near.copy()
    around[mesh.faces[near[mesh.faces].any(axis=1)]] = True
    local = measure_near(mesh, around[mesh.faces].any(axis=1), 1.0)
    ours, theirs = local.thickness.walls[: len(local.vertices)], whole.walls[local.vertices]
    asked = near[local.vertices] & (theirs < 1.0)
    assert asked.any() and len(local.faces) < len(mesh.faces)
    assert np.allclose(ours[asked], theirs[asked], rtol=1e-5)
    assert np.array_equal(np.isfinite(ours[near[local.vertices]]), (theirs <= 1.0)[near[local.vertices]])


def test_a_wall_held_on_both_sides_may_be_thinner_than_one_that_stands_free():
    (held,) = findings(shell(8, 7.58))
    free = min(findings(subdivided(subdivided(box(20, 20, 0.42)))), key=lambda finding: finding.measured)
    assert held.measured == pytest.approx(free.measured, abs=0.02)
    assert (held.severity, free.severity) == (Severity.CAUTION, Severity.STOP)
    assert "held on both sides" in held.why and "free-standing" in free.why
    (thinner,) = findings(shell(8, 7.66))
    assert thinner.severity == Severity.STOP and thinner.limit == pytest.approx(0.36)


@pytest.mark.parametrize(
    ("mesh", "severity", "limit"),
    [
        (shell(8, 7.4), None, None),
        (subdivided(subdivided(box(20, 20, 0.6))), Severity.CAUTION, 0.7),
        (cylinder(0.21, 20, 24), Severity.STOP, 0.45),
        (cylinder(0.28, 20, 24), Severity.CAUTION, 0.7),
    ],
    ids=["held", "free-standing", "thin pin", "pin"],
)
def test_every_kind_of_wall_has_limits_of_its_own(mesh, severity, limit):
    found = findings(mesh)
    assert [(one.severity, one.limit) for one in found] == ([] if severity is None else [(severity, limit)])
    assert all(one.limit_origin == "bench default" for one in found)
