import numpy as np
import pytest

from tests.shapes import ball, box, concatenated, subdivided
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.findings.finding import AddSteps
from ulvet.core.geometry.degenerate_faces import drop_faces, zero_area_faces
from ulvet.core.geometry.face_orientation import orient_faces
from ulvet.core.geometry.holes import close_holes, holes_of
from ulvet.core.geometry.mesh import Mesh, area, volume
from ulvet.core.geometry.topology import edges_of, is_watertight
from ulvet.core.mend.check import check_mesh
from ulvet.core.mend.steps import CloseHoles, DropFaces, OrientFaces, Weld
from ulvet.core.recipe.step import Context, Part
from ulvet.core.tolerances import BENCH_TOLERANCES


def check(mesh):
    return {f.code: f for f in check_mesh(Part("figure", mesh), 1.0, BENCH_TOLERANCES, DEFAULT_BENCH.setup())}


def run(step, mesh):
    part, receipt = step.change(Part("figure", mesh), Context({}, ()))
    return part.mesh, receipt


def turned(mesh, faces):
    index = mesh.faces.copy()
    index[faces] = index[faces][:, ::-1]
    return Mesh(mesh.vertices, index)


def without(mesh, faces):
    return Mesh(mesh.vertices, np.delete(mesh.faces, faces, axis=0))


def test_a_clean_mesh_has_no_findings_and_every_step_leaves_it_alone():
    mesh = ball(10)
    assert not check(mesh)
    for step in (Weld(), DropFaces(), OrientFaces(), CloseHoles()):
        after, receipt = run(step, mesh)
        assert after.hash == mesh.hash
        assert not receipt.worked
        assert receipt.greatest_movement == 0


def test_open_edges_are_counted_and_measured_at_print_size():
    (finding,) = check_mesh(Part("figure", without(box(10, 10, 10), [0])), 0.5, BENCH_TOLERANCES, DEFAULT_BENCH.setup())
    assert finding.code == "open-edges"
    assert finding.count == 3
    assert finding.measured == pytest.approx((20 + np.sqrt(200)) / 2)


@pytest.mark.parametrize("faces", [[0], [0, 1], [0, 5, 9]])
def test_simple_holes_are_closed_exactly(faces):
    whole = subdivided(box(10, 10, 10))
    mended, receipt = run(CloseHoles(), without(whole, faces))
    assert is_watertight(edges_of(mended))
    assert volume(mended) == pytest.approx(1000)
    assert area(mended) == pytest.approx(600)
    assert receipt.surface_added == pytest.approx(area(whole) - area(without(whole, faces)))
    assert receipt.greatest_movement == 0


def test_a_hole_over_a_fold_is_closed_across_it():
    bent = without(box(10, 10, 10), [0, 2, 3])  # two rims, one of them round a corner
    mended, counts = close_holes(bent)
    assert is_watertight(edges_of(mended))
    assert counts == {"closed": len(holes_of(bent, edges_of(bent))), "left": 0}


def test_holes_that_touch_in_a_vertex_are_two_holes():
    mesh = ball(10, rounds=3)
    start = mesh.faces[0, 0]
    around = np.flatnonzero((mesh.faces == start).any(axis=1))
    opposite = next(f for f in around if len(np.intersect1d(mesh.faces[f], mesh.faces[0])) == 1)
    holed = without(mesh, [0, opposite])
    assert len(holes_of(holed, edges_of(holed))) == 2
    assert is_watertight(edges_of(close_holes(holed)[0]))


def test_a_width_limit_leaves_larger_holes_open():
    mesh = without(ball(10), [0])
    assert close_holes(mesh, widest=0.01)[1] == {"closed": 0, "left": 1}


@pytest.mark.parametrize("grown", [4.9887, 0.013, 250.1])
def test_holes_are_filled_alike_at_every_size(grown):
    whole = ball(10, rounds=4)
    middle = whole.vertices[whole.faces].mean(axis=1)
    gone = (middle[:, 2] < -6) | ((middle[:, 0] > 7) & (middle[:, 1] > 0.5))
    torn = Mesh(whole.vertices, whole.faces[~gone])
    closed, counts = close_holes(torn, faired=True)
    larger, as_many = close_holes(Mesh(torn.vertices * grown, torn.faces), faired=True)
    assert counts == as_many
    assert np.array_equal(closed.faces, larger.faces)
    assert np.abs(closed.vertices - larger.vertices / grown).max() < 1e-4


def test_a_lone_sheet_is_not_closed_by_its_own_back():
    sheet = Mesh(np.eye(3), np.array([[0, 1, 2]], np.int32))
    after, counts = close_holes(sheet)
    assert counts == {"closed": 0, "left": 1}
    assert len(after.faces) == 1


def test_turned_faces_are_found_and_turned_back():
    mesh = ball(10)
    broken = turned(mesh, [3, 4, 77])
    finding = check(broken)["inconsistent-winding"]
    assert finding.count == 3
    assert orient_faces(broken)[0].hash == mesh.hash


def test_the_fewer_faces_are_the_wrong_ones_whichever_comes_first():
    mesh = ball(10)
    mended, counts = orient_faces(turned(mesh, [0, 1]))
    assert counts["against"] == 2
    assert volume(mended) == pytest.approx(volume(mesh))


def test_an_inverted_shell_is_told_from_a_cavity():
    outer, inner = ball(10), ball(5)
    inside_out = Mesh(inner.vertices, inner.faces[:, ::-1])
    assert not check(concatenated(outer, inside_out))  # a cavity looks inward and is right
    beside = Mesh(inside_out.vertices + np.array([30, 0, 0]), inside_out.faces)
    finding = check(concatenated(outer, beside))["inverted-shell"]
    assert finding.count == 1
    assert finding.where.point[0] > 20
    mended, _ = run(OrientFaces(), concatenated(outer, beside))
    assert volume(mended) == pytest.approx(volume(outer) + volume(inner))


def test_a_shell_in_a_cavity_looks_outward_again():
    shells = [ball(10), ball(7), ball(4)]
    nested = concatenated(shells[0], Mesh(shells[1].vertices, shells[1].faces[:, ::-1]), shells[2])
    assert not check(nested)
    wrong = concatenated(shells[0], *[Mesh(s.vertices, s.faces[:, ::-1]) for s in shells[1:]])
    assert check(wrong)["inverted-shell"].count == 1


def test_a_whole_figure_inside_out_is_one_inverted_shell():
    mesh = ball(10)
    assert set(check(Mesh(mesh.vertices, mesh.faces[:, ::-1]))) == {"inverted-shell"}


def test_a_one_sided_band_is_said_to_be_one():
    n = 24
    turn = np.arange(n) * 2 * np.pi / n
    edge = [np.stack([(5 + s * np.cos(turn / 2)) * np.cos(turn), (5 + s * np.cos(turn / 2)) * np.sin(turn),
                      s * np.sin(turn / 2)], axis=1) for s in (-1, 1)]  # fmt: skip
    faces = []
    for k in range(n):
        a, b = k, n + k
        c, d = (k + 1, n + k + 1) if k < n - 1 else (n, 0)
        faces += [[a, b, c], [b, d, c]]
    finding = check(Mesh(np.concatenate(edge), np.array(faces, np.int32)))["inconsistent-winding"]
    assert "one-sided" in finding.why
    assert not finding.remedies


def test_needles_and_caps_are_dropped_without_opening_the_surface():
    mesh = box(10, 10, 10)
    a, b, c = mesh.faces[0]
    middle = (mesh.vertices[a] + mesh.vertices[b]) / 2
    faces = np.vstack([mesh.faces[1:], [[a, 8, c], [8, b, c], [a, b, 8]]])
    needle = Mesh(np.vstack([mesh.vertices, middle]), faces.astype(np.int32))
    assert check(needle)["zero-area-faces"].count == 1
    mended, counts = drop_faces(needle, 1e-6)
    assert counts["zero-area"] == 1
    assert not check(mended)
    assert volume(mended) == pytest.approx(1000)


def test_faces_that_repeat_a_vertex_are_flat_faces_and_nothing_else():
    mesh = box(10, 10, 10)
    broken = Mesh(mesh.vertices, np.vstack([mesh.faces, [[0, 0, 1], [2, 2, 2]]]).astype(np.int32))
    found = check(broken)
    assert set(found) == {"zero-area-faces"}
    assert found["zero-area-faces"].count == 2
    assert len(drop_faces(broken, 1e-6)[0].faces) == 12


def test_doubled_faces_go_and_nonmanifold_edges_with_them():
    mesh = box(10, 10, 10)
    broken = Mesh(mesh.vertices, np.vstack([mesh.faces, mesh.faces[:2]]))
    found = check(broken)
    assert found["doubled-faces"].count == 2
    assert found["nonmanifold-edges"].count == 5
    assert not check(drop_faces(broken, 1e-6)[0])


def test_boxes_that_share_an_edge_are_nonmanifold_but_close():
    two = concatenated(box(1, 1, 1), box(1, 1, 1, at=(1, 1, 0)))
    welded, receipt = run(Weld(), two)
    assert receipt.joined == 2
    finding = check(welded)["nonmanifold-edges"]
    assert (finding.count, finding.severity.value) == (1, "caution")


def test_welding_within_a_distance_joins_loose_corners_and_says_how_far_they_moved():
    mesh = box(10, 10, 10)
    rng = np.random.default_rng(3)
    loose = mesh.vertices[mesh.faces].reshape(-1, 3) + rng.uniform(-0.002, 0.002, (36, 3))
    soup = Mesh(loose, np.arange(36, dtype=np.int32).reshape(-1, 3))
    welded, receipt = run(Weld(distance=0.01), soup)
    assert len(welded.vertices) == 8
    assert is_watertight(edges_of(welded))
    assert receipt.greatest_movement == 0.01


def test_every_remedy_does_what_it_says():
    mesh = ball(10)
    for broken in (without(mesh, [5]), turned(mesh, [1, 2]), Mesh(mesh.vertices, mesh.faces[:, ::-1]),
                   Mesh(mesh.vertices, np.vstack([mesh.faces, mesh.faces[:1]]))):  # fmt: skip
        for finding in check(broken).values():
            for remedy in finding.remedies:
                assert isinstance(remedy.change, AddSteps)
                after = broken
                for step in remedy.change.steps:
                    after, _ = run(step, after)
                assert finding.code not in check(after)


def test_a_soup_of_random_triangles_is_survived():
    rng = np.random.default_rng(0)
    soup = Mesh(rng.random((300, 3)) * 20, rng.integers(0, 300, (600, 3)).astype(np.int32))
    assert check(soup)["open-edges"].count > 0
    for step in (DropFaces(), OrientFaces(), CloseHoles(), Weld(distance=0.5)):
        soup, _ = run(step, soup)
    assert not zero_area_faces(drop_faces(soup, 1e-6)[0], 1e-6).any()
