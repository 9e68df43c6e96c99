"""The editions of a figure: what it is made for, several side by side."""

from collections.abc import Sequence
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

from ulvet.core.bench.edition import Edition

__all__ = [
    "EDITION_ID",
    "EditionName",
    "Editions",
    "IllegalEdition",
    "NamedEdition",
    "edition_of",
    "unlike",
    "with_edition",
    "with_edition_added",
    "with_edition_moved",
    "without_edition",
]

_MOST = 60
"""Editions of a figure (bench default: a page lists them)."""
EDITION_ID = r"^[a-z0-9]{1,20}$"
"""Form of the id of an edition."""
EditionName = Annotated[str, StringConstraints(min_length=1, max_length=60, strip_whitespace=True)]


class IllegalEdition(ValueError):
    """A change that would leave the editions of a figure unusable; its text is for the user."""


class NamedEdition(BaseModel):
    """An edition of a figure under an id that stays, whatever it is called."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: str = Field(pattern=EDITION_ID)
    name: EditionName
    sized_by: str = Field(default="", max_length=120)
    """Which length was meant when its size was set; empty for the overall height."""
    made: Edition = Edition()
    """What is made. Neither id nor name decide anything of that."""


Editions = tuple[NamedEdition, ...]


def edition_of(editions: Sequence[NamedEdition], wanted: str) -> NamedEdition | None:
    """The edition with an id, the first for an empty one; None where it is not there."""
    if not wanted:
        return editions[0]
    return next((one for one in editions if one.id == wanted), None)


def unlike(edition: Edition, other: Edition) -> tuple[str, ...]:
    """What of an edition is not as in another: size, setting, parts, variant, form, use, sanding."""
    said = {
        "size": (edition.height, edition.factor) != (other.height, other.factor),
        "setting": edition.setting != other.setting,
        "parts": edition.part_settings != other.part_settings,
        "variant": edition.variant != other.variant,
        "form": edition.form != other.form,
        "use": edition.use != other.use,
        "sanding": edition.sanding != other.sanding,
    }
    return tuple(word for word, differs in said.items() if differs)


def with_edition_added(editions: Editions, added: NamedEdition, after: str = "") -> Editions:
    """The editions with one more, behind the one with the id ``after`` or at the end.

    Raises IllegalEdition where there is one of that name, or too many.
    """
    if len(editions) >= _MOST:
        raise IllegalEdition(f"A figure has at most {_MOST} editions: take one out before you add another.")
    _refuse_taken(editions, added)
    place = next((k + 1 for k, one in enumerate(editions) if one.id == after), len(editions))
    return (*editions[:place], added, *editions[place:])


def with_edition(editions: Editions, changed: NamedEdition) -> Editions:
    """The editions with one of them changed, which is known by its id.

    Raises IllegalEdition where another has that name.
    """
    _refuse_taken(editions, changed)
    return tuple(changed if one.id == changed.id else one for one in editions)


def with_edition_moved(editions: Editions, wanted: str, before: str | None) -> Editions:
    """The editions with one of them in front of another, or at the end."""
    moved = [one for one in editions if one.id == wanted]
    others = [one for one in editions if one.id != wanted]
    place = next((k for k, one in enumerate(others) if one.id == before), len(others))
    return (*others[:place], *moved, *others[place:])


def without_edition(editions: Editions, wanted: str) -> Editions:
    """The editions without one.

    Raises IllegalEdition for the last there is.
    """
    left = tuple(one for one in editions if one.id != wanted)
    if not left:
        raise IllegalEdition("A figure has at least one edition: add another before you take this one out.")
    return left


def _refuse_taken(editions: Editions, named: NamedEdition) -> None:
    if any(one.name.casefold() == named.name.casefold() and one.id != named.id for one in editions):
        raise IllegalEdition(f"There is an edition called {named.name} already: give this one another name.")
