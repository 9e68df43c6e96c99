"""Variants of a figure: added, shown in an edition and taken out, each as a new revision."""

from ulvet.core.bench.editions import Editions, edition_of, with_edition
from ulvet.core.recipe.changes import IllegalOrder
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.variants import with_variant, without_variant
from ulvet.work.refusals import NotThere
from ulvet.work.studio import Seen, Studio

__all__ = ["add_variant", "remove_variant", "show_variant"]


def add_variant(studio: Studio, number: int, seen: Seen, name: str) -> None:
    """Add a variant and make the edition that is looked at of it; it differs in nothing until something is changed.

    Raises NotThere, Conflict, Refused.
    """

    def added(recipe: Recipe, editions: Editions) -> tuple[Recipe, Editions]:
        return with_variant(recipe, name).in_variant(""), _with_shown(editions, seen.edition, name)

    studio.change_all(number, seen, f"variant {name}", added)


def show_variant(studio: Studio, number: int, seen: Seen, name: str) -> None:
    """Make the edition that is looked at of another variant; "" is the figure itself.

    Raises NotThere, Conflict, Refused.
    """

    def shown(recipe: Recipe, editions: Editions) -> tuple[Recipe, Editions]:
        if name and name not in recipe.variants:
            raise IllegalOrder(f"There is no variant called {name}; look at the figure again.")
        return recipe, _with_shown(editions, seen.edition, name)

    studio.change_all(number, seen, f"{name} shown" if name else "the figure itself shown", shown)


def remove_variant(studio: Studio, number: int, seen: Seen, name: str) -> None:
    """Take a variant out, with the steps that only it has; editions of it are of the figure itself then.

    Raises NotThere, Conflict, Refused.
    """

    def removed(recipe: Recipe, editions: Editions) -> tuple[Recipe, Editions]:
        for one in editions:
            if one.made.variant == name:
                editions = _with_shown(editions, one.id, "")
        return without_variant(recipe, name), editions

    studio.change_all(number, seen, f"variant {name} taken out", removed)


def _with_shown(editions: Editions, wanted: str, variant: str) -> Editions:
    looked = edition_of(editions, wanted)
    if looked is None:
        raise NotThere("That edition is not there any more; look at the figure again.")
    made = looked.made.model_copy(update={"variant": variant})
    return with_edition(editions, looked.model_copy(update={"made": made}))
