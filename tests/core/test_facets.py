"""Facets of curved surface: found where they show, refined there, and nowhere else."""

import numpy as np
import pytest

from tests.shapes import ball, box, cylinder
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.edition import Edition
from ulvet.core.bring_in.check import check_facets
from ulvet.core.bring_in.facets import bulge_of, refine_facets
from ulvet.core.bring_in.steps import BringIn, Refine, Simplify
from ulvet.core.findings.changes import after_change
from ulvet.core.first_forms.shapes import form_mesh
from ulvet.core.geometry.mesh import Mesh, volume
from ulvet.core.geometry.splitting import split_edges
from ulvet.core.geometry.topology import edges_of, is_watertight
from ulvet.core.join.joining import join_meshes
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.runner import Recipe, run_recipe
from ulvet.core.recipe.step import Part


@pytest.mark.parametrize("sides", [16, 24, 48])
def test_a_facet_is_as_deep_as_the_chord_it_cuts(sides):
    deep = 15 * (1 - np.cos(np.pi / sides))
    assert bulge_of(cylinder(15, 30, sides)).errors.max() == pytest.approx(deep, rel=0.05)


def test_what_is_flat_or_folded_has_no_facets():
    assert bulge_of(box(10, 20, 30)).errors.max() == 0
    refined, left, not_done = refine_facets(box(10, 20, 30), 0.001)
    assert (len(refined.faces), left, not_done) == (12, 0, "")


def test_a_straight_fold_of_long_and_short_edges_is_no_facet():
    mesh = box(10, 20, 30)
    for share in (0.1, 0.15, 0.5):
        edges = edges_of(mesh)
        a, b = mesh.vertices[edges.ends[:, 0]], mesh.vertices[edges.ends[:, 1]]
        upright = np.abs(b - a)[:, 2] > 0.999 * np.linalg.norm(b - a, axis=1)
        mesh = split_edges(mesh, edges, upright, (a + share * (b - a))[upright])
    assert len(mesh.faces) > 50
    assert bulge_of(mesh).errors.max() < 1e-9


def test_facets_of_uneven_sides_are_as_deep_as_their_own_chords():
    even = cylinder(15, 30, 48)
    turn = np.arctan2(even.vertices[:, 1], even.vertices[:, 0])
    wide = np.hypot(even.vertices[:, 0], even.vertices[:, 1])
    turn = turn + 0.5 * np.sin(turn)
    uneven = Mesh(np.column_stack([wide * np.cos(turn), wide * np.sin(turn), even.vertices[:, 2]]), even.faces)
    at = np.linspace(0, 2 * np.pi, 49) + 0.5 * np.sin(np.linspace(0, 2 * np.pi, 49))
    deep = 15 * (1 - np.cos(np.diff(at).max() / 2))
    assert bulge_of(uneven).errors.max() == pytest.approx(deep, rel=0.1)


def test_a_refined_ball_is_rounder_and_its_corners_stay():
    mesh = ball(20, rounds=3)
    refined, left, not_done = refine_facets(mesh, 0.02)
    assert left <= 0.02 and not not_done
    assert is_watertight(edges_of(refined))
    assert np.array_equal(refined.vertices[: len(mesh.vertices)], mesh.vertices)
    assert np.abs(np.linalg.norm(refined.vertices, axis=1) - 20).max() < 0.1
    perfect = 4 / 3 * np.pi * 20**3
    assert abs(volume(refined) / perfect - 1) < 0.1 * abs(volume(mesh) / perfect - 1)


def test_a_refined_cylinder_keeps_its_sharp_rim_and_becomes_round():
    refined, _, _ = refine_facets(cylinder(15, 30, 20), 0.02)
    points = refined.vertices
    assert is_watertight(edges_of(refined))
    radius = np.hypot(points[:, 0], points[:, 1])
    assert radius[radius > 1].min() > 15 * np.cos(np.pi / 20) + 0.9 * 15 * (1 - np.cos(np.pi / 20))
    assert np.ptp(points[:, 2]) == pytest.approx(30)
    assert volume(refined) == pytest.approx(np.pi * 15**2 * 30, rel=3e-3)


def test_coarse_facets_depend_on_the_size_and_the_remedy_settles_them():
    mesh = ball(10, rounds=3)
    setup = DEFAULT_BENCH.setup(printer_id="lantern-6")
    assert check_facets(Part("figure", mesh), 0.2, setup) == []
    (finding,) = check_facets(Part("figure", mesh), 4.0, setup)
    assert finding.code == "coarse-facets"
    assert finding.measured > finding.limit == 0.05
    recipe = Recipe(steps=(BringIn(source=mesh.hash, name="ball.stl"),))
    edition = Edition(factor=4.0)
    recipe, edition = after_change(recipe, edition, finding.remedies[0].change)
    part = run_recipe(recipe, {mesh.hash: mesh}, edition).parts[0]
    assert check_facets(part, 4.0, setup) == []
    assert check_facets(Part("figure", mesh, captured=mesh), 4.0, setup) == []


def test_thinning_is_to_a_deviation_at_print_size_and_says_what_it_came_to():
    mesh = ball(10, rounds=5)
    first = BringIn(source=mesh.hash, name="ball.stl")
    for factor in (1.0, 3.0):
        recipe = Recipe(steps=(first, Simplify(deviation=PrintMM(0.05))))
        run = run_recipe(recipe, {mesh.hash: mesh}, Edition(factor=factor))
        progress = run.receipts[1]
        assert progress.deviation_mm <= 0.05
        assert progress.after == len(run.parts[0].mesh.faces) < progress.before
        assert "MB as STL" in "".join(str(word) for word in recipe.steps[1].said(progress))
    for wrong in ({}, {"deviation": 0.1, "triangles": 100}, {"deviation": 0}, {"triangles": 2}):
        with pytest.raises(ValueError):
            Simplify(**wrong)
    with pytest.raises(ValueError):
        Refine(chord=0)


def test_a_tip_is_no_facet():
    cone = form_mesh("cone", 3, 3, 9)
    sides = np.unique(np.round(cone.vertices[np.abs(np.hypot(*cone.vertices[:, :2].T) - 1.5) < 1e-9], 9), axis=0)
    chord = 1.5 * (1 - np.cos(np.pi / len(sides)))
    assert bulge_of(cone).errors.max() == pytest.approx(chord, rel=0.3)


def test_a_plane_that_runs_into_a_round_is_none():
    plinth = join_meshes(box(16, 16, 4), ball(4, rounds=4, at=(8, 8, 5)), 1.0).mesh
    assert bulge_of(plinth).errors.max() < 0.02
    refined, _, _ = refine_facets(plinth, 0.005)
    top = refined.vertices[np.hypot(*(refined.vertices[:, :2] - 8).T) > 7]
    assert top[:, 2].max() <= 4 + 1e-9
