"""Provenance over all pairs of shipped terms, and what it asks of a recipe."""

import io
import json
from itertools import product

import pdfplumber
import pytest
from pydantic import ValidationError

from tests.kept import build_kept
from tests.shapes import box
from ulvet.core.bench.edition import Edition
from ulvet.core.bits.steps import AddBit
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.findings.changes import after_change
from ulvet.core.mend.steps import CloseHoles
from ulvet.core.provenance.check import check_provenance
from ulvet.core.provenance.inherited import Ingredient, conflicts_between, inherited_terms
from ulvet.core.provenance.steps import Credit, Depict, Offer
from ulvet.core.provenance.terms import TERMS, Answer, Terms
from ulvet.core.recipe.changes import with_steps_added
from ulvet.core.recipe.runner import Recipe
from ulvet.core.release.checked_figure import CheckedFigure
from ulvet.core.release.package import release_files

QUESTIONS = ("share", "sell", "alter", "name_maker")
STRICT = {"share": Answer.NO, "sell": Answer.NO, "alter": Answer.NO, "name_maker": Answer.YES}


@pytest.mark.parametrize(("a", "b"), list(product(TERMS, TERMS)), ids=lambda terms: terms.id)
def test_of_any_two_terms_the_stricter_is_inherited_with_its_reason(a, b):
    both = [Ingredient(name="one", terms=a), Ingredient(name="two", terms=b)]
    whole = inherited_terms(both)
    for question in QUESTIONS:
        answers = {"one": getattr(a, question), "two": getattr(b, question)}
        because = getattr(whole, question)
        assert because.answer is (STRICT[question] if STRICT[question] in answers.values() else answers["one"])
        assert set(because.of) == {name for name, answer in answers.items() if answer is because.answer}
    clash = conflicts_between(both)
    assert bool(clash) is bool(conflicts_between(both[::-1]))
    # Whoever must pass terms on alike cannot be beside what these terms would give away, or beside another such.
    for alike, other in ((a, b), (b, a)):
        gives_away = any(
            getattr(alike, q) is Answer.YES and getattr(other, q) is Answer.NO for q in ("share", "sell", "alter")
        )
        if alike.alike and (gives_away or (other.alike and other != alike)):
            assert clash
    if not (a.alike or b.alike):
        assert not clash


def test_every_shipped_term_answers_everything_in_a_plain_line():
    assert len({terms.id for terms in TERMS}) == len(TERMS) >= 10
    for terms in TERMS:
        assert not terms.unanswered
        assert terms.line.endswith(".")


def recipe(*steps):
    mesh = box(10, 10, 10)
    first = BringIn(source=mesh.hash, name="heron.stl")
    return with_steps_added(Recipe(steps=(first,)), steps), first


def codes(asked):
    return [finding.code for finding in check_provenance(asked.steps)]


def credit(first, **said):
    return Credit(source=first.source, file=first.name, **said)


def test_a_source_nobody_spoke_for_stops_a_release_and_one_word_settles_it():
    asked, _ = recipe()
    (finding,) = check_provenance(asked.steps)
    assert finding.code == "terms-unanswered"
    assert "no legal advice" in finding.why
    settled, _ = after_change(asked, Edition(), finding.remedies[0].change)
    assert codes(settled) == []


def test_terms_written_out_stay_open_until_every_question_is_answered():
    asked, first = recipe()
    own = Terms(id="own", name="A mail from the maker", share=Answer.YES, sell=Answer.YES)
    half = with_steps_added(asked, (credit(first, own=own),))
    (finding,) = check_provenance(half.steps)
    assert finding.count == 2
    assert "may it be altered" in finding.why
    whole = own.model_copy(update={"alter": Answer.YES, "name_maker": Answer.NO})
    assert codes(with_steps_added(half, (credit(first, own=whole),))) == []


@pytest.mark.parametrize(
    ("terms", "offer", "expected"),
    [
        ("cc-by-4.0", Offer(sold=True), []),
        ("cc-by-nc-4.0", Offer(sold=True), ["terms-forbid"]),
        ("cc-by-nc-4.0", Offer(sold=False), []),
        ("cc-by-sa-4.0", Offer(sold=True), ["terms-conflict"]),
        ("cc-by-sa-4.0", Offer(sold=True, terms="cc-by-sa-4.0"), []),
        ("private-use", Offer(), ["terms-forbid"]),
    ],
)
def test_what_is_meant_is_held_against_the_terms(terms, offer, expected):
    asked, first = recipe()
    meant = with_steps_added(asked, (credit(first, terms=terms), offer))
    assert codes(meant) == expected
    for finding in check_provenance(meant.steps):
        for remedy in finding.remedies:
            settled, _ = after_change(meant, Edition(), remedy.change)
            assert codes(settled) == []


def test_what_must_not_be_altered_may_be_brought_in_and_not_mended():
    asked, first = recipe()
    kept = with_steps_added(asked, (credit(first, terms="cc-by-nd-4.0"),))
    assert codes(kept) == []
    assert codes(with_steps_added(kept, (CloseHoles(),))) == ["terms-forbid"]


def test_a_bit_brings_its_own_question_and_its_conflict():
    asked, first = recipe()
    bit = AddBit(source="b" * 64, name="Otter")
    both = with_steps_added(asked, (credit(first, terms="cc-by-nc-4.0"), bit))
    assert codes(both) == ["terms-unanswered"]
    alike = Credit(source="b" * 64, file="Otter", terms="cc-by-sa-4.0", maker="A. Maker")
    (finding,) = check_provenance(with_steps_added(both, (alike,)).steps)
    assert finding.code == "terms-conflict"
    assert "heron.stl may not be sold" in finding.why


def test_a_living_person_has_a_say_and_a_mark_has_terms():
    asked, first = recipe()
    asked = with_steps_added(asked, (credit(first, terms="own-work"),))
    person = Depict(what="person", subject="the ferry's owner", terms="own-work")
    assert codes(with_steps_added(asked, (person,))) == ["consent-missing"]
    agreed = person.model_copy(update={"consent": Answer.YES})
    assert codes(with_steps_added(asked, (person, agreed))) == []
    assert codes(with_steps_added(asked, (Depict(what="mark", subject="a brewery's swan"),))) == ["terms-unanswered"]


def test_a_release_says_where_everything_in_it_comes_from():
    asked, first = recipe()
    said = credit(first, terms="cc-by-4.0", maker="Withy <Marlow>")
    asked = with_steps_added(asked, (said, Offer(sold=True), Depict(what="original", subject="a jug", terms="mit")))
    mesh = box(10, 10, 10)
    build = build_kept(asked, Edition(), {mesh.hash: mesh}, of_studio=True)
    files = {file.name.split("_")[-1]: file.data for file in release_files(CheckedFigure.of("Heron", build))}
    sources = json.loads(files["manifest.json"])["sources"]
    assert sources[0] == "heron.stl is by Withy <Marlow>: CC BY 4.0; no proof kept."
    assert len(sources) == 3
    note = files["read-me.txt"].decode()
    with pdfplumber.open(io.BytesIO(files["sheet.pdf"])) as pdf:
        sheet = "".join(page.extract_text() for page in pdf.pages)
    for text in (note, sheet):
        assert "Withy <Marlow>" in text
        assert "To go out for money, with all rights kept" in text


@pytest.mark.parametrize(
    "said",
    [{"terms": "no-such"}, {"terms": "mit", "own": {"id": "own", "name": "x"}}, {"dated": "yesterday"},
     {"proof_file": "../../etc/passwd"}],
)  # fmt: skip
def test_terms_that_cannot_be_are_refused(said):
    with pytest.raises(ValidationError):
        Credit(source="a" * 64, **said)
