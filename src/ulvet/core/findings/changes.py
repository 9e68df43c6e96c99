"""What a remedy makes of a recipe and its edition."""

from ulvet.core.bench.edition import Edition
from ulvet.core.findings.finding import AddSteps, Change, DecidePin, ReadSourceAs, SetEdition, SetStep
from ulvet.core.recipe.changes import IllegalOrder, with_fields, with_step_set, with_steps_added
from ulvet.core.recipe.runner import Recipe

__all__ = ["after_change"]


def after_change(recipe: Recipe, edition: Edition, change: Change) -> tuple[Recipe, Edition]:
    """Recipe and edition after a change.

    Raises IllegalOrder and pydantic's ValidationError where the recipe does not bear it.
    """
    match change:
        case AddSteps(steps=steps):
            return with_steps_added(recipe, steps), edition
        case SetStep(kind=kind, values=values, step=step):
            return with_step_set(recipe, kind, values, step), edition
        case SetEdition(edition=other):
            return recipe, other
        case ReadSourceAs(unit=unit, up=up):
            first = recipe.steps[0]
            if not {"unit", "up", "doubt"} <= type(first).model_fields.keys():
                raise IllegalOrder("The recipe does not begin with a source.")
            given = {name: value for name, value in (("unit", unit), ("up", up)) if value}
            return with_fields(recipe, first.id, {**given, "doubt": ""}), edition
        case DecidePin():
            raise IllegalOrder("That is a decision and changes nothing of the figure: there is nothing to see first.")
