"""The editions of a figure: added, changed, moved and taken out, each as a new revision."""

from ulvet.core.bench.edition import Edition
from ulvet.core.bench.editions import (
    Editions,
    NamedEdition,
    edition_of,
    with_edition,
    with_edition_added,
    with_edition_moved,
    without_edition,
)
from ulvet.core.bench.part_setups import PartSetups
from ulvet.core.recipe.in_edition import without_edition_named
from ulvet.core.recipe.runner import Recipe
from ulvet.work.refusals import NotThere
from ulvet.work.studio import Seen, Studio

__all__ = ["FIRST_EDITION", "add_edition", "change_edition", "move_edition", "remove_edition"]

FIRST_EDITION: Editions = (NamedEdition(id="e1", name="First edition"),)
"""What a figure that was just brought in has."""


def add_edition(studio: Studio, number: int, seen: Seen, name: str, made: Edition, sized_by: str = "") -> str:
    """Add an edition behind the one that is looked at; the id of the new one.

    Raises NotThere, Conflict, Refused, UnknownOnBench.
    """
    PartSetups(studio.bench.value, made)
    new: list[str] = []

    def added(recipe: Recipe, editions: Editions) -> tuple[Recipe, Editions]:
        new.append(studio.new_edition_id(number))
        one = NamedEdition(id=new[-1], name=name, sized_by=sized_by, made=made)
        return recipe, with_edition_added(editions, one, seen.edition)

    studio.change_all(number, seen, f"edition {name}", added)
    return new[-1]


def change_edition(studio: Studio, number: int, seen: Seen, changed: NamedEdition) -> None:
    """Make an edition another, under its own id.

    Raises NotThere, Conflict, Refused, UnknownOnBench.
    """
    PartSetups(studio.bench.value, changed.made)

    def other(recipe: Recipe, editions: Editions) -> tuple[Recipe, Editions]:
        _known(editions, changed.id)
        return recipe, with_edition(editions, changed)

    studio.change_all(number, seen, f"edition {changed.name} changed", other)


def move_edition(studio: Studio, number: int, seen: Seen, wanted: str, before: str | None) -> None:
    """Move an edition in front of another, or to the end.

    Raises NotThere, Conflict.
    """

    def moved(recipe: Recipe, editions: Editions) -> tuple[Recipe, Editions]:
        _known(editions, wanted)
        return recipe, with_edition_moved(editions, wanted, before)

    studio.change_all(number, seen, "editions in another order", moved)


def remove_edition(studio: Studio, number: int, seen: Seen, wanted: str) -> None:
    """Take an edition out, with the steps that hold in no other.

    Raises NotThere, Conflict, Refused for the last there is.
    """

    def removed(recipe: Recipe, editions: Editions) -> tuple[Recipe, Editions]:
        _known(editions, wanted)
        return without_edition_named(recipe, wanted), without_edition(editions, wanted)

    studio.change_all(number, seen, "edition taken out", removed)


def _known(editions: Editions, wanted: str) -> NamedEdition:
    found = edition_of(editions, wanted) if wanted else None
    if found is None:
        raise NotThere("That edition is not there any more; look at the figure again.")
    return found
