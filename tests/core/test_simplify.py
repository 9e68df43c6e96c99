"""Fewer triangles, and how far the surface moved, against distances worked out another way."""

import json

import numpy as np
import pytest
from typer.testing import CliRunner

from tests.shapes import ball, box, concatenated, subdivided
from ulvet.cli import app
from ulvet.core.bring_in.simplify import simplify_to_count, simplify_within
from ulvet.core.formats.glb import glb_bytes
from ulvet.core.formats.read import read_mesh
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.geometry.deviation import deviation_between, distance_to
from ulvet.core.geometry.mesh import Mesh, bounds, volume
from ulvet.core.geometry.nearest import nearest_on_triangles
from ulvet.core.geometry.topology import edges_of, is_watertight, without_unused_vertices


def far_off(mesh, points):
    corners = mesh.vertices[mesh.faces]
    every = np.broadcast_to(np.arange(len(corners)), (len(points), len(corners)))
    return nearest_on_triangles(points, corners, every)[1].min(axis=1)


def strewn(mesh, count, seed=1):
    """Points all over a surface, as many on large faces as on the small ones beside them."""
    rng = np.random.default_rng(seed)
    corners = mesh.vertices[mesh.faces[rng.integers(len(mesh.faces), size=count)]]
    return np.einsum("nk,nkd->nd", rng.dirichlet([1, 1, 1], size=count), corners)


def test_distances_are_those_to_the_nearest_of_all_triangles():
    rng = np.random.default_rng(3)
    soup = Mesh(rng.normal(size=(90, 3)), np.arange(90, dtype=np.int32).reshape(-1, 3))
    points = rng.normal(size=(200, 3)) * 2
    assert distance_to(soup, points) == pytest.approx(far_off(soup, points), abs=1e-9)


def test_the_deviation_of_known_surfaces_is_known():
    small, large = ball(10, rounds=5), ball(10.5, rounds=5)
    deviation = deviation_between(small, large)
    assert (deviation.greatest, deviation.mean) == (pytest.approx(0.5, rel=0.01), pytest.approx(0.5, rel=0.01))
    # What is there in one of two only is seen from the side that has it.
    assert deviation_between(ball(5), concatenated(ball(5), ball(1, at=(9, 0, 0)))).greatest == pytest.approx(
        5, abs=0.1
    )
    with pytest.raises(ValueError, match="lies nowhere"):
        deviation_between(ball(5), Mesh(np.zeros((0, 3)), np.zeros((0, 3), np.int32)))


@pytest.mark.parametrize("most", [0.3, 0.05, 0.01])
def test_a_deviation_that_was_asked_for_is_kept_and_most_triangles_go(most):
    figure = concatenated(ball(10, rounds=6), ball(3, at=(30, 0, 0), rounds=5))
    thinned = simplify_within(figure, most)
    assert 0 < thinned.deviation.greatest <= most
    assert far_off(thinned.mesh, strewn(figure, 300)).max() <= most * 1.001
    # Strewn over the larger faces too, which bulge between the places that were measured.
    assert far_off(figure, strewn(thinned.mesh, 60)).max() <= most * 1.3
    assert len(thinned.mesh.faces) < 0.5 * len(figure.faces)
    assert is_watertight(edges_of(thinned.mesh))


def test_the_coarser_the_deviation_the_fewer_the_triangles():
    figure = ball(10, rounds=6)
    counts = [len(simplify_within(figure, most).mesh.faces) for most in (0.4, 0.1, 0.02)]
    assert counts == sorted(counts) and counts[0] < counts[-1] / 5


def middles(mesh):
    corners = mesh.vertices[mesh.faces]
    return np.concatenate([mesh.vertices, ((corners + np.roll(corners, 1, axis=1)) / 2).reshape(-1, 3),
                           corners.mean(axis=1)])  # fmt: skip


def crumpled(rough, seed=2, rounds=5):
    """A ball of which one side is rough."""
    figure = ball(10, rounds=rounds)
    v = np.array(figure.vertices)
    rng = np.random.default_rng(seed)
    side = v[:, 0] > 7
    v[side] += rng.normal(0, rough, (side.sum(), 3))
    return Mesh(v, figure.faces)


def test_one_bad_place_costs_its_own_triangles_and_no_others():
    smooth, rough = (simplify_within(figure, 0.05) for figure in (ball(10, rounds=5), crumpled(0.4)))
    there = crumpled(0.4).vertices[crumpled(0.4).faces].mean(axis=1)[:, 0] > 6
    assert len(rough.mesh.faces) < len(smooth.mesh.faces) + there.sum()
    assert rough.deviation.greatest <= 0.05 and is_watertight(edges_of(rough.mesh))


@pytest.mark.parametrize("seed", range(4))
def test_the_deviation_holds_at_every_vertex_and_middle_both_ways_whatever_the_mesh(seed):
    rng = np.random.default_rng(seed)
    torn = crumpled(rng.uniform(0.02, 0.5), seed, rounds=3)
    kept = rng.random(len(torn.faces)) > 0.01 * seed
    torn = without_unused_vertices(Mesh(torn.vertices * rng.uniform(0.05, 20), torn.faces[kept]))
    size = float(np.ptp(torn.vertices))
    most = size * 10 ** rng.uniform(-4, -2)
    thinned = simplify_within(torn, most)
    for one, other in ((thinned.mesh, torn), (torn, thinned.mesh)):
        assert far_off(one, rng.permutation(middles(other))[:900]).max() <= most * (1 + 1e-9)
    rims = edges_of(torn)
    kept = {tuple(point) for point in thinned.mesh.vertices}
    assert all(tuple(point) in kept for point in torn.vertices[np.unique(rims.ends[rims.open])]), "rims stay"


def test_thinning_leaves_no_corner_where_surfaces_hang_together_and_turns_no_face():
    double = concatenated(subdivided(subdivided(box(4, 4, 4))), subdivided(subdivided(box(4, 4, 4, at=(4, 4, 0)))))
    _, first, at = np.unique(double.vertices, axis=0, return_index=True, return_inverse=True)
    pinched = Mesh(double.vertices[first], at.ravel()[double.faces].astype(np.int32))
    thinned = simplify_within(pinched, 0.01)
    assert volume(thinned.mesh) == pytest.approx(128, rel=1e-6)
    assert len(thinned.mesh.faces) < len(pinched.faces) / 4
    assert not edges_of(thinned.mesh).open.any()


def test_flat_sides_lose_every_triangle_they_do_not_need():
    cube = box(10, 10, 10)
    for _ in range(4):
        cube = subdivided(cube)
    thinned = simplify_to_count(cube, 12)
    assert len(thinned.mesh.faces) == 12 and thinned.deviation.greatest < 1e-5
    assert volume(thinned.mesh) == pytest.approx(1000, rel=1e-5)


def test_what_cannot_be_thinned_stays_as_it_was_and_says_why():
    few = box(1, 2, 3)
    assert simplify_to_count(few, 500).mesh is few
    assert simplify_to_count(few, 500).why == "it has no more triangles than that"
    torn = Mesh(ball(5).vertices, ball(5).faces[::2])
    left = simplify_within(torn, 1e-4)
    assert left.mesh is torn and "mend them first" in left.why and left.deviation.greatest == 0
    for wrong in (0, -1, np.nan, np.inf):
        with pytest.raises(ValueError, match="above 0"):
            simplify_within(few, wrong)
    with pytest.raises(ValueError, match="fewer than 4"):
        simplify_to_count(few, 3)


def run(*words):
    result = CliRunner().invoke(app, ["simplify", *map(str, words), "--json"])
    return result.exit_code, json.loads(result.stdout)


def test_a_file_is_thinned_where_it_lies_and_still_closes(tmp_path):
    source, out = tmp_path / "moon.stl", tmp_path / "light.stl"
    moon = ball(20, at=(300, -40, 7), rounds=6)
    source.write_bytes(stl_bytes(moon))
    code, said = run(source, "-o", out, "--deviation", "0.05")
    light = read_mesh(out)
    assert code == 0
    assert (said["triangles"], said["bytes"]) == (len(light.faces), out.stat().st_size)
    assert said["deviation_max_mm"] <= 0.05 and said["deviation_mean_mm"] < said["deviation_max_mm"]
    assert bounds(light) == pytest.approx(bounds(moon), abs=0.06) and is_watertight(edges_of(light))
    assert run(source, "-o", out, "--triangles", "900")[1]["triangles"] <= 900


def test_a_scene_in_metres_with_y_up_is_thinned_in_millimetres_and_stands_as_before(tmp_path):
    source, out = tmp_path / "post.glb", tmp_path / "post_light.glb"
    source.write_bytes(glb_bytes([("post", ball(12, at=(0, 0, 40), rounds=5))]))
    code, said = run(source, "-o", out, "--deviation", "0.1")
    assert (code, said["unit"]) == (0, "m") and 0.02 < said["deviation_max_mm"] <= 0.1
    assert bounds(read_mesh(out)) == pytest.approx(bounds(read_mesh(source)), abs=2e-4)


@pytest.mark.parametrize(
    ("words", "sentence"),
    [
        (["--deviation", "0"], "above 0 mm"),
        (["--triangles", "2"], "fewer than 4"),
        ([], "either a deviation or"),
        (["--deviation", "1", "--triangles", "9"], "either a deviation or"),
    ],
)
def test_what_cannot_be_asked_is_refused_and_nothing_is_written(tmp_path, words, sentence):
    source, out = tmp_path / "a.stl", tmp_path / "b.stl"
    source.write_bytes(stl_bytes(ball(5)))
    code, said = run(source, "-o", out, *words)
    assert code == 2 and sentence in said["error"] and not out.exists()
