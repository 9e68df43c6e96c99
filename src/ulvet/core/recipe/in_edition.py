"""The recipe as one edition follows it: its variant, without the steps that its form or its id leave out."""

from ulvet.core.bench.edition import Edition
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.step import Step

__all__ = ["in_edition", "left_out", "with_new_steps_in", "without_edition_named"]


def in_edition(recipe: Recipe, edition: Edition, named: str) -> Recipe:
    """The recipe of an edition by itself: as many steps, in the same order; those that it leaves out are switched off.
    A variant that is not there any more is the figure itself."""
    made = recipe.as_made(edition.variant if edition.variant in recipe.variants else "")
    steps = (_as_followed(step, edition, named) for step in made.steps)
    return Recipe(counted=recipe.counted, steps=tuple(steps))


def left_out(step: Step, edition: Edition, named: str) -> str:
    """Why an edition leaves a step out, in words; empty where it follows it."""
    if step.editions and named not in step.editions:
        return "for other editions"
    if step.makes_hollow and not edition.form.hollow:
        return "this edition is solid"
    if step.makes_parts and not edition.form.parted:
        return "this edition is whole"
    return "this edition is without pockets" if step.makes_pockets and not edition.form.pockets else ""


def _as_followed(step: Step, edition: Edition, named: str) -> Step:
    # What a step does is the same in whichever editions it holds.
    on = step.on and not left_out(step, edition, named)
    return step.model_copy(update={"on": on, "editions": ()})


def with_new_steps_in(before: Recipe, after: Recipe, named: str, only_here: bool) -> Recipe:
    """A recipe after a change made in an edition: steps that are new hold there alone where that was asked, or where
    their kind does."""
    known = {step.id for step in before.steps}
    return after.with_steps(
        step.model_copy(update={"editions": (named,)})
        if step.id not in known and not step.editions and (only_here or step.names_editions)
        else step
        for step in after.steps
    )


def without_edition_named(recipe: Recipe, named: str) -> Recipe:
    """The recipe without what holds in one edition alone."""
    kept = (step for step in recipe.steps if step.editions != (named,))
    return recipe.with_steps(
        step.model_copy(update={"editions": tuple(one for one in step.editions if one != named)}) for step in kept
    )
