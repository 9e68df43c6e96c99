"""Questions without an answer, terms that forbid what is meant, and terms at odds with each other."""

from collections.abc import Sequence

from ulvet.core.bits.steps import AddBit
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.findings.finding import AddSteps, Cost, Finding, Remedy, Severity
from ulvet.core.provenance.inherited import Ingredient, conflicts_between, inherited_terms
from ulvet.core.provenance.steps import DEPICTED, Credit, Depict, Offer
from ulvet.core.provenance.terms import NO_ADVICE, Answer, Terms
from ulvet.core.recipe.step import Phase, Step, plural
from ulvet.core.stamp.steps import Stamp
from ulvet.core.stations import Station

__all__ = ["BLOCKING", "check_provenance", "ingredients_of"]

BLOCKING = frozenset({"terms-unanswered", "terms-forbid", "terms-conflict", "consent-missing"})
"""Findings that stop a release outright."""


def ingredients_of(steps: Sequence[Step]) -> list[Ingredient]:
    """Everything in a recipe that has terms: its sources, with none given where no sentence says so, and what it
    depicts."""
    credited = {step.source: step for step in steps if isinstance(step, Credit) and step.on}
    found = []
    for step in steps:
        if source := _source_of(step):
            credit = credited.get(source[0])
            found.append(Ingredient(name=source[1], terms=credit.under if credit else Credit(source="").under))
        elif isinstance(step, Depict) and step.on:
            found.append(Ingredient(name=f"{DEPICTED[step.what]}, {step.subject}", terms=step.under))
    return found


def _source_of(step: Step) -> tuple[str, str] | None:
    """Hash and name of what a step takes from outside: a file, a bit, the picture of a stamp."""
    if not step.on:
        return None
    if isinstance(step, BringIn | AddBit):
        return step.source, step.name
    if isinstance(step, Stamp) and step.picture is not None:
        return step.picture, step.name
    return None


def check_provenance(steps: Sequence[Step]) -> list[Finding]:
    """``terms-unanswered``, ``terms-forbid``, ``terms-conflict`` and ``consent-missing``. They stop a release, not the
    work."""
    ingredients = ingredients_of(steps)
    found = [_unanswered(one, steps) for one in ingredients if one.terms.unanswered]
    found += [_conflict(one.first, one.second, one.why) for one in conflicts_between(ingredients)]
    found += _forbidden(ingredients, steps)
    for step in steps:
        if isinstance(step, Depict) and step.on and step.what == "person" and step.consent is not Answer.YES:
            found.append(_no_consent(step))
    return found


def _unanswered(one: Ingredient, steps: Sequence[Step]) -> Finding:
    open_questions = one.terms.unanswered
    source = next((source for step in steps if (source := _source_of(step)) and source[1] == one.name), None)
    remedies = []
    if source and not one.terms.id:
        remedies = [
            Remedy(
                label="It is all my own work",
                change=AddSteps(steps=(Credit(source=source[0], file=source[1], terms="own-work"),)),
                cost=Cost(says="say so only if nothing of anybody else's is in it"),
            )
        ]
    return _finding(
        f"Whose is {one.name}?" if not one.terms.id else f"{one.name}: {plural(len(open_questions), 'question')} open",
        len(open_questions),
        f"Not known of {one.name}: {', '.join(open_questions)}. You can go on working; a release waits for the "
        f"answers, which belong under where it came from. {NO_ADVICE}",
        remedies,
        code="terms-unanswered",
    )


def _conflict(first: str, second: str, why: str) -> Finding:
    return _finding(
        f"{first} and {second} cannot go out together",
        2,
        f"{why} Leave one of them out, take one under other terms, or ask its maker. {NO_ADVICE}",
        [],
        code="terms-conflict",
    )


def _forbidden(ingredients: Sequence[Ingredient], steps: Sequence[Step]) -> list[Finding]:
    inherited = inherited_terms(ingredients)
    offer = next((step for step in steps if isinstance(step, Offer) and step.on), None)
    altered = (
        any(step.phase is Phase.SHAPE and step.on for step in steps)
        or len([step for step in steps if _source_of(step)]) > 1
    )
    found = []
    if inherited.share.answer is Answer.NO:
        found.append(_forbids("passed on", inherited.share.of, "Keep it for yourself, or ask.", []))
    if offer and offer.sold and inherited.sell.answer is Answer.NO:
        free = Remedy(label="Let it go out free of charge", change=_offering(offer, sold=False))
        found.append(_forbids("sold", inherited.sell.of, "It is meant to go out for money.", [free]))
    if altered and inherited.alter.answer is Answer.NO:
        found.append(_forbids("altered", inherited.alter.of, "This record alters it.", []))
    if offer:
        kept = {terms.id: (name, terms) for name, terms in inherited.alike if terms.id != offer.terms}
        found += [_alike(name, terms, offer) for name, terms in kept.values()]
    return found


def _forbids(act: str, of: Sequence[str], because: str, remedies: list[Remedy]) -> Finding:
    names = ", ".join(of)
    return _finding(
        f"{names}: not to be {act}",
        len(of),
        f"The terms of {names} do not let it be {act}, and the whole inherits that. {because} {NO_ADVICE}",
        remedies,
        code="terms-forbid",
    )


def _alike(name: str, terms: Terms, offer: Offer) -> Finding:
    return _finding(
        f"{name} has to go out under {terms.name}",
        1,
        f"Whatever is made of {name} may go out under {terms.name} only, and it is meant to go out "
        f"{'under other terms' if offer.terms else 'with all rights kept'}. {NO_ADVICE}",
        [Remedy(label=f"Let it go out under {terms.name}", change=_offering(offer, terms=terms.id))],
        code="terms-conflict",
    )


def _no_consent(step: Depict) -> Finding:
    refused = step.consent is Answer.NO
    return _finding(
        f"{step.subject} {'does not consent' if refused else 'was not asked'}",
        1,
        f"{step.subject} is a living person, and in most places has a say in their likeness. "
        f"{'They said no.' if refused else 'Ask, and keep their answer as proof.'} {NO_ADVICE}",
        [],
        code="consent-missing",
    )


def _offering(offer: Offer, **changed: object) -> AddSteps:
    return AddSteps(steps=(offer.model_copy(update=changed),))


def _finding(title: str, count: int, why: str, remedies: list[Remedy], code: str) -> Finding:
    return Finding(
        code=code,
        station=Station.BRING_IN,
        severity=Severity.STOP,
        part="figure",
        title=title,
        measured=float(count),
        limit=0.0,
        unit="",
        count=count,
        where=None,
        why=why,
        remedies=tuple(remedies),
    )
