"""Variants: one recipe, whose single steps differ."""

import json

import pytest
from pydantic import ValidationError

from tests.kept import build_kept
from tests.shapes import box
from ulvet.core.bench.edition import Edition
from ulvet.core.bits.steps import AddBit
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.lengths import FigureMM
from ulvet.core.mend.steps import CloseHoles, DropFaces, OrientFaces
from ulvet.core.recipe.changes import (
    IllegalOrder,
    with_fields,
    with_group_moved,
    with_source,
    with_step_moved,
    with_step_removed,
    with_steps_added,
)
from ulvet.core.recipe.runner import Recipe, recipe_hash
from ulvet.core.recipe.variants import differing, with_change, with_variant, without_variant

BODY, HEAD, HOOD = box(20, 10, 30), box(8, 8, 8), box(9, 9, 14)
PLAIN = Recipe(
    steps=(
        BringIn(source=BODY.hash, name="body.stl", unit="mm", up="z"),
        AddBit(source=HEAD.hash, name="head", z=FigureMM(30)),
        DropFaces(),
        CloseHoles(),
    )
)
HOODED = with_variant(PLAIN, "hooded")


def after(recipe, change):
    return with_change(recipe, change(recipe.made))


def test_recipe_without_variants_is_written_as_it_always_was() -> None:
    said = json.loads(PLAIN.model_dump_json())
    assert said.keys() == {"version", "counted", "steps"} and not any("variants" in step for step in said["steps"])
    assert recipe_hash(HOODED.in_variant("").made) == recipe_hash(PLAIN)


def test_change_of_a_variant_is_of_it_alone() -> None:
    higher = after(HOODED, lambda r: with_fields(r, 2, {"z": 29}))
    assert higher.made.steps[1].z == 29
    assert higher.in_variant("").made == PLAIN
    assert differing(higher) == (2,) and differing(higher.in_variant("")) == ()
    # Back as it is in the figure, it differs no more.
    assert after(higher, lambda r: with_fields(r, 2, {"z": 30})) == HOODED


def test_change_of_the_figure_reaches_what_a_variant_does_not_say() -> None:
    higher = after(HOODED, lambda r: with_fields(r, 2, {"z": 29}))
    both = after(higher.in_variant(""), lambda r: with_fields(r, 2, {"turn": 15, "z": 31}))
    head = both.in_variant("hooded").made.steps[1]
    assert (head.z, head.turn) == (29, 15)


def test_step_added_in_a_variant_is_off_elsewhere_and_goes_with_it() -> None:
    turned = after(HOODED, lambda r: with_steps_added(r, (OrientFaces(),)))
    assert [step.on for step in turned.made.steps] == [True] * 5
    assert [step.on for step in turned.in_variant("").made.steps] == [True, True, True, True, False]
    assert without_variant(turned, "hooded").steps == PLAIN.steps


def test_step_taken_out_of_a_variant_stays_in_the_figure() -> None:
    bare = after(HOODED, lambda r: with_step_removed(r, 2))
    assert not bare.made.steps[1].on and bare.in_variant("").made == PLAIN
    gone = after(bare.in_variant(""), lambda r: with_step_removed(r, 2))
    assert len(gone.in_variant("hooded").made.steps) == 3


def test_moving_a_step_takes_what_differs_along() -> None:
    off = after(HOODED, lambda r: with_fields(r, 3, {"on": False}))
    moved = after(off, lambda r: with_step_moved(r, 3, None))
    assert [step.kind for step in moved.made.steps][2:] == ["close-holes", "drop-faces"]
    assert differing(moved) == (3,) and not moved.made.steps[3].on


def test_variant_of_another_source_is_built_from_it() -> None:
    hood = BringIn(source=HOOD.hash, name="hood.obj", unit="mm", up="z")
    other = after(HOODED, lambda r: with_source(r, hood))
    sources = {mesh.hash: mesh for mesh in (BODY, HEAD, HOOD)}
    tall = [
        build_kept(other.in_variant(name), Edition(), sources).parts[0].mesh.vertices[:, 2].max()
        for name in ("", "hooded")
    ]
    assert tall == [30, 14]
    # A step of another kind in the figure's place leaves the variant what it was.
    swapped = after(other.in_variant(""), lambda r: r.with_steps((OrientFaces(id=1), *r.steps[1:])))
    assert swapped.in_variant("hooded").made.steps[0] == hood.model_copy(update={"id": 1})


def test_change_that_a_variant_could_not_bear_is_refused() -> None:
    far = after(HOODED, lambda r: with_fields(r, 2, {"x": 5}))
    with pytest.raises(ValidationError):
        Recipe.model_validate(
            {
                **far.model_dump(),
                "steps": [{**s, "variants": {"hooded": {"x": 1e9}}} for s in far.model_dump()["steps"]],
            }
        )
    for change in (with_variant, without_variant):
        with pytest.raises(IllegalOrder):
            change(HOODED, "hooded" if change is with_variant else "bare-headed")


def test_group_moves_and_what_rests_in_it_goes_along() -> None:
    frame = ((-4, -4, 30), (4, -4, 30), (-4, 4, 30), (-4, -4, 38))
    resting = {"point": (0, 0, 38), "normal": (0, 0, 1), "host": "head", "frame": frame}
    recipe = Recipe(
        steps=(
            PLAIN.steps[0],
            AddBit(source=HEAD.hash, name="head", z=FigureMM(30), group="top"),
            AddBit(source=HOOD.hash, name="hood", rests_on=resting, group="top"),
        )
    )
    sources = {mesh.hash: mesh for mesh in (BODY, HEAD, HOOD)}
    before = build_kept(recipe, Edition(), sources).parts
    moved = build_kept(with_group_moved(recipe, "top", (2, -1, 4)), Edition(), sources).parts
    for old, new, by in zip(before, moved, ([0, 0, 0], [2, -1, 4], [2, -1, 4]), strict=True):
        assert new.mesh.vertices == pytest.approx(old.mesh.vertices + by)
    with pytest.raises(IllegalOrder):
        with_group_moved(recipe, "", (1, 0, 0))
