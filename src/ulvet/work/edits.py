"""Changes of a figure's record and edition, each as a new revision."""

from collections.abc import Sequence
from typing import Any

from ulvet.core.bench.edition import Edition
from ulvet.core.recipe.changes import (
    with_fields,
    with_group_moved,
    with_group_switched,
    with_step_moved,
    with_step_removed,
    with_step_set,
    with_step_switched,
    with_steps_added,
)
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.step import Step
from ulvet.core.recipe.union import step_adapter
from ulvet.work.refusals import NotThere, Refused
from ulvet.work.studio import Change, Seen, Studio

__all__ = [
    "add_steps",
    "edit_step",
    "fields_set",
    "move_group",
    "move_step",
    "remove_step",
    "set_edition",
    "set_fields",
    "set_steps",
    "steps_added",
    "steps_set",
    "switch_group",
    "switch_step",
]


def edit_step(studio: Studio, number: int, seen: Seen, step: int, field: str, value: float) -> None:
    """Change a number in a sentence of the record, as a new revision.

    Raises NotThere, Conflict, Refused.
    """

    def edited(recipe: Recipe, edition: Edition) -> tuple[Recipe, Edition]:
        if field not in _step(recipe, step).numbers():
            raise Refused(f"{field} is not a number of this step.")
        return with_fields(recipe, step, {field: value}), edition

    studio.change(number, seen, f"{field} {value:g}", edited)


def switch_step(studio: Studio, number: int, seen: Seen, step: int, on: bool) -> None:
    """Switch a step of the record on or off, as a new revision.

    Raises NotThere, Conflict, Refused.
    """

    def switched(recipe: Recipe, edition: Edition) -> tuple[Recipe, Edition]:
        _step(recipe, step)
        return with_step_switched(recipe, step, on), edition

    studio.change(number, seen, f"sentence switched {'on' if on else 'off'}", switched)


def switch_group(studio: Studio, number: int, seen: Seen, group: str, on: bool) -> None:
    """Switch every step of a group on or off, as one new revision.

    Raises NotThere, Conflict, Refused.
    """

    def switched(recipe: Recipe, edition: Edition) -> tuple[Recipe, Edition]:
        return with_group_switched(recipe, group, on), edition

    studio.change(number, seen, f"{group} switched {'on' if on else 'off'}", switched)


def move_group(studio: Studio, number: int, seen: Seen, group: str, by: Sequence[float]) -> None:
    """Move every bit and form of a group by (across, deep, up) figure mm, as one new revision.

    Raises NotThere, Conflict, Refused.
    """

    def moved(recipe: Recipe, edition: Edition) -> tuple[Recipe, Edition]:
        return with_group_moved(recipe, group, by), edition

    studio.change(number, seen, f"{group} moved", moved)


def set_fields(studio: Studio, number: int, seen: Seen, step: int, values: dict[str, Any], says: str) -> None:
    """Set several fields of a step of the record, as one new revision.

    Raises NotThere, Conflict, Refused.
    """

    studio.change(number, seen, says, fields_set(step, values))


def fields_set(step: int, values: dict[str, Any]) -> Change:
    """The change that sets several fields of a step; it raises NotThere and Refused."""

    def changed(recipe: Recipe, edition: Edition) -> tuple[Recipe, Edition]:
        _step(recipe, step)
        _refuse_what_it_is(values)
        return with_fields(recipe, step, values), edition

    return changed


def move_step(studio: Studio, number: int, seen: Seen, step: int, before: int | None) -> None:
    """Move a step of the record in front of another one, or to the end, as a new revision.

    Raises NotThere, Conflict, Refused.
    """

    def moved(recipe: Recipe, edition: Edition) -> tuple[Recipe, Edition]:
        _step(recipe, step)
        return with_step_moved(recipe, step, before), edition

    studio.change(number, seen, "sentence moved", moved)


def set_steps(studio: Studio, number: int, seen: Seen, steps: Sequence[tuple[str, dict[str, Any]]], says: str) -> None:
    """Set fields of the last step of each kind, added where there is none, as one new revision.

    Raises NotThere, Conflict, Refused.
    """

    studio.change(number, seen, says, steps_set(steps))


def steps_set(steps: Sequence[tuple[str, dict[str, Any]]]) -> Change:
    """The change that sets fields of the last step of each kind; it raises Refused."""

    def changed(recipe: Recipe, edition: Edition) -> tuple[Recipe, Edition]:
        for kind, values in steps:
            _refuse_what_it_is(values)
            recipe = with_step_set(recipe, kind, values)
        return recipe, edition

    return changed


def add_steps(studio: Studio, number: int, seen: Seen, steps: Sequence[dict[str, Any]], says: str) -> None:
    """Add steps, each behind the last of its phase or in place of one that may be there only once.

    Raises NotThere, Conflict, Refused.
    """

    studio.change(number, seen, says, steps_added(steps))


def steps_added(steps: Sequence[dict[str, Any]]) -> Change:
    """The change that adds steps; it raises Refused."""

    def added(recipe: Recipe, edition: Edition) -> tuple[Recipe, Edition]:
        return with_steps_added(recipe, tuple(map(step_adapter().validate_python, steps))), edition

    return added


def remove_step(studio: Studio, number: int, seen: Seen, step: int) -> None:
    """Take a step out of the record, as a new revision.

    Raises NotThere, Conflict, Refused.
    """

    def removed(recipe: Recipe, edition: Edition) -> tuple[Recipe, Edition]:
        _step(recipe, step)
        return with_step_removed(recipe, step), edition

    studio.change(number, seen, "sentence taken out", removed)


def set_edition(studio: Studio, number: int, seen: Seen, edition: Edition, sized_by: str = "") -> None:
    """Make the edition that is looked at another, as a new revision; ``sized_by`` says which length its size means.

    Raises NotThere, Conflict, UnknownOnBench.
    """
    studio.change(number, seen, "another edition", lambda recipe, _: (recipe, edition), sized_by=sized_by)


def _refuse_what_it_is(values: dict[str, Any]) -> None:
    if values.keys() & {"kind", "id", "source", "picture", "variants"}:
        raise Refused("What a step is, and what it is made from, is not changed in place.")


def _step(recipe: Recipe, step: int) -> Step:
    place = recipe.place_of(step)
    if place is None:
        raise NotThere("That sentence is no longer in the record.")
    return recipe.steps[place]
