"""The editions of a figure: added, changed, moved and taken out, each as a new revision."""

import itertools

from ulvet.core.bench.bench import Bench
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
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.in_edition import without_edition_named
from ulvet.core.recipe.runner import Recipe
from ulvet.core.size.more_editions import draft_of, smallest_of
from ulvet.work.record import BuildRecord
from ulvet.work.refusals import NotThere, Refused
from ulvet.work.studio import Seen, Studio

__all__ = [
    "add_draft",
    "add_edition",
    "add_smallest",
    "change_edition",
    "first_edition",
    "move_edition",
    "remove_edition",
]


def first_edition(bench: Bench) -> Editions:
    """What a figure that was just brought in has: one edition, in the first setting that is offered.

    Raises UnknownOnBench.
    """
    return (NamedEdition(id="e1", name="First edition", made=Edition(setting=bench.setup().setting.id)),)


def add_edition(studio: Studio, number: int, seen: Seen, name: str, made: Edition, sized_by: str = "") -> str:
    """Add an edition behind the one that is looked at; the id of the new one.

    Raises NotThere, Conflict, Refused, UnknownOnBench.
    """
    PartSetups(studio.bench.value, made)
    new: list[str] = []

    def added(recipe: Recipe, editions: Editions) -> tuple[Recipe, Editions]:
        new.append(studio.new_edition_id(number))
        one = NamedEdition(id=new[-1], name=name, sized_by=sized_by, made=made)
        return recipe, with_edition_added(editions, one, seen.edition or editions[0].id)

    studio.change_all(number, seen, f"edition {name}", added)
    return new[-1]


def add_draft(studio: Studio, number: int, seen: Seen) -> str:
    """Add a draft of the edition that is looked at, smaller and coarser; its id.

    Raises NotThere, Conflict, Refused.
    """
    looked, record = _looked(studio, number, seen)
    made = draft_of(looked.made, PrintMM(record.size_mm[2]), studio.bench.value)
    return add_edition(studio, number, seen, _free(studio, number, f"{looked.name}, draft"), made)


def add_smallest(studio: Studio, number: int, seen: Seen) -> str:
    """Add the edition that is looked at in the smallest size at which it prints; its id.

    Raises NotThere, Conflict, Refused.
    """
    looked, record = _looked(studio, number, seen)
    made = smallest_of(looked.made, record.sizes)
    if made is None:
        raise Refused("At no size up to eight times this one do all its walls print: mend or thicken them first.")
    return add_edition(studio, number, seen, _free(studio, number, f"{looked.name}, smallest"), made)


def _looked(studio: Studio, number: int, seen: Seen) -> tuple[NamedEdition, BuildRecord]:
    _, head, record, _ = studio.figure(number, seen.edition)
    if record is None:
        raise Refused("The figure is still being checked: add that edition when that is done.")
    return studio.edition(head, seen.edition), record


def _free(studio: Studio, number: int, name: str) -> str:
    """A name that no edition of a figure has, made from this one."""
    taken = {one.name.casefold() for one in studio.editions(studio.figure_and_head(number)[1])}
    names = (name[:54] if count == 1 else f"{name[:54]} {count}" for count in itertools.count(1))
    return next(new for new in names if new.casefold() not in taken)


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
