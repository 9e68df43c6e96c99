"""Recipes of several parts, and the order, switching and setting of steps."""

import pytest
from pydantic import ValidationError

from tests.core.test_recipe import Remembering
from tests.kept import build_kept
from tests.shapes import ball, box, cylinder, subdivided
from ulvet.core.bench.edition import Edition
from ulvet.core.build.figure_build import whole_size
from ulvet.core.files.inspection import bring_in_step
from ulvet.core.findings.finding import AddSteps
from ulvet.core.formats.glb import glb_bytes
from ulvet.core.formats.read import read_file
from ulvet.core.formats.reading import MOST_PIECES, named_pieces
from ulvet.core.formats.threemf import threemf_bytes
from ulvet.core.gauge.steps import Thicken
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.mend.steps import CloseHoles, DropFaces, OrientFaces, Weld
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.changes import (
    IllegalOrder,
    with_fields,
    with_step_moved,
    with_step_set,
    with_step_switched,
    with_steps_added,
)
from ulvet.core.recipe.runner import Recipe, run_recipe
from ulvet.core.release.checked_figure import CheckedFigure
from ulvet.core.release.package import release_files
from ulvet.core.stand.steps import Orient, Support

HERON, OTTER = subdivided(box(8, 6, 20)), box(5, 5, 6, at=(20, 0, 0))
THICKEN = Thicken(wall=PrintMM(0.8), places=(Anchor(point=(FigureMM(0), FigureMM(0), FigureMM(5))),), reach=FigureMM(4))


@pytest.fixture
def two(tmp_path):
    path = tmp_path / "pair.3mf"
    path.write_bytes(threemf_bytes([("heron", HERON), ("otter", OTTER)]))
    read = read_file(path)
    return Recipe(steps=(bring_in_step(read, path.name),)), read.meshes


def names(recipe):
    return [step.kind for step in recipe.steps]


# Parts


def test_parts_keep_their_names_and_how_they_lie_to_each_other(two):
    recipe, sources = two
    run = run_recipe(recipe, sources, Edition())
    assert [part.name for part in run.parts] == ["heron", "otter"]
    heron, otter = (part.mesh.vertices for part in run.parts)
    assert otter[:, 0].min() - heron[:, 0].min() == pytest.approx(20)
    build = build_kept(recipe, Edition(height=PrintMM(40)), sources)
    assert whole_size(build.facts) == pytest.approx((50, 12, 40))
    assert build.facts[1].size_mm[2] == pytest.approx(12)  # parts are scaled as one


def test_a_step_on_one_part_runs_for_that_part_alone(two):
    recipe, sources = two
    memory = Remembering()
    run_recipe(with_steps_added(recipe, (DropFaces(),)), sources, Edition(), memory)
    kept = len(memory.kept)
    after = with_steps_added(recipe, (DropFaces(), OrientFaces(scope="otter")))
    run_recipe(after, sources, Edition(), memory)
    assert len(memory.kept) == kept + 1


def test_a_change_of_one_part_leaves_the_other_remembered(two):
    recipe, sources = two
    memory = Remembering()
    steps = (Weld(scope="heron", distance=FigureMM(0.01)), DropFaces())
    run_recipe(with_steps_added(recipe, steps), sources, Edition(), memory)
    kept = len(memory.kept)
    other = with_steps_added(recipe, (Weld(scope="heron", distance=FigureMM(4.5)), DropFaces()))
    run_recipe(other, sources, Edition(), memory)
    assert len(memory.kept) == kept + 2  # the weld and the drop of the heron; the otter's drop is known


def test_remedies_of_one_part_touch_no_other(tmp_path):
    thin = cylinder(0.2, 15, 24, at=(30, 0, 0))
    path = tmp_path / "thin.3mf"
    path.write_bytes(threemf_bytes([("block", HERON), ("pole", thin)]))
    read = read_file(path)
    build = build_kept(Recipe(steps=(bring_in_step(read, path.name),)), Edition(), read.meshes)
    steps = [
        (finding.part, step.scope)
        for finding in build.findings
        for remedy in finding.remedies
        if isinstance(remedy.change, AddSteps)
        for step in remedy.change.steps
    ]
    assert steps and all(part == scope for part, scope in steps)


def test_a_release_of_two_parts_names_both_and_holds_each_as_it_is_held(two):
    recipe, sources = two
    build = build_kept(with_steps_added(recipe, (Support(scope="otter", lift=PrintMM(5)),)), Edition(), sources)
    files = [file.name for file in release_files(CheckedFigure.of("Pair", build))]
    assert {"pair_20.0mm_heron.stl", "pair_20.0mm_otter.stl", "pair_20.0mm_otter_supported.stl"} <= set(files)
    assert "pair_20.0mm_heron_supported.stl" not in files


def test_bits_of_a_scene_that_reach_into_each_other_are_one_figure(tmp_path):
    path = tmp_path / "scene.glb"
    bits = [("body", box(8, 8, 8)), ("head", ball(3, at=(4, 4, 9))), ("otter", OTTER)]
    path.write_bytes(glb_bytes(bits))
    assert [piece.name for piece in read_file(path).pieces] == ["body", "otter"]


def test_names_of_pieces_are_made_fit_to_be_read():
    found = [("a\n\x00b", HERON), ("A b", OTTER), ("", HERON), ("x" * 500, OTTER)]
    assert [piece.name for piece in named_pieces(found)] == ["a b", "A b 2", "part 3", "x" * 60]
    assert named_pieces([("one", HERON)]) == ()
    assert named_pieces([("many", OTTER)] * (MOST_PIECES + 1)) == ()


# Order


@pytest.fixture
def stood(two):
    return with_steps_added(two[0], (CloseHoles(), Support(), Orient()))


def test_what_shapes_comes_before_what_stands_whenever_it_is_added(stood):
    assert names(stood) == ["bring-in", "close-holes", "orient", "support"]
    assert names(with_steps_added(stood, (THICKEN,))) == ["bring-in", "close-holes", "thicken", "orient", "support"]


def test_standing_again_replaces_how_it_stood(stood):
    again = with_steps_added(stood, (Orient(up=(0, 0, -1)),))
    assert names(again) == names(stood)
    assert again.steps[2].up == (0, 0, -1)
    assert len(with_steps_added(stood, (Orient(scope="otter"),)).steps) == len(stood.steps) + 1


def test_steps_change_places_only_where_that_can_be_run(stood):
    two_shapes = with_steps_added(stood, (THICKEN,))
    assert names(with_step_moved(two_shapes, 5, 2))[1:3] == ["thicken", "close-holes"]
    source, holes, held, turned, thicker = 1, 2, 3, 4, 5
    for step, before in (
        (source, thicker), (holes, source), (thicker, None), (held, turned), (held, source), (holes, 9), (9, holes),
    ):  # fmt: skip
        with pytest.raises(IllegalOrder):
            with_step_moved(two_shapes, step, before)


def test_a_step_switched_off_does_nothing_and_keeps_its_place(two):
    recipe, sources = two
    shaped = with_steps_added(recipe, (Weld(distance=FigureMM(4.5)),))
    off = with_step_switched(shaped, 2, False)
    run = run_recipe(off, sources, Edition())
    assert [p.mesh.hash for p in run.parts] == [p.mesh.hash for p in run_recipe(recipe, sources, Edition()).parts]
    assert run.receipts[1].not_done == "switched off"
    assert off.steps[1].said(run.receipts[1]) == ("Weld: switched off.",)
    assert with_step_switched(off, 2, True) == shaped
    with pytest.raises(IllegalOrder):
        with_step_switched(shaped, 1, False)


def test_fields_are_set_on_the_last_of_a_kind_or_on_a_new_one(two, stood):
    assert with_step_set(two[0], "support", {"spacing": 2.0}).steps[-1].spacing == 2
    closer = with_step_set(stood, "support", {"spacing": 2.0})
    assert names(closer) == names(stood)
    assert closer.steps[-1] == with_fields(stood, 3, {"spacing": 2.0}).steps[-1]
    with pytest.raises(ValidationError):
        with_step_set(stood, "support", {"spacing": -2.0})


def test_numbers_that_can_be_edited_are_those_that_are_numbers():
    assert Support.numbers() == {"lift", "spacing"}
    assert Thicken.numbers() == {"wall", "fade", "reach"}
