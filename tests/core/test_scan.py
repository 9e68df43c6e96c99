"""Scans of known shapes recovered, and every step of their clean-up."""

import numpy as np
import pytest
from scipy.spatial import cKDTree

from tests.shapes import ball, box, concatenated, cylinder
from ulvet.core.bench.edition import Edition
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.files.clean_scan import clean_scan
from ulvet.core.formats.archive import archive_bytes
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.formats.read import read_scan
from ulvet.core.formats.scans import scan_files
from ulvet.core.geometry.deviation import distance_to
from ulvet.core.geometry.mesh import Mesh, area, bounds, vertex_normals, volume
from ulvet.core.geometry.topology import edges_of, is_watertight
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.runner import Recipe, run_recipe
from ulvet.core.scan.captured import compare_captured
from ulvet.core.scan.check import check_scan
from ulvet.core.scan.cleanup_steps import DropSpecks
from ulvet.core.scan.registration import register_passes
from ulvet.core.scan.remeshing import CannotRemesh, remesh, smooth_rims
from ulvet.core.scan.steps import CaliperLength, SetLengths, SetUpright, TakeOffMount, Trim
from ulvet.core.scan.trimming import BoxVolume, HalfSpace, LassoVolume, cut_by_plane, find_stem, trimmed, without_specks
from ulvet.core.sources.scan import Pass, Scan
from ulvet.standins.scanner import CannotScan, ScanSettings, scan_object

NOISE = 0.05


@pytest.fixture(scope="module")
def known():
    """A lopsided shape on a stem, which no turn maps onto itself; where its stem ends."""
    shape = concatenated(
        ball(14, (0, 0, 34), rounds=5), ball(8, (13, 4, 40), rounds=5), ball(5, (-10, 9, 44), rounds=5)
    )
    return concatenated(shape, cylinder(2.2, 22, 48), cylinder(12, 2, 48)), shape


@pytest.fixture(scope="module")
def scanned(known):
    return scan_object(known[0], ScanSettings(noise=NOISE))


@pytest.fixture(scope="module")
def cleaned(scanned):
    scan, fused = scanned
    return clean_scan(fused, scan)


def onto(mesh: Mesh, truth: Mesh) -> Mesh:
    """The mesh moved onto the truth as a rigid body, point to plane, from its own box's place."""
    points = mesh.vertices - bounds(mesh).mean(axis=0) + bounds(truth).mean(axis=0)
    tree, normals = cKDTree(truth.vertices), vertex_normals(truth)
    for _ in range(30):
        near = tree.query(points)[1]
        n, gap = normals[near], np.einsum("ij,ij->i", points - truth.vertices[near], normals[near])
        rows = np.concatenate([np.cross(points, n), n], axis=1)
        keep = np.abs(gap) < 1.5
        move = np.linalg.lstsq(rows[keep], -gap[keep], rcond=None)[0]
        points = points + np.cross(move[:3], points) + move[3:]
    return Mesh(points, mesh.faces)


def test_a_known_shape_is_recovered_within_twice_the_noise_and_half_a_percent(known, cleaned):
    _, shape = known
    recipe, run = cleaned
    mesh = run.parts[0].mesh
    assert is_watertight(edges_of(mesh))
    assert not (edges_of(mesh).uses > 2).any()
    found = onto(mesh, shape)
    far = distance_to(shape, found.vertices)
    # Where the stem was, and between the balls, there is nothing to recover.
    beside = cKDTree(run.parts[0].captured.vertices).query(mesh.vertices)[0] < 1
    on_skin = beside & (far < 1)
    assert on_skin.mean() > 0.9
    assert far[on_skin].mean() < 2 * NOISE
    wide, tall = np.ptp(found.vertices[on_skin][:, 0]), np.ptp(shape.vertices[:, 0])
    assert wide == pytest.approx(tall, rel=0.005)
    receipts = {step.kind: receipt for step, receipt in zip(recipe.steps, run.receipts, strict=True)}
    assert receipts["fuse-passes"].residual_mm < receipts["fuse-passes"].by_table_mm
    assert receipts["take-off-mount"].height_mm == pytest.approx(20.3, abs=1.5)


def test_the_device_leaves_shadows_and_strays_and_errs_the_same_way_twice(known, scanned):
    scan, fused = scanned
    assert len(scan.passes) == 24
    assert edges_of(fused).open.any()
    again, _ = scan_object(known[0], ScanSettings(noise=NOISE))
    assert again.hash == scan.hash
    assert scan_object(known[0], ScanSettings(noise=NOISE, seed=8, steps=3, tilts=(20.0,)))[0].hash != scan.hash
    # Nothing is seen from below, and no pass sees all round.
    for one in scan.passes[:3]:
        assert len(one.points) < scan.count / 12
        assert np.linalg.norm(one.normals, axis=1) == pytest.approx(1, abs=1e-6)


@pytest.mark.parametrize(
    ("mesh", "settings", "says"),
    [
        (Mesh(np.empty((0, 3)), np.empty((0, 3), np.int32)), ScanSettings(), "nothing on the turntable"),
        (ball(4), ScanSettings(), "8.0 mm long"),
        (ball(200), ScanSettings(), "400.0 mm long"),
        (ball(20), ScanSettings(tilts=(89.0,)), "tilts from -5 to 85"),
    ],
)
def test_the_device_refuses_what_it_cannot_see(mesh, settings, says):
    with pytest.raises(CannotScan, match=says):
        scan_object(mesh, settings)


def test_a_scan_without_points_says_so():
    nothing = Scan((Pass(np.empty((0, 3)), np.empty((0, 3)), 0, 0),), np.zeros(3), np.array([0, 0, 1.0]), 0.05, "x")
    with pytest.raises(ValueError, match="no points"):
        register_passes(nothing)


def test_a_scan_is_the_same_from_a_folder_a_zip_and_memory(scanned, tmp_path):
    scan, fused = scanned
    files = scan_files(scan, fused)
    for name, data in files:
        (tmp_path / name).write_bytes(data)
    packed = tmp_path / "scan.zip"
    packed.write_bytes(archive_bytes(files))
    one, two = read_scan(tmp_path), read_scan(packed)
    assert one.scan.hash == two.scan.hash
    assert one.mesh.hash == two.mesh.hash
    assert one.scan.count == scan.count
    assert np.allclose(one.scan.passes[5].points, scan.passes[5].points, atol=1e-3)
    assert Scan.from_bytes(one.scan.to_bytes()).hash == one.scan.hash


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("scan.json", b"{}", "does not say"),
        ("scan.json", b"[" * 100_000, "does not say"),
        ("scan.json", None, "not in"),
        ("pass-03.ply", None, "pass-03.ply is not in"),
        (
            "pass-03.ply",
            b"ply\nformat ascii 1.0\nelement vertex 9\nproperty float x\nend_header\n1\n",
            "damaged|cut off|points",
        ),
        ("fused.ply", b"not a ply", "PLY"),
    ],
)
def test_a_damaged_scan_is_a_sentence(scanned, tmp_path, name, data, says):
    for file, held in scan_files(*scanned):
        (tmp_path / file).write_bytes(held)
    if data is None:
        (tmp_path / name).unlink()
    else:
        (tmp_path / name).write_bytes(data)
    with pytest.raises(UnreadableFile, match=says):
        read_scan(tmp_path)


# Clean-up, step by step


def test_a_plane_cuts_through_faces_and_leaves_one_flat_rim():
    mesh = ball(10, rounds=5)
    half = cut_by_plane(mesh, np.array([0, 0, 2.0]), np.array([0, 0, 1.0]))
    low, high = bounds(half)
    assert (low[2], high[2]) == pytest.approx((2, 10), abs=1e-3)
    # A cap of a sphere has the area of its height times the great circle.
    assert area(half) == pytest.approx(2 * np.pi * 10 * 8, rel=5e-3)
    other = cut_by_plane(mesh, np.array([0, 0, 2.0]), np.array([0, 0, -1.0]))
    assert area(half) + area(other) == pytest.approx(area(mesh))
    rim = half.vertices[np.unique(edges_of(half).ends[edges_of(half).open])]
    assert rim[:, 2] == pytest.approx(2)
    assert len(cut_by_plane(mesh, np.array([0, 0, 20.0]), np.array([0, 0, 1.0])).faces) == 0


def test_boxes_and_lassos_take_what_they_hold():
    mesh = ball(10, rounds=5)
    kept = trimmed(mesh, BoxVolume(low=(-5, -20, -20), high=(5, 20, 20)), inside=False)
    assert bounds(kept)[:, 0] == pytest.approx([-5, 5])
    gone = trimmed(mesh, BoxVolume(low=(-5, -20, -20), high=(5, 20, 20)), inside=True)
    assert area(kept) + area(gone) == pytest.approx(area(mesh), rel=0.05)
    lasso = LassoVolume(view=(0, 0, 1), across=(1, 0, 0), outline=((-4, -4), (4, -4), (4, 4), (-4, 4)))
    tube = trimmed(mesh, lasso, inside=True)
    assert (np.abs(tube.vertices[:, :2]).max(axis=1) > 3).all()
    assert area(trimmed(mesh, lasso, inside=False)) + area(tube) == pytest.approx(area(mesh))
    # Drawn from the front, where x runs across and z is up, in two lobes left and right of the middle.
    lobes = ((-9.0, -4.0), (9.0, 4.0), (9.0, -4.0), (-9.0, 4.0))
    bow = trimmed(mesh, LassoVolume(view=(0, -1, 0), across=(1, 0, 0), outline=lobes), inside=False)
    x, _, z = (bow.vertices[bow.faces].mean(axis=1)).T
    assert (np.abs(z) < 4 / 9 * np.abs(x) + 1e-9).all()
    assert x.min() < -8
    assert x.max() > 8
    with pytest.raises(ValueError, match="square"):
        LassoVolume(view=(0, 0, 1), across=(1, 0, 1), outline=lobes)
    with pytest.raises(ValueError, match="low corner"):
        BoxVolume(low=(0, 0, 0), high=(0, 1, 1))


@pytest.mark.parametrize(
    ("mesh", "top"),
    [
        (concatenated(ball(10, (0, 0, 30)), cylinder(1.5, 22, 24)), 21),
        (concatenated(box(30, 30, 20, at=(-15, -15, 25)), cylinder(2, 25, 24), cylinder(14, 3, 24)), 25),
        (ball(10), None),
        (box(10, 10, 40), None),
        (cylinder(5, 30, 24), None),
    ],
)
def test_a_stem_is_found_where_there_is_one(mesh, top):
    stem = find_stem(mesh)
    assert (stem is None) is (top is None)
    if stem:
        assert stem.top == pytest.approx(top, abs=1.5)


def test_specks_go_and_what_is_large_stays():
    mesh, dropped = without_specks(concatenated(ball(10), ball(0.1, (20, 0, 0)), ball(3, (0, 20, 0))))
    assert dropped == 1
    assert len(mesh.faces) == len(ball(10).faces) + len(ball(3).faces)
    assert without_specks(ball(10))[1] == 0


def test_smoothing_a_rim_does_not_shrink_it():
    cap = cut_by_plane(ball(10, rounds=5), np.array([0, 0, 0.0]), np.array([0, 0, 1.0]))
    edges = edges_of(cap)
    rim = np.unique(edges.ends[edges.open])
    points = np.array(cap.vertices)
    points[rim] += np.random.default_rng(3).normal(0, 0.15, (len(rim), 3))
    ragged = Mesh(points, cap.faces)
    smooth, moved, most = smooth_rims(ragged)
    after = smooth.vertices[np.unique(edges_of(smooth).ends[edges_of(smooth).open])]
    radius = np.linalg.norm(after[:, :2], axis=1)
    assert radius.mean() == pytest.approx(10, abs=0.06)
    assert after[:, 2].std() < 0.6 * ragged.vertices[rim][:, 2].std()
    assert moved and most < 1
    _, untouched, _ = smooth_rims(ragged, np.array([[0.0, 0, 10]]), 1.0)
    assert untouched == 0


def test_even_triangles_are_even_and_stay_on_the_surface():
    mesh = ball(10, rounds=4)
    even = remesh(mesh, 0.8)
    ends = edges_of(even).ends
    length = np.linalg.norm(even.vertices[ends[:, 0]] - even.vertices[ends[:, 1]], axis=1)
    assert length.mean() == pytest.approx(0.8, rel=0.1)
    assert length.std() < 0.2 * length.mean()
    assert distance_to(mesh, even.vertices).max() < 0.05
    assert is_watertight(edges_of(even))
    corners = np.array([[0.0, 0, 0], [1, 0, 0], [0, 1, 0], [0, -1, 0], [0, 0, 1]])
    fin = Mesh(corners, np.array([[0, 1, 2], [1, 0, 3], [0, 1, 4]], np.int32))
    with pytest.raises(CannotRemesh):
        remesh(fin, 0.2)


def steps_on(mesh, *steps):
    recipe = Recipe(steps=(BringIn(source=mesh.hash, name="scan.ply"), *steps))
    return recipe, run_recipe(recipe, {mesh.hash: mesh}, Edition(height=PrintMM(50)))


def at(*point):
    return Anchor(point=tuple(FigureMM(v) for v in point), normal=None)


def test_three_picks_of_a_level_place_set_an_object_upright():
    lying = box(40, 10, 20)
    picks = (at(20, -5, 0), at(20, 5, 0), at(20, 0, 20))
    picks = tuple(pick.model_copy(update={"normal": (1.0, 0.0, 0.0)}) for pick in picks)
    _, run = steps_on(lying, SetUpright(picks=picks))
    assert np.ptp(bounds(run.parts[0].mesh), axis=0) == pytest.approx([20, 10, 40])
    assert run.receipts[1].turned_degrees == pytest.approx(90)
    assert bounds(run.parts[0].mesh)[0, 2] == pytest.approx(0)
    _, run = steps_on(lying, SetUpright(picks=(at(0, 0, 0), at(5, 0, 0), at(9, 0, 0))))
    assert run.receipts[1].idle
    with pytest.raises(ValueError, match="three picks"):
        SetUpright(picks=(at(0, 0, 0),))


def test_the_size_of_an_edition_is_that_of_what_is_left_of_the_scan():
    mounted = concatenated(box(30, 30, 20, at=(-15, -15, 25)), cylinder(2, 25, 24))
    _, run = steps_on(mounted, TakeOffMount())
    assert np.ptp(bounds(run.parts[0].mesh)[:, 2]) * run.factor == pytest.approx(50)
    _, run = steps_on(mounted, TakeOffMount(height=FigureMM(400)))
    assert run.receipts[1].not_done == "that would leave nothing of it"
    assert len(run.parts[0].mesh.faces) == len(mounted.faces)
    _, run = steps_on(mounted, Trim(volume=HalfSpace(point=(0, 0, 30), normal=(0, 0, 1))))
    assert run.receipts[1].surface_removed > 0


def test_caliper_lengths_set_the_size_and_disagreement_is_a_finding():
    mesh = box(40, 10, 20)
    wide = CaliperLength(name="width", a=at(-20, 0, 10), b=at(20, 0, 10), real=PrintMM(41))
    recipe, run = steps_on(mesh, SetLengths(lengths=(wide,)))
    assert np.ptp(bounds(run.parts[0].mesh), axis=0) == pytest.approx([41, 10.25, 20.5])
    assert check_scan(recipe.steps, run.receipts, run.parts, 1.0) == []
    tall = CaliperLength(name="height", a=at(0, 0, 0), b=at(0, 0, 20), real=PrintMM(21.5))
    recipe, run = steps_on(mesh, SetLengths(lengths=(wide, tall)))
    (finding,) = check_scan(recipe.steps, run.receipts, run.parts, 1.0)
    assert finding.code == "lengths-disagree"
    assert finding.measured == pytest.approx(2.4, abs=0.1)
    assert run.receipts[1].factor == pytest.approx((1.025 + 1.075) / 2)
    with pytest.raises(ValueError):
        CaliperLength(a=at(0, 0, 0), b=at(1, 0, 0), real=PrintMM(0))


def test_a_scan_is_told_of_its_mount_and_specks_and_a_remedy_settles_each(known, scanned):
    from ulvet.core.findings.changes import after_change
    from ulvet.core.scan.steps import scan_steps

    scan, fused = scanned
    sources = {fused.hash: fused, scan.hash: scan}
    recipe = Recipe(steps=(BringIn(source=fused.hash, name="x.scan.zip"), *scan_steps(scan, fused)))
    for _ in range(3):
        run = run_recipe(recipe, sources, Edition())
        found = check_scan(recipe.steps, run.receipts, run.parts, run.factor)
        if not found:
            break
        assert found[0].code in ("mount-attached", "specks")
        recipe, _ = after_change(recipe, Edition(), found[0].remedies[0].change)
    assert found == []
    assert any(isinstance(step, TakeOffMount) for step in recipe.steps)
    assert not any(isinstance(step, DropSpecks) and not step.on for step in recipe.steps)


def test_what_was_invented_is_told_apart_from_what_was_captured(cleaned):
    _, run = cleaned
    part = run.parts[0]
    compared, beside = compare_captured(part.mesh, part.captured.vertices)
    assert compared.mean < NOISE
    assert sum(compared.counts) > 0.5 * len(part.captured.vertices)
    assert 0 < compared.invented < 0.3 * area(part.mesh)
    assert len(beside) == len(part.mesh.vertices)
    assert volume(part.mesh) > 0
