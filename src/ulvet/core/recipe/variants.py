"""Variants of a figure: one recipe, of which a variant takes other sources, or sets, adds or leaves out steps."""

from typing import Any

from ulvet.core.recipe.changes import IllegalOrder
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.step import Step
from ulvet.core.recipe.union import step_in

__all__ = ["differing", "with_change", "with_variant", "without_variant"]


def with_variant(recipe: Recipe, name: str) -> Recipe:
    """The recipe with another variant, which is shown and differs in nothing yet.

    Raises IllegalOrder where there is one of that name, pydantic's ValidationError where there are too many.
    """
    if name in recipe.variants:
        raise IllegalOrder(f"There is a variant called {name} already: show it, or choose another name.")
    return Recipe(counted=recipe.counted, steps=recipe.steps, variants=(*recipe.variants, name), variant=name)


def without_variant(recipe: Recipe, name: str) -> Recipe:
    """The recipe without a variant and what only it has; the figure itself is shown where it was.

    Raises IllegalOrder where there is none of that name.
    """
    if name not in recipe.variants:
        raise IllegalOrder(f"There is no variant called {name}; look at the figure again.")
    kept = []
    for step in recipe.steps:
        others = {other: values for other, values in step.variants.items() if other != name}
        if step.on or others or step.variants.get(name, {}).get("on") is not True:
            kept.append(step.model_copy(update={"variants": others}))
    return Recipe(
        counted=recipe.counted,
        steps=tuple(kept),
        variants=tuple(other for other in recipe.variants if other != name),
        variant="" if recipe.variant == name else recipe.variant,
    )


def differing(recipe: Recipe) -> tuple[int, ...]:
    """Ids of the steps in which the variant that is shown differs from the figure itself."""
    return tuple(step.id for step in recipe.steps if recipe.variant in step.variants)


def with_change(recipe: Recipe, changed: Recipe) -> Recipe:
    """The recipe after a change to what is shown of it; ``changed`` is what became of ``recipe.made``.

    A change to the figure itself holds for every variant that does not say otherwise; a change to a variant is of that
    variant alone. The order of the steps is that of all.
    """
    before = {step.id: step for step in recipe.steps}
    shown = {step.id: step for step in recipe.made.steps}
    after = [
        _changed(recipe.variant, before[step.id], shown[step.id], step)
        if step.id in before
        else _added(recipe.variant, step)
        for step in changed.steps
    ]
    there = {step.id for step in changed.steps}
    for place, step in enumerate(recipe.steps):
        # Without it in a variant is switched off there; the figure itself, and the other variants, keep it.
        kept = recipe.variant and (step.on or step.variants.keys() - {recipe.variant})
        if step.id not in there and kept:
            after.insert(min(place, len(after)), _said(step, recipe.variant, {"on": False}))
    return Recipe(counted=changed.counted, steps=tuple(after), variants=recipe.variants, variant=recipe.variant)


def _added(variant: str, step: Step) -> Step:
    return step if not variant else step.model_copy(update={"on": False, "variants": {variant: {"on": step.on}}})


def _changed(variant: str, before: Step, shown: Step, step: Step) -> Step:
    """What a step becomes where what is shown of it became ``step``."""
    if step == shown:
        return before
    if variant:
        return _said(before, variant, _beside(before, step))
    variants = before.variants
    if step.kind != before.kind:
        # What differs in single fields of another kind of step is kept whole.
        variants = {name: step_in(before, name).model_dump(mode="json", exclude={"id"}) for name in variants}
    return step.model_copy(update={"variants": variants})


def _beside(before: Step, step: Step) -> dict[str, Any]:
    """The fields in which a step differs from another; all of them where it is of another kind."""
    values: dict[str, Any] = step.model_dump(mode="json", exclude={"id"})
    if step.kind != before.kind:
        return values
    known = before.model_dump(mode="json")
    return {name: value for name, value in values.items() if name != "kind" and value != known[name]}


def _said(step: Step, variant: str, values: dict[str, Any]) -> Step:
    others = {name: said for name, said in step.variants.items() if name != variant}
    return step.model_copy(update={"variants": {**others, variant: values} if values else others})
