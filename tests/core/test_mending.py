"""Meshes made sound: random damage, each kind of trouble, and what cannot be mended; judged by others as well."""

import manifold3d
import numpy as np
import pytest
import trimesh

from tests.core.test_crossing import truly_cross
from tests.shapes import ball, box, cylinder, subdivided, tube
from ulvet.core.geometry.crossing import crossing_faces
from ulvet.core.geometry.deviation import distance_to
from ulvet.core.geometry.mesh import Mesh, concatenated, translated, volume
from ulvet.core.geometry.solids import shells_of
from ulvet.core.geometry.welding import weld_within
from ulvet.core.mend.diagnosis import diagnose
from ulvet.core.mend.mend_mesh import CannotMend, mend_mesh
from ulvet.core.mend.voxel_remesh import voxel_remesh, voxel_remesh_open


def counts(mesh):
    return {code: count for code, count in diagnose(mesh, 1e-6).counts.items() if count}


def judged_sound(mesh):
    """By two libraries, and by pairs of near faces settled in fractions."""
    theirs = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)
    assert theirs.is_watertight and theirs.is_winding_consistent and theirs.volume > 0
    body = manifold3d.Manifold(manifold3d.Mesh64(np.array(mesh.vertices), mesh.faces.astype(np.uint64)))
    assert body.status() == manifold3d.Error.NoError
    assert body.volume() == pytest.approx(volume(mesh), rel=1e-9)
    corners = mesh.vertices[mesh.faces]
    rng = np.random.default_rng(0)
    for face in rng.choice(len(corners), 12):
        near = np.abs(corners - corners[face].mean(axis=0)).max(axis=2).min(axis=1).argsort()[1:25]
        assert not any(truly_cross(np.concatenate([corners[face], corners[other]])) for other in near)


def damaged(mesh, rng, kinds):
    v, f = np.array(mesh.vertices), np.array(mesh.faces)
    middles = v[f].mean(axis=1)
    sides = np.linalg.norm(v[f[:, 0]] - v[f[:, 1]], axis=1)
    if "dropped" in kinds:
        away = np.linalg.norm(middles - middles[rng.integers(len(f))], axis=1)
        f = f[away > np.sort(away)[len(f) // 60]]
    if "flipped" in kinds:
        turned = rng.random(len(f)) < 0.1
        f[turned] = f[turned][:, ::-1]
    if "doubled" in kinds:
        again = rng.random(len(f)) < 0.05
        f = np.concatenate([f, f[again], f[again][:9, ::-1]])
    if "jittered" in kinds:
        v = v + rng.normal(size=v.shape) * 0.04 * np.median(sides)
    made = Mesh(v, f)
    if "body inside" in kinds:
        made = concatenated(made, translated(ball(1.2, rounds=2), middles.mean(axis=0)))
    return made


KINDS = ("dropped", "flipped", "doubled", "jittered", "body inside")
SHAPES = {"ball": ball(6), "drum": cylinder(4, 9, 48, at=(0, 0, -4)), "ring": tube(7, 4, 5)}


@pytest.mark.parametrize("shape", SHAPES)
@pytest.mark.parametrize("seed", range(6))
def test_damaged_solids_become_what_they_were(shape, seed) -> None:
    rng = np.random.default_rng([seed, len(shape)])
    kinds = KINDS if seed == 0 else [kind for kind in KINDS if rng.random() < 0.5]
    if shape != "ball":
        kinds = [kind for kind in kinds if kind not in ("jittered", "dropped")]  # few faces: the patch would be large
    if shape == "ring":
        kinds = [kind for kind in kinds if kind != "body inside"]  # its middle is air
    before = SHAPES[shape]
    done = mend_mesh(damaged(before, rng, kinds))
    judged_sound(done.mesh)
    assert volume(done.mesh) == pytest.approx(volume(before), rel=0.01)
    again = mend_mesh(done.mesh)
    assert again.mesh.hash == done.mesh.hash and not again.holes_closed


@pytest.mark.parametrize("crosses", [False, True])
def test_what_lies_in_a_cavity_stays_when_other_shells_are_made_one(crosses) -> None:
    """Exactly, and where another shell that crosses itself has a part of it remade by volume."""
    hollow = Mesh(ball(4).vertices, ball(4).faces[:, ::-1])
    arm = cylinder(3, 12, 48, at=(0, 0, 6))
    one = concatenated(ball(10), arm)
    mesh = concatenated(one, hollow, ball(2))
    if crosses:
        mesh = concatenated(mesh, translated(crossing_itself(), [0, 40, 0]))
    done = mend_mesh(mesh)
    assert done.method == ("local" if crosses else "exact")
    judged_sound(done.mesh)
    volumes = sorted(volume(shell) for shell in shells_of(done.mesh))
    assert volumes[0] == pytest.approx(-volume(ball(4)), rel=1e-5)
    assert volumes[1] == pytest.approx(volume(ball(2)), rel=1e-5)
    assert volumes[-1] == pytest.approx(volume(mend_mesh(one).mesh), rel=1e-3) and len(volumes) == 3 + crosses


def test_untouched_surface_keeps_its_coordinates_and_the_receipt_says_what_was_invented() -> None:
    whole = ball(6)
    away = np.linalg.norm(whole.vertices[whole.faces].mean(axis=1) - [0, 0, 6], axis=1)
    exact = Mesh(whole.vertices.astype(np.float32).astype(float), whole.faces[away > 1.0])
    done = mend_mesh(exact)
    assert (done.method, done.holes_closed, done.max_move) == ("exact", 1, 0.0)
    kept = {tuple(row) for row in exact.vertices[exact.faces].reshape(-1, 9)}
    assert kept <= {tuple(row) for row in done.mesh.vertices[done.mesh.faces].reshape(-1, 9)}
    assert 2.5 < done.area_added < 4.5  # a disc of 1 mm


def test_each_trouble_is_counted_as_itself() -> None:
    touching = weld_within(concatenated(box(2, 2, 2), box(2, 2, 2, at=(2, 2, 0))), 0.0)[0]
    assert counts(touching) == {"nonmanifold-edges": 1}
    by_a_point = weld_within(concatenated(box(2, 2, 2), box(2, 2, 2, at=(2, 2, 2))), 0.0)[0]
    assert counts(by_a_point) == {"nonmanifold-vertices": 1}
    assert counts(concatenated(ball(5), ball(2))) == {"inner-shells": 1}
    hollow = Mesh(ball(2).vertices, ball(2).faces[:, ::-1])
    assert counts(concatenated(ball(5), hollow)) == {"sealed-void": 1}
    crossed = counts(concatenated(ball(5), ball(5, at=(6, 0, 0))))
    assert crossed.keys() == {"crossing-faces", "overlapping-shells"} and crossed["overlapping-shells"] == 2


@pytest.mark.parametrize("outer_looks_inward", [False, True])
def test_a_cavity_stays_one_while_what_holds_it_has_a_hole(outer_looks_inward) -> None:
    """Through a hole rays tell nothing, and a cavity taken for a shell inside out would be filled without a word."""
    outer = ball(10)
    outer = Mesh(outer.vertices, outer.faces[4:, :: -1 if outer_looks_inward else 1])
    hollow = Mesh(ball(3).vertices, ball(3).faces[:, ::-1])
    torn = concatenated(outer, hollow)
    assert diagnose(torn, 1e-6).counts["inverted-shell"] == outer_looks_inward
    done = mend_mesh(torn)
    judged_sound(done.mesh)
    assert volume(done.mesh) == pytest.approx(volume(ball(10)) - volume(ball(3)), rel=0.002)


def test_bodies_that_touch_are_parted_and_those_that_cross_united() -> None:
    for at in ((2, 2, 0), (-2, 0, 2), (2, 2, 2)):
        done = mend_mesh(weld_within(concatenated(box(2, 2, 2), box(2, 2, 2, at=at)), 0.0)[0])
        assert done.after.shells.count == 2 and volume(done.mesh) == pytest.approx(16)
    done = mend_mesh(concatenated(box(4, 4, 4), box(4, 4, 4, at=(1, 2, 1))))
    assert (done.method, done.after.shells.count) == ("exact", 1)
    assert volume(done.mesh) == pytest.approx(128 - 3 * 2 * 3)
    hollow = Mesh(ball(2).vertices, ball(2).faces[:, ::-1])
    assert volume(mend_mesh(concatenated(ball(5), hollow)).mesh) == pytest.approx(
        volume(ball(5)) - volume(ball(2)), rel=1e-6
    )


def crossing_itself():
    """A closed tube bent into an eight, which goes through itself."""
    turn = np.linspace(0.4, 0.4 + 1.9 * np.pi, 90)
    path = np.stack([10 * np.sin(turn), 8 * np.sin(2 * turn), 0.3 * np.cos(turn)], axis=1)
    along = np.gradient(path, axis=0)
    along /= np.linalg.norm(along, axis=1)[:, None]
    side = np.cross(along, [0, 0, 1])
    side /= np.linalg.norm(side, axis=1)[:, None]
    up = np.cross(side, along)
    round_it = np.linspace(0, 2 * np.pi, 20, endpoint=False)
    rings = path[:, None] + 1.5 * (
        np.cos(round_it)[None, :, None] * side[:, None] + np.sin(round_it)[None, :, None] * up[:, None]
    )
    i, k = np.meshgrid(np.arange(89), np.arange(20), indexing="ij")
    a, b, c, d = (20 * (i + x) + (k + y) % 20 for x, y in ((0, 0), (0, 1), (1, 0), (1, 1)))
    n = 90 * 20
    caps = [(n, (j + 1) % 20, j) for j in range(20)] + [(n + 1, n - 20 + j, n - 20 + (j + 1) % 20) for j in range(20)]
    faces = np.concatenate([np.stack([a, b, d], -1).reshape(-1, 3), np.stack([a, d, c], -1).reshape(-1, 3), caps])
    mesh = Mesh(np.concatenate([rings.reshape(-1, 3), path[:1], path[-1:]]), faces.astype(np.int32))
    return mesh if volume(mesh) > 0 else Mesh(mesh.vertices, mesh.faces[:, ::-1])


@pytest.mark.deep
def test_shell_that_crosses_itself_is_remade_there_and_nowhere_else() -> None:
    plate = box(20, 20, 3, at=(-10, -10, -30))
    for _ in range(3):
        plate = subdivided(plate)
    mesh = concatenated(crossing_itself(), plate)
    done = mend_mesh(mesh, pitch=0.1)
    assert [one.method for one in done.methods] == ["exact", "local"] and done.pitch == 0.1
    judged_sound(done.mesh)
    whole = mend_mesh(mesh, "volume", pitch=0.1)
    judged_sound(whole.mesh)
    assert volume(done.mesh) == pytest.approx(volume(whole.mesh), rel=0.005)
    assert volume(mesh) - volume(done.mesh) > 10  # what lay in it twice
    crossed = mesh.vertices[mesh.faces[crossing_faces(mesh).faces]].mean(axis=1)
    far = np.linalg.norm(mesh.vertices[:, None] - crossed, axis=2).min(axis=1) > 2.5
    there = {tuple(point) for point in done.mesh.vertices}
    kept = np.array([tuple(point) in there for point in mesh.vertices.astype(np.float32).astype(float)])
    # But for some at the seam itself nothing goes, not even within a flat plate.
    (regions,) = (one.regions for one in done.methods if one.method == "local")
    apart = ((mesh.vertices[:, None] < regions[:, 0] - 0.1) | (mesh.vertices[:, None] > regions[:, 1] + 0.1)).any(
        axis=2
    )
    assert kept[apart.all(axis=1)].all() and kept[far].mean() > 0.98 and far.sum() > 1200
    assert done.max_move < 0.1


def test_a_method_that_takes_too_long_gives_way_to_the_next_and_the_receipt_says_so(monkeypatch):
    monkeypatch.setattr("ulvet.core.mend.mend_mesh._SECONDS", {"exact": 0.0, "local": 0.0, "volume": 240.0})
    done = mend_mesh(concatenated(crossing_itself(), ball(3, rounds=3)), pitch=0.3)
    assert [(one.method, one.came_of_it) for one in done.methods] == [
        ("exact", "it had not ended after 0 s"),
        ("local", "it had not ended after 0 s"),
        ("volume", "sound"),
    ]
    judged_sound(done.mesh)
    monkeypatch.setattr("ulvet.core.mend.mend_mesh._SECONDS", dict.fromkeys(("exact", "local", "volume"), 0.0))
    with pytest.raises(CannotMend, match=r"volume: it had not ended after 0 s.*nothing was changed"):
        mend_mesh(concatenated(crossing_itself(), ball(3, rounds=3)), pitch=0.3)


@pytest.mark.parametrize("drawn", [voxel_remesh, voxel_remesh_open])
def test_a_remake_looks_at_the_clock_while_it_is_at_work(drawn):
    looks = []

    def look():
        looks.append(0)
        if len(looks) > 1:
            raise CannotMend("late")

    with pytest.raises(CannotMend, match="late"):
        drawn(ball(6, rounds=7), 0.1, look)
    assert len(drawn(ball(6, rounds=3), 0.5).faces)


def test_remake_keeps_the_volume_and_says_what_it_costs() -> None:
    for mesh in (ball(6), concatenated(box(8, 8, 8), box(8, 8, 8, at=(3, 3, 3)))):
        done = mend_mesh(mesh, "volume", pitch=0.15)
        judged_sound(done.mesh)
        exact = mend_mesh(mesh, "exact").mesh
        assert volume(done.mesh) == pytest.approx(volume(exact), rel=0.01)
        assert done.mean_move <= done.max_move < 0.15
    with pytest.raises(CannotMend, match="coarser pitch"):
        mend_mesh(ball(6), "volume", pitch=0.001)


def test_what_has_no_inside_is_refused_with_a_reason() -> None:
    corners = np.array([[0, 0, 0], [4, 0, 0], [4, 4, 0], [0, 4, 0]], float)
    sheet = Mesh(corners, np.array([[0, 1, 2], [0, 2, 3]], np.int32))
    strip = []
    for turn in np.linspace(0, 2 * np.pi, 40, endpoint=False):
        for side in (-1, 0, 1):
            reach = 5 + side * np.cos(turn / 2)
            strip.append([reach * np.cos(turn), reach * np.sin(turn), side * np.sin(turn / 2)])
    at = [[(i % 40) * 3 + (j if i < 40 else 2 - j) for j in range(3)] for i in range(41)]
    quads = [(at[i][j], at[i + 1][j], at[i + 1][j + 1], at[i][j + 1]) for i in range(40) for j in range(2)]
    one_sided = Mesh(np.array(strip), np.array([t for a, b, c, d in quads for t in ((a, b, c), (a, c, d))], np.int32))
    for mesh in (sheet, one_sided, Mesh(corners, np.empty((0, 3), np.int32))):
        with pytest.raises(CannotMend, match="nothing was changed"):
            mend_mesh(mesh)


def test_scraps_in_a_torn_hole_are_no_bodies() -> None:
    whole = ball(6, rounds=5)
    middles = whole.vertices[whole.faces].mean(axis=1)
    away = np.linalg.norm(middles - [0, 0, 6], axis=1)
    torn = Mesh(whole.vertices, whole.faces[(away > 1.2) | (away < 0.3)])
    done = mend_mesh(torn)
    assert (done.method, done.holes_closed, done.after.shells.count) == ("exact", 1, 1)
    assert volume(done.mesh) == pytest.approx(volume(whole), rel=0.01)


def askew(mesh):
    turn = np.linalg.qr(np.array([[3, 1, 2], [-1, 4, 1], [2, 1, -5.0]]))[0]
    return Mesh(mesh.vertices @ (turn * np.sign(np.linalg.det(turn))).T, mesh.faces)


def star():
    """A star of five rays, 4 tall: sharp bays, and tips far narrower than a right angle."""
    angles = np.arange(10) * np.pi / 5
    rim = np.where(np.arange(10) % 2, 10, 4)[:, None] * np.stack([np.cos(angles), np.sin(angles)], axis=1)
    outline = manifold3d.CrossSection([rim])
    made = manifold3d.Manifold.extrude(outline, 4).to_mesh64()
    return Mesh(np.array(made.vert_properties[:, :3]), np.array(made.tri_verts, np.int32))


@pytest.mark.parametrize("open_side", [False, True])
def test_remake_by_volume_keeps_the_edges_of_what_it_is_made_after(open_side) -> None:
    whole = askew(box(10, 8, 6))
    made = mend_mesh(Mesh(whole.vertices, whole.faces[1:]) if open_side else whole, "volume", pitch=0.3).mesh
    assert distance_to(made, whole.vertices).max() < 1e-4
    assert volume(made) == pytest.approx(480, rel=1e-5)


def test_tips_too_narrow_for_the_grid_are_left_blunt_and_cross_nothing() -> None:
    whole = askew(star())
    made = mend_mesh(whole, "volume", pitch=0.3)
    assert made.after.sound
    assert volume(made.mesh) == pytest.approx(volume(whole), rel=3e-3)
    off = np.sort(distance_to(made.mesh, whole.vertices))
    assert off[:10].max() < 0.1 and 0.1 < off[-1] < 0.5  # of twenty corners the bays are sharp
