"""Whether figures stand level."""

import numpy as np
import pytest

from tests.kept import build_kept
from tests.shapes import ball, box, concatenated, cylinder
from ulvet.core.bench.edition import Edition
from ulvet.core.bring_in.lean import check_lean, resting_plane_of
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.findings.changes import after_change
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.step import Part

POST = concatenated(box(20, 10, 3), cylinder(2, 20, 24, at=(10, 5, 2)))


def tipped(mesh, degrees, about=0):
    a, b = [(1, 2), (2, 0)][about]
    turn = np.eye(3)
    turn[a, a] = turn[b, b] = np.cos(np.radians(degrees))
    turn[a, b] = -np.sin(np.radians(degrees))
    turn[b, a] = -turn[a, b]
    vertices = mesh.vertices @ turn.T
    return Mesh(vertices - [0, 0, vertices[:, 2].min()], mesh.faces)


@pytest.mark.parametrize("degrees", [0.0, 0.8, 5.0, 15.0])
@pytest.mark.parametrize("about", [0, 1])
@pytest.mark.parametrize("size", [0.01, 1.0, 1000.0])
def test_the_lean_of_a_flat_base_is_measured_whatever_its_size_and_way(degrees, about, size):
    leaning = tipped(POST, degrees, about)
    rest = resting_plane_of(Mesh(leaning.vertices * size, leaning.faces))
    assert rest.degrees == pytest.approx(degrees, abs=0.01)
    progress = check_lean([Part("post", leaning)], 1.0)
    assert [finding.code for finding in progress] == (["leans"] if degrees else [])


def test_nothing_is_told_of_what_has_no_side_to_stand_on():
    dice = np.random.default_rng(5)
    for mesh in (
        ball(10, rounds=4),
        tipped(POST, 40),
        Mesh(np.empty((0, 3)), np.empty((0, 3), np.int32)),
        Mesh(np.zeros((3, 3)), np.array([[0, 1, 2]], np.int32)),
        Mesh(dice.normal(size=(400, 3)), dice.integers(0, 400, (300, 3)).astype(np.int32)),
    ):
        assert check_lean([Part("thing", mesh)], 1.0) == []


def test_three_feet_of_which_one_is_short_lean_and_the_remedy_sets_them_level():
    legs = [cylinder(1.5, 10 - short, 24, at=(x, y, short)) for x, y, short in ((2, 2, 0), (18, 2, 0), (10, 16, 1))]
    stool = concatenated(box(20, 18, 3, at=(0, 0, 9.5)), *legs)
    recipe = Recipe(steps=(BringIn(source=stool.hash, name="stool.stl", unit="mm", up="z"),))
    build = build_kept(recipe, Edition(), {stool.hash: stool})
    (lean,) = [finding for finding in build.findings if finding.code == "leans"]
    assert lean.measured == pytest.approx(np.degrees(np.arctan(1 / 14)), rel=0.15)
    mended, edition = after_change(recipe, Edition(), lean.remedies[0].change)
    again = build_kept(mended, edition, {stool.hash: stool})
    assert not [finding for finding in again.findings if finding.code == "leans"]
