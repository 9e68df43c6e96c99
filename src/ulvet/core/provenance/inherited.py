"""What a figure inherits from everything in it: the strictest of each answer, with the reason."""

from collections.abc import Sequence
from itertools import combinations

from pydantic import BaseModel, ConfigDict

from ulvet.core.provenance.terms import Answer, Terms

__all__ = ["Conflict", "Ingredient", "Inherited", "TermReason", "conflicts_between", "inherited_terms"]


class Ingredient(BaseModel):
    """One thing in a figure, or one it depicts, by the name it is spoken of, with its terms."""

    model_config = ConfigDict(frozen=True)

    name: str
    terms: Terms


class TermReason(BaseModel):
    """An answer for the whole, and the ingredients that make it so."""

    model_config = ConfigDict(frozen=True)

    answer: Answer
    of: tuple[str, ...]


class Inherited(BaseModel):
    """What may be done with the whole; ``alike`` are the terms it has to go out under, if any, by ingredient."""

    model_config = ConfigDict(frozen=True)

    share: TermReason
    sell: TermReason
    alter: TermReason
    name_maker: TermReason
    alike: tuple[tuple[str, Terms], ...] = ()


class Conflict(BaseModel):
    """Two ingredients whose terms no release can keep both."""

    model_config = ConfigDict(frozen=True)

    first: str
    second: str
    why: str


def inherited_terms(ingredients: Sequence[Ingredient]) -> Inherited:
    """The strictest of every answer: a no over an open question over a yes; for naming a yes first. What no ingredient
    says is open."""
    return Inherited(
        share=_strictest(ingredients, "share", Answer.NO),
        sell=_strictest(ingredients, "sell", Answer.NO),
        alter=_strictest(ingredients, "alter", Answer.NO),
        name_maker=_strictest(ingredients, "name_maker", Answer.YES),
        alike=tuple((one.name, one.terms) for one in ingredients if one.terms.alike),
    )


def conflicts_between(ingredients: Sequence[Ingredient]) -> list[Conflict]:
    """Pairs that cannot be kept both: terms that must be passed on alike, beside others that forbid what these allow,
    or beside other terms that must be passed on alike as well."""
    found = []
    for a, b in combinations(ingredients, 2):
        if why := _at_odds(a, b) or _at_odds(b, a):
            found.append(Conflict(first=a.name, second=b.name, why=why))
    return found


def _at_odds(alike: Ingredient, other: Ingredient) -> str:
    """Why the first, if it has to be passed on alike, cannot be kept beside the second; empty where it can."""
    if not alike.terms.alike:
        return ""
    if other.terms.alike and other.terms != alike.terms:
        return (
            f"{alike.name} may go on only under {alike.terms.name}, {other.name} only under {other.terms.name}: "
            "the whole cannot go out under both."
        )
    for field, act in (("share", "shared"), ("sell", "sold"), ("alter", "altered")):
        if getattr(alike.terms, field) is Answer.YES and getattr(other.terms, field) is Answer.NO:
            return (
                f"{alike.name} may go on only under {alike.terms.name}, which lets everybody have it {act}; "
                f"{other.name} may not be {act}."
            )
    return ""


def _strictest(ingredients: Sequence[Ingredient], field: str, strict: Answer) -> TermReason:
    mild = Answer.YES if strict is Answer.NO else Answer.NO
    for answer in (strict, Answer.UNANSWERED, mild):
        of = tuple(one.name for one in ingredients if getattr(one.terms, field) is answer)
        if of:
            return TermReason(answer=answer, of=of)
    return TermReason(answer=Answer.UNANSWERED, of=())
