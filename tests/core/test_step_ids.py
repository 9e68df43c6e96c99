"""Steps are known by ids, come in phases, and may leave several parts."""

from dataclasses import replace
from typing import ClassVar

import pytest
from pydantic import ValidationError

from tests.core.test_recipe import Remembering, recipe_for
from tests.shapes import box, concatenated
from ulvet.core.bench.edition import Edition
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.lengths import FigureMM
from ulvet.core.mend.steps import CloseHoles, DropFaces, OrientFaces
from ulvet.core.recipe.changes import (
    with_fields,
    with_step_moved,
    with_step_removed,
    with_step_switched,
    with_steps_added,
)
from ulvet.core.recipe.reading import read_recipe
from ulvet.core.recipe.receipt import Receipt
from ulvet.core.recipe.runner import Recipe, recipe_hash, run_recipe
from ulvet.core.recipe.step import Phase, Step
from ulvet.core.stand.steps import Orient, ShowSide, Support


class CutInTwo(Step):
    """Parts a box at a height, without closing the cut."""

    phase: ClassVar[Phase] = Phase.MAKE
    divides: ClassVar[bool] = True

    height: FigureMM

    def divide(self, part, context):
        above = part.mesh.vertices[part.mesh.faces][:, :, 2].mean(axis=1) > self.height
        pieces = (("lower", ~above), ("upper", above))
        return tuple(
            replace(part, name=self.piece_name(part, name), mesh=Mesh(part.mesh.vertices, part.mesh.faces[which]))
            for name, which in pieces
            if which.any()
        ), Receipt()


def cut(height):
    return CutInTwo(kind="cut-in-two", height=FigureMM(height))


MESH = box(10, 10, 30)
PLAIN = recipe_for(MESH, DropFaces(), OrientFaces())


def ids(recipe):
    return {step.kind: step.id for step in recipe.steps}


def test_an_id_stays_with_its_step_and_is_given_once():
    assert ids(PLAIN) == {"bring-in": 1, "drop-faces": 2, "orient-faces": 3}
    without = with_step_removed(PLAIN, 3)
    # Another step never passes for one that was taken out, though it is the same in every field.
    again = with_steps_added(without, (OrientFaces(id=2),))
    assert ids(again) == {"bring-in": 1, "drop-faces": 2, "orient-faces": 4}
    moved = with_step_moved(again, 4, before=2)
    assert [step.id for step in moved.steps] == [1, 4, 2]
    off = with_step_switched(with_fields(moved, 2, {"scope": "otter"}), 4, on=False)
    assert [(step.id, step.on, step.scope) for step in off.steps] == [
        (1, True, None),
        (4, False, None),
        (2, True, "otter"),
    ]
    assert read_recipe(off.model_dump(mode="json")) == off


def test_a_step_that_takes_the_place_of_another_takes_its_id():
    stood = with_steps_added(PLAIN, (Orient(up=(0, 0, 1)), Support()))
    again = with_steps_added(stood, (Orient(up=(0, 1, 0)),))
    assert ids(again) == ids(stood) and again.steps[3].up == (0, 1, 0)


def test_two_steps_of_one_id_are_refused():
    with pytest.raises(ValidationError, match="same id"):
        PLAIN.with_steps((*PLAIN.steps, CloseHoles(id=2)))


def test_the_hash_says_nothing_of_steps_that_are_gone():
    back = with_step_removed(with_steps_added(PLAIN, (CloseHoles(),)), 4)
    assert back.counted == 4 and recipe_hash(back) == recipe_hash(PLAIN)


def test_making_comes_between_shape_and_stand_and_follows_any_way_round():
    made = with_steps_added(PLAIN, (Support(), cut(9), cut(20), Orient()))
    kinds = ["bring-in", "drop-faces", "orient-faces", "cut-in-two", "cut-in-two", "orient", "support"]
    assert [step.kind for step in made.steps] == kinds
    # A mend that is added later still goes before anything is made.
    mended = with_steps_added(made, (CloseHoles(),))
    assert [step.kind for step in mended.steps][2:4] == ["orient-faces", "close-holes"]
    first, second = (step.id for step in made.steps if step.kind == "cut-in-two")
    assert [step.id for step in with_step_moved(made, second, before=first).steps[3:5]] == [second, first]


def test_pieces_keep_their_names_when_the_cut_is_edited_and_are_kept_one_by_one():
    low, high = box(10, 10, 30), box(10, 10, 30, (0, 0, 40))
    mesh = concatenated(low, high)
    recipe = recipe_for(mesh, cut(35), DropFaces(scope="x.2-upper"))
    memory = Remembering()

    def pieces(recipe):
        run = run_recipe(recipe, {mesh.hash: mesh}, Edition(), memory)
        return [part.name.removeprefix(whole) for part in run.parts], run.receipts

    whole = run_recipe(recipe.with_steps(recipe.steps[:1]), {mesh.hash: mesh}, Edition()).parts[0].name
    recipe = with_fields(recipe, 3, {"scope": f"{whole}.2-upper"})
    found, receipts = pieces(recipe)
    assert found == [".2-lower", ".2-upper"] and not receipts[2].idle
    hits = memory.hits
    found, receipts = pieces(with_fields(recipe, 2, {"height": 36}))
    assert found == [".2-lower", ".2-upper"] and not receipts[2].idle
    # The cut was made anew; what it left is the same, so that the step after it was remembered.
    assert memory.hits == hits + 2
    # Of two cuts each names its own pieces.
    twice = with_steps_added(recipe, (cut(60),))
    assert pieces(twice)[0] == [
        ".2-lower.4-lower",
        ".2-upper.4-lower",
        ".2-upper.4-upper",
    ]


def test_what_an_id_is_changes_no_result_but_names():
    memory = Remembering()
    run_recipe(PLAIN, {MESH.hash: MESH}, Edition(), memory)
    renumbered = Recipe(steps=tuple(step.model_copy(update={"id": step.id + 7}) for step in PLAIN.steps))
    run_recipe(renumbered, {MESH.hash: MESH}, Edition(), memory)
    assert memory.hits == len(PLAIN.steps)


def test_a_side_that_shows_is_brought_forward_from_how_the_figure_was_turned():
    bring = {"kind": "bring-in", "source": "m", "name": "x.stl"}
    turned = {"kind": "orient", "up": [0, 0, 1], "show_side": [0, -1, 0],
              "variants": {"seated": {"show_side": [1, 0, 0]}, "bare": {"show_side": None}}}  # fmt: skip
    held = {"version": 1, "steps": [bring, {"kind": "weld", "distance": 0.1}, turned], "variants": ["seated", "bare"]}
    recipe = read_recipe(held)
    assert [(step.kind, step.id) for step in recipe.steps] == [
        ("bring-in", 1),
        ("show-side", 4),
        ("weld", 2),
        ("orient", 3),
    ]
    for variant, side in (("", (0, -1, 0)), ("seated", (1, 0, 0))):
        assert recipe.as_made(variant).steps[1].direction == side
    # One that only a variant had is switched off in the figure itself.
    del turned["show_side"]
    recipe = read_recipe(held)
    assert not recipe.made.steps[1].on and recipe.as_made("seated").steps[1].on
    # None was pointed at: none is made up.
    turned["variants"] = {}
    assert [step.kind for step in read_recipe(held).steps] == ["bring-in", "weld", "orient"]
    assert ShowSide(direction=(0, -2, 0)).direction == (0, -1, 0)
