"""Changing a recipe: adding, setting, moving and switching steps, in an order that can be run."""

from collections.abc import Sequence
from typing import Any

from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.step import Step
from ulvet.core.recipe.union import step_adapter

__all__ = [
    "IllegalOrder",
    "with_fields",
    "with_group_moved",
    "with_group_switched",
    "with_source",
    "with_step_moved",
    "with_step_removed",
    "with_step_set",
    "with_step_switched",
    "with_steps_added",
]


class IllegalOrder(ValueError):
    """A change after which a recipe could not be run; its text is for the user."""


def with_steps_added(recipe: Recipe, steps: tuple[Step, ...]) -> Recipe:
    """Each step behind the last of its phase; one that may be there only once replaces that of the same scope."""
    found = list(recipe.steps)
    for step in steps:
        same = [k for k, old in enumerate(found) if step.once and step.replaces(old)]
        if same:
            found[same[0]] = step
        else:
            # Within a phase by rank: what is stood is turned before it is held, whichever was asked for first.
            ahead = [at <= (step.phase, step.rank) for at in Recipe(steps=tuple(found)).order]
            found.insert(sum(ahead), step)
    return Recipe(steps=tuple(found))


def with_step_set(recipe: Recipe, kind: str, values: dict[str, Any], place: int | None = None) -> Recipe:
    """Fields of the step of a kind at ``place`` set; without a place of the last one, which is added if there is none.

    Raises pydantic's ValidationError for values the step cannot take, IllegalOrder for a place without such a step.
    """
    places = [k for k, step in enumerate(recipe.steps) if step.kind == kind and place in (None, k)]
    if place is not None and not places:
        raise IllegalOrder("That sentence is no longer in the record; look at the figure again.")
    if not places:
        return with_steps_added(recipe, (step_adapter().validate_python({"kind": kind, **values}),))
    return with_fields(recipe, places[-1], values)


def with_source(recipe: Recipe, source: Step) -> Recipe:
    """The recipe with another source, and everything after it as it was, but for what only the old scan tells."""
    return Recipe(steps=(source, *(step for step in recipe.steps[1:] if step.kind != "fuse-passes")))


def with_fields(recipe: Recipe, place: int, values: dict[str, Any]) -> Recipe:
    """Fields of the step at ``place`` set.

    Raises pydantic's ValidationError for values the step cannot take.
    """
    step = recipe.steps[place]
    edited = type(step).model_validate({**step.model_dump(), **values})
    return Recipe(steps=(*recipe.steps[:place], edited, *recipe.steps[place + 1 :]))


def with_step_switched(recipe: Recipe, place: int, on: bool) -> Recipe:
    """The step at ``place`` switched on or off.

    Raises IllegalOrder for a source, without which nothing is left.
    """
    if place == 0:
        raise IllegalOrder("A source cannot be switched off: without it there is no figure.")
    return with_fields(recipe, place, {"on": on})


def with_group_switched(recipe: Recipe, group: str, on: bool) -> Recipe:
    """Every step of a group switched on or off together.

    Raises IllegalOrder where no step is in it.
    """
    for place in _members(recipe, group):
        recipe = with_step_switched(recipe, place, on)
    return recipe


def with_group_moved(recipe: Recipe, group: str, by: Sequence[float]) -> Recipe:
    """Every bit and form of a group moved by (across, deep, up) figure mm; what rests on one of them goes with it.

    Raises IllegalOrder where no step is in it.
    """
    members = _members(recipe, group)
    names = {getattr(recipe.steps[k], "name", "") for k in members}
    for place in members:
        said = recipe.steps[place].model_dump()
        rests = said.get("rests_on")
        if not (rests and rests["frame"] and rests["host"] in names):
            moved = {axis: said[axis] + far for axis, far in zip("xyz", by, strict=True)}
            recipe = with_fields(recipe, place, moved)
    return recipe


def _members(recipe: Recipe, group: str) -> list[int]:
    members = [k for k, step in enumerate(recipe.steps) if getattr(step, "group", "") == group != ""]
    if not members:
        raise IllegalOrder("There is nothing in that group; look at the figure again.")
    return members


def with_step_removed(recipe: Recipe, place: int) -> Recipe:
    """The recipe without the step at ``place``.

    Raises IllegalOrder for the source, without which nothing is left.
    """
    if place == 0:
        raise IllegalOrder("A source cannot be taken out: without it there is no figure.")
    return Recipe(steps=(*recipe.steps[:place], *recipe.steps[place + 1 :]))


def with_step_moved(recipe: Recipe, place: int, to: int) -> Recipe:
    """The step at ``place`` moved so that it is at ``to``.

    Raises IllegalOrder where it would come before its phase or after it.
    """
    steps = list(recipe.steps)
    step = steps.pop(place)
    steps.insert(max(0, min(to, len(steps))), step)
    moved = Recipe(steps=tuple(steps))
    if moved.order != sorted(moved.order):
        raise IllegalOrder(
            "The sentence cannot go there: sources come first, then what shapes the figure, then how it is turned, "
            "then how it is held."
        )
    return moved
