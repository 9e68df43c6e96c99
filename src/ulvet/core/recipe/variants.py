"""Variants of a figure: one recipe, of which a variant takes other sources, or sets, adds or leaves out steps."""

from typing import Any

from ulvet.core.recipe.changing import IllegalOrder
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.step import Step
from ulvet.core.recipe.union import step_in

__all__ = ["differing", "with_change", "with_variant", "with_variant_shown", "without_variant"]


def with_variant(recipe: Recipe, name: str) -> Recipe:
    """The recipe with another variant, which is shown and differs in nothing yet.

    Raises IllegalOrder where there is one of that name, pydantic's ValidationError where there are too many.
    """
    if name in recipe.variants:
        raise IllegalOrder(f"There is a variant called {name} already: show it, or choose another name.")
    return Recipe(steps=recipe.steps, variants=(*recipe.variants, name), variant=name)


def with_variant_shown(recipe: Recipe, name: str) -> Recipe:
    """The recipe with another of its variants shown; "" is the figure itself.

    Raises IllegalOrder where there is none of that name.
    """
    if name and name not in recipe.variants:
        raise IllegalOrder(f"There is no variant called {name}; look at the figure again.")
    return recipe.model_copy(update={"variant": name})


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
        steps=tuple(kept),
        variants=tuple(other for other in recipe.variants if other != name),
        variant="" if recipe.variant == name else recipe.variant,
    )


def differing(recipe: Recipe) -> tuple[int, ...]:
    """Places of the steps in which the variant that is shown differs from the figure itself."""
    return tuple(k for k, step in enumerate(recipe.steps) if recipe.variant in step.variants)


def with_change(recipe: Recipe, seen: Recipe, changed: Recipe) -> Recipe:
    """The recipe after a change to what is shown of it: ``seen`` is ``recipe.made``, ``changed`` what became of it.

    A change to the figure itself holds for every variant that does not say otherwise; a change to a variant is of that
    variant alone. The order of the steps is that of all.
    """
    place = {id(step): k for k, step in enumerate(seen.steps)}
    fresh = [step for step in changed.steps if id(step) not in place]
    there = {id(step) for step in changed.steps}
    free = [k for k, step in enumerate(seen.steps) if id(step) not in there]
    became: dict[int, int] = {}
    for step in fresh:
        # What took the place of a step is of its kind, or the only thing that changed.
        alike = [k for k in free if seen.steps[k].kind == step.kind] or (free if len(fresh) == len(free) else [])
        if alike:
            became[id(step)] = alike[0]
            free.remove(alike[0])
    after = []
    for step in changed.steps:
        k = place.get(id(step), became.get(id(step)))
        after.append(_added(recipe.variant, step) if k is None else _changed(recipe, k, step, id(step) not in place))
    for k in free:
        # Without it in a variant is switched off there; the figure itself, and the other variants, keep it.
        if recipe.variant and (recipe.steps[k].on or recipe.steps[k].variants.keys() - {recipe.variant}):
            after.insert(min(k, len(after)), _said(recipe.steps[k], recipe.variant, {"on": False}))
    return Recipe(steps=tuple(after), variants=recipe.variants, variant=recipe.variant)


def _added(variant: str, step: Step) -> Step:
    return step if not variant else step.model_copy(update={"on": False, "variants": {variant: {"on": step.on}}})


def _changed(recipe: Recipe, k: int, step: Step, anew: bool) -> Step:
    """What the step at ``k`` becomes where what is shown of it became ``step``."""
    before = recipe.steps[k]
    if not anew:
        return before
    if recipe.variant:
        return _said(before, recipe.variant, _beside(before, step))
    variants = before.variants
    if step.kind != before.kind:
        # What differs in single fields of another kind of step is kept whole.
        variants = {name: step_in(before, name).model_dump(mode="json") for name in variants}
    return step.model_copy(update={"variants": variants})


def _beside(before: Step, step: Step) -> dict[str, Any]:
    """The fields in which a step differs from another; all of them where it is of another kind."""
    values: dict[str, Any] = step.model_dump(mode="json")
    if step.kind != before.kind:
        return values
    known = before.model_dump(mode="json")
    return {name: value for name, value in values.items() if name != "kind" and value != known[name]}


def _said(step: Step, variant: str, values: dict[str, Any]) -> Step:
    others = {name: said for name, said in step.variants.items() if name != variant}
    return step.model_copy(update={"variants": {**others, variant: values} if values else others})
