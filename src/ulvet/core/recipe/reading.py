"""Recipes that were kept, by this version or an earlier one, read and brought forward."""

from collections.abc import Callable
from typing import Any

from pydantic import ValidationError

from ulvet.core.bench.edition import brought_forward as edition_brought_forward
from ulvet.core.recipe.runner import RECIPE_VERSION, Recipe
from ulvet.core.recipe.step import Phase
from ulvet.core.recipe.union import step_kinds

__all__ = ["UnreadableRecipe", "brought_forward", "read_recipe"]

Held = dict[str, Any]


class UnreadableRecipe(ValueError):
    """A recipe that this version cannot read; its text is for the user."""


def read_recipe(held: Held) -> Recipe:
    """A recipe from what was kept of it (plain JSON values).

    Raises UnreadableRecipe for one of a newer version, or with a step that cannot be.
    """
    try:
        return Recipe.model_validate(brought_forward(held))
    except ValidationError as error:
        where = " ".join(str(part) for part in error.errors()[0]["loc"])
        raise UnreadableRecipe(
            f"The recipe cannot be read at {where}: {error.errors()[0]['msg'].lower()}. Nothing of it was changed; "
            "open it with the Ulvet that made it, or bring its source in again."
        ) from error


def brought_forward(held: Held) -> Held:
    """What was kept of a recipe as this version writes it; each function of ``_FORWARD`` takes it one version on.

    Raises UnreadableRecipe for one of a newer version.
    """
    version = held.get("version", 0)
    if version > RECIPE_VERSION:
        raise UnreadableRecipe(
            f"Written by a newer Ulvet (recipes of version {version}; this one reads up to {RECIPE_VERSION}): open it "
            "with that one. Nothing of it was changed."
        )
    for forward in _FORWARD[version:]:
        held = forward(held)
    return {**held, "version": RECIPE_VERSION}


def _anchored(held: Held) -> Held:
    """Version 1: the points of a step are anchors, which carry a normal and a source."""
    steps = [
        {**step, "places": [_anchor(place) for place in step["places"]]} if "places" in step else step
        for step in held["steps"]
    ]
    return {**held, "steps": steps}


def _anchor(place: Any) -> Any:
    return {"point": place, "normal": None, "source": ""} if isinstance(place, list) else place


def _with_side_as_step(held: Held) -> Held:
    """Version 2: steps have ids, and the side that shows is a step of its own, no field of how the figure is turned."""
    steps = [{**step, "id": number} for number, step in enumerate(held["steps"], 1)]
    sides: dict[str, Any] = {}
    for step in steps:
        if step.get("kind") == "orient":
            variants = {name: dict(values) for name, values in step.get("variants", {}).items()}
            for name, own in [("", step), *variants.items()]:
                side = own.pop("show_side", None)
                if side is not None:
                    sides[name] = side
            if "variants" in step:
                step["variants"] = {name: values for name, values in variants.items() if values}
    if sides:
        said = {"kind": "show-side", "id": len(steps) + 1, "direction": next(iter(sides.values())), "on": "" in sides}
        said["variants"] = {name: {"direction": side, "on": True} for name, side in sides.items() if name}
        phases = [step_kinds()[step["kind"]].phase if step["kind"] in step_kinds() else None for step in steps]
        first = next((k for k, phase in enumerate(phases) if phase not in (None, Phase.SOURCE)), len(steps))
        steps.insert(first, said)
    return {**held, "steps": steps}


def _with_settings(held: Held) -> Held:
    """Version 3: a way to stand was sought for a setting, no printer and material."""
    return {**held, "steps": [_sought_for_setting(step) for step in held["steps"]]}


def _sought_for_setting(step: Any) -> Any:
    if step.get("kind") != "orient":
        return step
    own = {name: _sought_for_setting({**values, "kind": "orient"}) for name, values in step.get("variants", {}).items()}
    for values in own.values():
        values.pop("kind")
    found = {**step, "taken": list(map(edition_brought_forward, step["taken"]))} if "taken" in step else dict(step)
    return {**found, "variants": own} if own else found


_FORWARD: tuple[Callable[[Held], Held], ...] = (_anchored, _with_side_as_step, _with_settings)
"""What takes a recipe from the version of its place to the next."""
