from typing import ClassVar, Literal

import numpy as np
import pytest
from pydantic import ValidationError

from tests.kept import build_kept
from tests.shapes import box, cylinder, subdivided
from ulvet.core.bench.edition import Edition
from ulvet.core.bits.steps import AddBit
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.findings.changes import after_change
from ulvet.core.gauge.steps import Thicken
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.mend.mend_steps import MendWholeReceipt
from ulvet.core.mend.steps import CloseHoles, DropFaces
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.changes import with_steps_added
from ulvet.core.recipe.reading import UnreadableRecipe, read_recipe
from ulvet.core.recipe.runner import RECIPE_VERSION, Recipe, recipe_hash, run_recipe, step_key
from ulvet.core.recipe.step import Context, Part, Step, StepResult
from ulvet.core.recipe.union import step_adapter, step_kinds
from ulvet.core.stamp.steps import Stamp
from ulvet.core.stand.steps import Orient, SupportReceipt


class Remembering:
    def __init__(self):
        self.kept, self.hits = {}, 0

    def recall(self, key, receipt):
        self.hits += key in self.kept
        return self.kept.get(key)

    def keep(self, key, result):
        self.kept[key] = result

    def recall_measured(self, key):
        return None

    def holds_measured(self, key):
        return True

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
        build = build_kept(recipe_for(plate, thicken), Edition(factor=factor), {plate.hash: plate})
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


def test_a_step_of_an_unknown_kind_is_kept_as_it_was_and_idle_and_told():
    mesh = box(10, 10, 10)
    held = recipe_for(mesh, DropFaces(), Orient()).model_dump(mode="json")
    strange = {"kind": "gild", "id": 9, "leaf": {"carat": 22}, "on": True, "scope": None}
    held["steps"].insert(2, strange)
    recipe = read_recipe(held)
    assert read_recipe(recipe.model_dump(mode="json")).model_dump(mode="json") == recipe.model_dump(mode="json")
    assert recipe.model_dump(mode="json")["steps"][2] == strange
    build = build_kept(recipe, Edition(), {mesh.hash: mesh})
    assert build.receipts[2].idle and "does not know" in "".join(recipe.steps[2].said(build.receipts[2]))
    (progress,) = [finding for finding in build.findings if finding.code == "unknown-step"]
    left, _ = after_change(recipe, Edition(), progress.remedies[0].change)
    assert not left.steps[2].on
    # What is added goes where it belongs, as if the strange one were of the phase it lies in.
    kinds = [step.kind for step in with_steps_added(recipe, (CloseHoles(),)).steps]
    assert kinds == ["bring-in", "drop-faces", "gild", "close-holes", "orient"]


def test_an_earlier_recipe_is_brought_forward_and_a_later_one_is_refused():
    steps = [{"kind": "bring-in", "source": "m", "name": "x.stl"}, {"kind": "thicken", "places": [[1, 2, 3]],
             "wall": 1, "reach": 1}]  # fmt: skip
    recipe = read_recipe({"steps": steps})
    assert (recipe.version, recipe.steps[1].places[0].point) == (RECIPE_VERSION, (1, 2, 3))
    with pytest.raises(UnreadableRecipe, match="newer Ulvet"):
        read_recipe({"version": RECIPE_VERSION + 1, "steps": steps})


def test_another_bit_runs_no_step_again_that_does_not_name_it():
    mesh, bit, memory = box(10, 10, 10), box(1, 2, 3), Remembering()
    picture = Stamp(name="mark", text="O", width=PrintMM(3), depth=PrintMM(0.4),
                    places=(Anchor(point=(0, -5, 5), normal=(0, -1, 0)),))  # fmt: skip
    recipe = recipe_for(mesh, picture)
    run_recipe(recipe, {mesh.hash: mesh}, Edition(), memory)
    more = with_steps_added(recipe, (AddBit(source=bit.hash, name="Otter", x=FigureMM(30)),))
    memory.hits = 0
    run = run_recipe(more, {mesh.hash: mesh, bit.hash: bit}, Edition(), memory)
    assert [part.name for part in run.parts] == ["figure", "Otter"]
    assert memory.hits == 2, "of the source, and of the stamp on the part that was there"


def test_receipts_of_parts_are_told_as_one_each_field_as_its_type_says():
    first = SupportReceipt(contacts=2, tip_least=0.3, tip_most=0.5, support_ml=1.5, lift=5)
    second = SupportReceipt(contacts=1, tip_least=0.2, tip_most=0.4, support_ml=0.5)
    whole = SupportReceipt.together([first, second, SupportReceipt(not_done="too many layers")])
    assert (whole.contacts, whole.tip_least, whole.tip_most, whole.support_ml, whole.lift) == (3, 0.2, 0.5, 2.0, 5)
    assert (whole.not_done, whole.idle) == ("too many layers", False)
    assert MendWholeReceipt.together([MendWholeReceipt(idle=True, not_done="it is open")] * 2).idle


GIVEN = {
    "places": [{"point": (0, 0, 5)}], "name": "a part", "source": "0" * 64, "shown": "0" * 64, "scan": "0" * 64,
    "finding": "thin-wall", "reason": "may bend", "least": 1, "what": "mark", "subject": "an eel", "which": "specks",
    "diameter": 20, "host": "a", "bit": "b", "ratio": 1, "wide": 5, "chord": 0.02, "width": 4, "depth": 0.5,
    "radius": 2, "wall": 1, "reach": 2, "wire": 1, "text": "O", "tool": "smooth", "how": "girth", "form": "box",
}  # fmt: skip
EXAMPLES = {
    "foreign": {"thing": {"shape": "disc", "diameter": 20, "thickness": 2}},
    "set-lengths": {"lengths": [{"a": {"point": (0, 0, 0)}, "b": {"point": (1, 0, 0)}, "real": 10}]},
    "trim": {"volume": {"volume": "box", "low": (0, 0, 0), "high": (1, 1, 1)}},
    "simplify": {"deviation": 0.02},
    "show-side": {"direction": (0, -1, 0)},
    "pocket": {"item": "magnet"},
    "cut": {"offset": 4},
    "cut-boxes": {"size": (10, 10, 10)},
    "key": {"cut": 2, "places": []},
    "assembly-order": {"order": ["a", "b"]},
    "keep-whole": {"name": "its face", "radius": 3.0},
    "name-part": {"scope": "a", "title": "Hood"},
}


@pytest.mark.parametrize("kind", step_kinds())
def test_every_step_has_a_sentence_whatever_came_of_it(kind):
    needed = step_kinds()[kind].model_fields
    step = step_adapter().validate_python({"kind": kind, **{k: v for k, v in GIVEN.items() if k in needed},
                                           **EXAMPLES.get(kind, {})})  # fmt: skip
    for receipt in (step.makes(), step.makes(not_done="it is open"), step.makes(idle=True, not_done="it is open")):
        said = "".join(piece if isinstance(piece, str) else str(piece.value) for piece in step.said(receipt))
        assert len(said) > 5
