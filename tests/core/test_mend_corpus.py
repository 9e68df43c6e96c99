"""Dirty meshes made by code, one for each kind of trouble and some with all: told by name, and made sound."""

import numpy as np
import pytest

from tests.core.test_mending import counts, judged_sound
from tests.shapes import ball, box, concatenated, cylinder, subdivided
from ulvet.core.first_forms.shapes import form_mesh
from ulvet.core.geometry.crossing import crossing_faces
from ulvet.core.geometry.holes import close_holes
from ulvet.core.geometry.mesh import Mesh, scaled, translated, volume
from ulvet.core.geometry.topology import edges_of, is_watertight
from ulvet.core.mend.mend_mesh import CannotMend, mend_mesh
from ulvet.core.mend.voxel_remesh import voxel_remesh, voxel_remesh_open


def inward(mesh: Mesh) -> Mesh:
    return Mesh(mesh.vertices, mesh.faces[:, ::-1])


def without(mesh: Mesh, middle: tuple[float, float, float], reach: float) -> Mesh:
    away = np.linalg.norm(mesh.vertices[mesh.faces].mean(axis=1) - middle, axis=1)
    return Mesh(mesh.vertices, mesh.faces[away > reach])


def turned(mesh: Mesh, faces: slice) -> Mesh:
    index = mesh.faces.copy()
    index[faces] = index[faces][:, ::-1]
    return Mesh(mesh.vertices, index)


def pushed_through() -> Mesh:
    """A ball whose top is pushed out through its side."""
    itself = ball(6)
    v = np.array(itself.vertices)
    top = v[:, 2] > 4.5
    v[top] += [9.0, 0, -5]
    return Mesh(v, itself.faces)


def with_needle() -> Mesh:
    """A face split at a point on its side, which leaves one without area."""
    whole = subdivided(box(10, 10, 10))
    a, b, c = whole.faces[0]
    middle = whole.vertices[[a, b]].mean(axis=0)
    n = len(whole.vertices)
    faces = np.concatenate([whole.faces[1:], [[a, n, c], [n, b, c], [a, b, n]]]).astype(np.int32)
    return Mesh(np.concatenate([whole.vertices, [middle]]), faces)


def edge_to_edge() -> Mesh:
    """Two boxes that share one edge, as one mesh."""
    both = concatenated(box(5, 5, 5), box(5, 5, 5, at=(5, 5, 0)))
    _, first, at = np.unique(both.vertices, axis=0, return_index=True, return_inverse=True)
    return Mesh(both.vertices[first], at.ravel()[both.faces].astype(np.int32))


def corner_to_corner() -> Mesh:
    both = concatenated(box(5, 5, 5), box(5, 5, 5, at=(5, 5, 5)))
    _, first, at = np.unique(both.vertices, axis=0, return_index=True, return_inverse=True)
    return Mesh(both.vertices[first], at.ravel()[both.faces].astype(np.int32))


def everything() -> Mesh:
    body = turned(without(ball(10, rounds=5), (0, 0, 10), 1.2), slice(0, 90))
    doubled = Mesh(body.vertices, np.concatenate([body.faces, body.faces[200:260]]))
    return concatenated(
        doubled, translated(inward(box(3, 3, 3)), np.array([14.0, 0, 0])), ball(3, at=(-9, 0, 0)), ball(2)
    )


def far_away() -> Mesh:
    """Fine features a kilometre off, as a file of text might hold them."""
    return translated(without(ball(6), (0, 0, 6), 1.0), np.array([1e6, -1e6, 1e6]))


CORPUS = {
    "open-edges": (without(ball(10), (0, 0, 10), 1.5), 4188.0),
    "inconsistent-winding": (turned(ball(10), slice(30, 200)), 4188.0),
    "inverted-shell": (concatenated(ball(10), translated(inward(ball(4)), np.array([20.0, 0, 0]))), 4188.0 + 268.0),
    "doubled-faces": (Mesh(ball(10).vertices, np.concatenate([ball(10).faces, ball(10).faces[:40]])), 4188.0),
    "zero-area-faces": (with_needle(), 1000.0),
    "nonmanifold-edges": (edge_to_edge(), 250.0),
    "nonmanifold-vertices": (corner_to_corner(), 250.0),
    "overlapping-shells": (concatenated(box(10, 10, 10), box(4, 4, 12, at=(3, 3, 2.5))), 1072.0),
    "inner-shells": (concatenated(ball(10), ball(4)), 4188.0),
    "sealed-void": (concatenated(turned(ball(10), slice(0, 50)), inward(ball(4))), 4188.0 - 268.0),
    "specks": (concatenated(turned(ball(10), slice(30, 60)), translated(ball(0.05), np.array([13.0, 0, 0]))), 4188.0),
    "crossing-faces": (pushed_through(), None),
    "everything": (everything(), None),
    "far away": (far_away(), 904.0),
    "as small as a seed": (scaled(everything(), 1e-3), None),
}


@pytest.mark.parametrize("name", CORPUS)
def test_every_kind_of_dirt_is_told_and_mended(name) -> None:
    mesh, wanted = CORPUS[name]
    found = counts(mesh)
    if name in ("everything", "as small as a seed"):
        assert set(found) >= {"open-edges", "inconsistent-winding", "inverted-shell", "doubled-faces", "inner-shells"}
        assert found["inner-shells"] == 1  # the ball; doubled faces by themselves are no bodies
    elif name == "far away":
        assert set(found) == {"open-edges"}
    else:
        assert name in found
    done = mend_mesh(mesh)
    assert set(counts(done.mesh)) <= {"sealed-void", "specks"}
    judged_sound(done.mesh)
    if wanted is not None:
        assert volume(done.mesh) == pytest.approx(wanted, rel=0.01)
    assert mend_mesh(done.mesh).mesh.hash == done.mesh.hash


def test_dust_of_many_crossing_shells_comes_to_an_end() -> None:
    crumb = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]], float)
    faces = np.array([[0, 2, 1], [0, 1, 3], [0, 3, 2], [1, 2, 3]])
    count = 30_000
    at = np.random.default_rng(0).uniform(0, 60, (count, 1, 3))
    index = (faces[None] + 4 * np.arange(count)[:, None, None]).reshape(-1, 3)
    dust = Mesh((crumb * 0.5 + at).reshape(-1, 3), index.astype(np.int32))
    for method, says in (("exact", "shells are too many to unite"), ("local", "too many|too much")):
        with pytest.raises(CannotMend, match=says):
            mend_mesh(dust, method)


def test_a_patch_carries_on_the_curvature_round_it_and_keeps_to_edges() -> None:
    whole = ball(10, rounds=5)
    holed = without(whole, (0, 0, 10), 4.2)
    flat, bent = close_holes(holed)[0], close_holes(holed, faired=True)[0]
    assert np.array_equal(bent.vertices[: len(holed.vertices)], holed.vertices) and is_watertight(edges_of(bent))
    short, off = (volume(whole) - volume(mesh) for mesh in (flat, bent))
    assert abs(off) < short / 8
    new = bent.vertices[len(holed.vertices) :]
    assert np.linalg.norm(new, axis=1) == pytest.approx(10, rel=0.01)
    drum = cylinder(4, 9, 48)
    uncapped = Mesh(drum.vertices, drum.faces[drum.vertices[drum.faces][:, :, 2].min(axis=1) < 9])
    assert volume(close_holes(uncapped, faired=True)[0]) == pytest.approx(volume(drum))


@pytest.mark.parametrize(("half", "gained"), [(80, 4), (100, 4), (125, 2)])
def test_a_patch_over_a_rim_that_is_not_open_to_one_side_carries_on_the_curvature_too(half, gained) -> None:
    whole = form_mesh("torus", 30, 30, 8)
    middles = whole.vertices[whole.faces].mean(axis=1)
    round_tube = np.degrees(np.arctan2(np.hypot(middles[:, 0], middles[:, 1]) - 11, middles[:, 2] - 4))
    round_ring = np.degrees(np.arctan2(middles[:, 1], middles[:, 0]))
    holed = Mesh(whole.vertices, whole.faces[(np.abs(round_tube) > half) | (np.abs(round_ring) > 16)])
    flat, bent = close_holes(holed)[0], close_holes(holed, faired=True)[0]
    short, off = (volume(whole) - volume(mesh) for mesh in (flat, bent))
    assert 0 < off < short / gained
    assert is_watertight(edges_of(bent)) and not len(crossing_faces(bent).pairs)
    new = bent.vertices[len(holed.vertices) :]
    away = np.hypot(np.hypot(new[:, 0], new[:, 1]) - 11, new[:, 2] - 4)
    assert np.abs(away - 4).max() < 1.5
    assert np.array_equal(bent.vertices[: len(holed.vertices)], holed.vertices)


def test_an_open_mesh_is_remade_over_its_rims() -> None:
    whole = ball(6)
    torn = without(without(whole, (0, 0, 6), 1.5), (6, 0, 0), 1.0)
    made = voxel_remesh_open(torn, 0.1)
    assert is_watertight(edges_of(made))
    assert volume(made) == pytest.approx(volume(voxel_remesh(whole, 0.1)), rel=0.01)
    thin = box(20, 0.3, 20)
    assert volume(voxel_remesh_open(Mesh(thin.vertices, thin.faces[1:]), 0.1)) > 0.5 * volume(thin)
