"""Changing a recipe: adding, setting, moving and switching steps, in an order that can be run."""

from collections.abc import Sequence
from typing import Any

from ulvet.core.lineage import steps_of_lineage
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

_GONE = "That sentence is no longer in the record; look at the figure again."


class IllegalOrder(ValueError):
    """A change after which a recipe could not be run; its text is for the user."""


def with_steps_added(recipe: Recipe, steps: tuple[Step, ...]) -> Recipe:
    """Each step behind the last of its phase; one that may be there only once replaces that of the same scope."""
    for step in steps:
        found = list(recipe.steps)
        same = [k for k, old in enumerate(found) if step.once and step.replaces(old)]
        if same:
            found[same[0]] = step.model_copy(update={"id": found[same[0]].id})
        else:
            # Within a phase by rank: what is stood is turned before it is held, whichever was asked for first.
            ahead = sum(at <= (step.phase, step.rank) for at in recipe.order)
            # What is of a piece comes behind the step that cuts it off.
            made_by = steps_of_lineage(step.scope or "")
            after = max((k + 1 for k, one in enumerate(found) if one.id in made_by), default=0)
            found.insert(max(ahead, after), step.model_copy(update={"id": 0}))
        recipe = recipe.with_steps(found)
    return recipe


def with_step_set(recipe: Recipe, kind: str, values: dict[str, Any], step: int | None = None) -> Recipe:
    """Fields of the step of a kind with the id ``step`` set; without one of the last of the kind, which is added if
    there is none. Without an id, values that name a ``scope`` are of a step with that scope; with one they move it.

    Raises pydantic's ValidationError for values the step cannot take, IllegalOrder for an id without such a step.
    """
    of_kind = [one for one in recipe.steps if one.kind == kind]
    if step is not None:
        if all(one.id != step for one in of_kind):
            raise IllegalOrder(_GONE)
        return with_fields(recipe, step, values)
    known = [one for one in of_kind if values.get("scope", one.scope) == one.scope]
    if known:
        return with_fields(recipe, known[-1].id, values)
    return with_steps_added(recipe, (step_adapter().validate_python({"kind": kind, **values}),))


def with_source(recipe: Recipe, source: Step) -> Recipe:
    """The recipe with another source, and everything after it as it was, but for what only the old scan tells."""
    first, *rest = recipe.steps
    source = source.model_copy(update={"id": first.id})
    return recipe.with_steps((source, *(step for step in rest if step.kind != "fuse-passes")))


def with_fields(recipe: Recipe, step: int, values: dict[str, Any]) -> Recipe:
    """Fields of the step with an id set.

    Raises pydantic's ValidationError for values the step cannot take, IllegalOrder for an id without a step.
    """
    place = _place(recipe, step)
    old = recipe.steps[place]
    edited = type(old).model_validate({**old.model_dump(), **values, "id": step})
    return recipe.with_steps((*recipe.steps[:place], edited, *recipe.steps[place + 1 :]))


def with_step_switched(recipe: Recipe, step: int, on: bool) -> Recipe:
    """The step with an id switched on or off.

    Raises IllegalOrder for a source, without which nothing is left, and for an id without a step.
    """
    if _place(recipe, step) == 0:
        raise IllegalOrder("A source cannot be switched off: without it there is no figure.")
    return with_fields(recipe, step, {"on": on})


def with_group_switched(recipe: Recipe, group: str, on: bool) -> Recipe:
    """Every step of a group switched on or off together.

    Raises IllegalOrder where no step is in it.
    """
    for member in _members(recipe, group):
        recipe = with_step_switched(recipe, member.id, on)
    return recipe


def with_group_moved(recipe: Recipe, group: str, by: Sequence[float]) -> Recipe:
    """Every bit and form of a group moved by (across, deep, up) figure mm; what rests on one of them goes with it.

    Raises IllegalOrder where no step is in it.
    """
    members = _members(recipe, group)
    names = {getattr(member, "name", "") for member in members}
    for member in members:
        said = member.model_dump()
        rests = said.get("rests_on")
        if not (rests and rests["frame"] and rests["host"] in names):
            moved = {axis: said[axis] + far for axis, far in zip("xyz", by, strict=True)}
            recipe = with_fields(recipe, member.id, moved)
    return recipe


def _members(recipe: Recipe, group: str) -> list[Step]:
    members = [step for step in recipe.steps if getattr(step, "group", "") == group != ""]
    if not members:
        raise IllegalOrder("There is nothing in that group; look at the figure again.")
    return members


def with_step_removed(recipe: Recipe, step: int) -> Recipe:
    """The recipe without the step with an id.

    Raises IllegalOrder for the source, without which nothing is left, and for an id without a step.
    """
    place = _place(recipe, step)
    if place == 0:
        raise IllegalOrder("A source cannot be taken out: without it there is no figure.")
    return recipe.with_steps((*recipe.steps[:place], *recipe.steps[place + 1 :]))


def with_step_moved(recipe: Recipe, step: int, before: int | None) -> Recipe:
    """The step with an id moved in front of another one, or to the end.

    Raises IllegalOrder where it would come before its phase or after it, and for an id without a step.
    """
    steps = list(recipe.steps)
    moved = steps.pop(_place(recipe, step))
    ids = [one.id for one in steps]
    if before is not None and before not in ids:
        raise IllegalOrder(_GONE)
    steps.insert(len(steps) if before is None else ids.index(before), moved)
    after = recipe.with_steps(steps)
    if after.order != sorted(after.order):
        raise IllegalOrder(
            "The sentence cannot go there: sources come first, then what shapes the figure, then how it is made, then "
            "how it is turned, then how it is held."
        )
    return after


def _place(recipe: Recipe, step: int) -> int:
    place = recipe.place_of(step)
    if place is None:
        raise IllegalOrder(_GONE)
    return place
