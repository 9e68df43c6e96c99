"""Variants of a figure: added, shown and taken out, each as a new revision."""

from ulvet.core.bench.edition import Edition
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.variants import with_variant, with_variant_shown, without_variant
from ulvet.work.studio import Studio

__all__ = ["add_variant", "remove_variant", "show_variant"]


def add_variant(studio: Studio, number: int, seen: int, name: str) -> None:
    """Add a variant and show it; it differs in nothing until something is changed.

    Raises NotThere, Conflict, Refused.
    """

    def added(recipe: Recipe, edition: Edition) -> tuple[Recipe, Edition]:
        return with_variant(recipe, name), edition

    studio.change_recipe(number, seen, f"variant {name}", added)


def show_variant(studio: Studio, number: int, seen: int, name: str) -> None:
    """Show another variant; "" is the figure itself.

    Raises NotThere, Conflict, Refused.
    """

    def shown(recipe: Recipe, edition: Edition) -> tuple[Recipe, Edition]:
        return with_variant_shown(recipe, name), edition

    studio.change_recipe(number, seen, f"{name} shown" if name else "the figure itself shown", shown)


def remove_variant(studio: Studio, number: int, seen: int, name: str) -> None:
    """Take a variant out, with the steps that only it has.

    Raises NotThere, Conflict, Refused.
    """

    def removed(recipe: Recipe, edition: Edition) -> tuple[Recipe, Edition]:
        return without_variant(recipe, name), edition

    studio.change_recipe(number, seen, f"variant {name} taken out", removed)
