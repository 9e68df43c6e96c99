from typing import ClassVar, Literal

import numpy as np
import pytest
from pydantic import ValidationError

from tests.shapes import box, cylinder, subdivided
from ulvet.core.bench import Edition
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.build import build_figure
from ulvet.core.gauge.steps import Thicken
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.mend.steps import CloseHoles, DropFaces
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.runner import Recipe, recipe_hash, run_recipe, step_key
from ulvet.core.recipe.step import Context, Part, Step, StepResult
from ulvet.core.recipe.union import step_adapter, step_kinds


class Remembering:
    def __init__(self):
        self.kept, self.hits = {}, 0

    def recall(self, key):
        self.hits += key in self.kept
        return self.kept.get(key)

    def keep(self, key, result):
        self.kept[key] = result

    def recall_measured(self, key):
        return None

    def keep_measured(self, key, measured):
        pass


def recipe_for(mesh, *steps):
    return Recipe(steps=(BringIn(source=mesh.hash, name="x.stl"), *steps))


def test_steps_are_found_in_their_stations_and_survive_json():
    assert {"bring-in", "weld", "drop-faces", "orient-faces", "close-holes", "thicken"} <= set(step_kinds())
    recipe = recipe_for(box(1, 1, 1), CloseHoles(widest=FigureMM(3)), DropFaces())
    again = Recipe.model_validate_json(recipe.model_dump_json())
    assert again == recipe
    assert isinstance(again.steps[1].widest, FigureMM)
    assert recipe_hash(again) == recipe_hash(recipe)


@pytest.mark.parametrize("wrong", [{"kind": "no-such"}, {}, {"kind": "weld", "distance": -1}, {"kind": "weld", "x": 1},
                                   {"kind": "weld", "distance": float("inf")}])  # fmt: skip
def test_a_step_that_cannot_be_is_refused(wrong):
    with pytest.raises(ValidationError):
        step_adapter().validate_python(wrong)


def test_only_what_changed_runs_again():
    mesh, memory = box(10, 10, 10), Remembering()
    sources = {mesh.hash: mesh}
    run_recipe(recipe_for(mesh, DropFaces()), sources, Edition(), memory)
    assert memory.hits == 0
    run_recipe(recipe_for(mesh, DropFaces(), CloseHoles()), sources, Edition(), memory)
    assert memory.hits == 2
    assert len(memory.kept) == 3


def test_the_key_knows_parameters_inputs_and_declared_context():
    part, other = Part("figure", box(1, 1, 1)), Part("figure", box(1, 1, 2))
    nothing = Context({}, ())
    keys = {
        step_key(CloseHoles(), (part,), nothing),
        step_key(CloseHoles(widest=FigureMM(1)), (part,), nothing),
        step_key(CloseHoles(), (other,), nothing),
        step_key(CloseHoles(), (part,), Context({"factor": 1.0}, ("factor",))),
        step_key(CloseHoles(), (part,), Context({"factor": 2.0}, ("factor",))),
    }
    assert len(keys) == 5
    assert step_key(CloseHoles(), (part,), nothing) in keys


def test_a_step_cannot_read_what_it_did_not_declare():
    class Sly(Step):
        needs: ClassVar[tuple[str, ...]] = ()
        kind: Literal["sly"] = "sly"

        def run(self, parts, context):
            return StepResult(parts) if context["factor"] else StepResult(())

    with pytest.raises(KeyError):
        Sly().run((), Context({"factor": 1.0}, Sly.needs))


def test_the_factor_is_fixed_by_what_was_brought_in():
    bar = cylinder(0.2, 20, 24)
    thicken = Thicken(
        wall=PrintMM(0.8), places=(Anchor(point=(FigureMM(0), FigureMM(0), FigureMM(10))),), reach=FigureMM(30)
    )
    run = run_recipe(recipe_for(bar, thicken), {bar.hash: bar}, Edition(height=PrintMM(10)))
    assert run.factor == 0.5  # although the thickened bar is taller


def test_walls_stay_in_print_mm_whatever_the_size():
    plate = box(20, 20, 0.6)
    for _ in range(3):
        plate = subdivided(plate)
    thicken = Thicken(
        wall=PrintMM(0.8), places=(Anchor(point=(FigureMM(0), FigureMM(0), FigureMM(0))),), reach=FigureMM(30)
    )
    for factor in (0.5, 1.0):
        build = build_figure(recipe_for(plate, thicken), Edition(factor=factor), {plate.hash: plate})
        assert build.facts[0].size_mm[2] == pytest.approx(0.8, rel=0.02)


def test_a_recipe_run_twice_gives_the_same_bytes():
    plate = subdivided(subdivided(box(20, 20, 0.3)))
    thicken = Thicken(
        wall=PrintMM(0.8), places=(Anchor(point=(FigureMM(0), FigureMM(0), FigureMM(0))),), reach=FigureMM(30)
    )
    first, second = (
        run_recipe(recipe_for(plate, thicken), {plate.hash: plate}, Edition()).parts[0].mesh.hash for _ in range(2)
    )
    assert first == second


def test_recipe_read_again_is_the_same_to_the_last_bit() -> None:
    rng = np.random.default_rng(5)
    anchors = [{"point": (0, 0, 0), "normal": tuple(way)} for way in rng.normal(size=(200, 3))]
    recipe = Recipe.model_validate({"steps": [{"kind": "thicken", "places": anchors, "wall": 1, "reach": 1}]})
    again = Recipe.model_validate_json(recipe.model_dump_json())
    assert recipe_hash(Recipe.model_validate(again.model_dump())) == recipe_hash(again) == recipe_hash(recipe)
