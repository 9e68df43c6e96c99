"""Where things come from, as sentences of the record. They change no mesh."""

from typing import ClassVar, Literal

from pydantic import Field, field_validator, model_validator

from ulvet.core.blob_hash import BlobHash
from ulvet.core.provenance.terms import Answer, Terms, terms_named
from ulvet.core.recipe.receipt import Receipt
from ulvet.core.recipe.step import Context, Part, Phase, Sentence, Step, StepResult

__all__ = ["DEPICTED", "Credit", "Depict", "Offer"]

DEPICTED = {
    "character": "a character of somebody's",
    "mark": "a mark or logo",
    "person": "a living person",
    "original": "a measured original",
    "reference": "a close reference",
}
"""What a figure may depict that others have a say in."""


class _Statement(Step):
    phase: ClassVar[Phase] = Phase.SOURCE
    rank: ClassVar[int] = 9
    by_part: ClassVar[bool] = False
    seconds_a_triangle: ClassVar[float] = 0.0
    once: ClassVar[bool] = True

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        return StepResult(parts)


class _UnderTerms(_Statement):
    """Something with terms of its own: shipped ones by id, or written out."""

    terms: str | None = Field(default=None, max_length=40)
    own: Terms | None = None
    proof: str = Field(default="", max_length=2_000)
    """A text: a licence page's wording, a mail, an invoice number."""
    proof_link: str = Field(default="", max_length=500)
    """A link, kept as text; nothing is fetched."""
    proof_file: BlobHash | None = Field(default=None, pattern="^[0-9a-f]{64}$")
    proof_file_name: str = Field(default="", max_length=255)
    dated: str = Field(default="", max_length=10, pattern=r"^(\d{4}-\d{2}-\d{2})?$")

    @field_validator("terms")
    @classmethod
    def _known(cls, value: str | None) -> str | None:
        if value is not None and terms_named(value) is None:
            raise ValueError(f"There are no terms {value!r} in the list; write them out as own terms.")
        return value

    @model_validator(mode="after")
    def _one(self) -> "_UnderTerms":
        if self.terms is not None and self.own is not None:
            raise ValueError("Give terms of the list or own ones, not both.")
        return self

    @property
    def under(self) -> Terms:
        """Its terms; with every question unanswered where none were given."""
        shipped = terms_named(self.terms) if self.terms else None
        return shipped or self.own or Terms(id="", name="terms nobody gave yet")

    @property
    def proven(self) -> str:
        kinds = [("a text", self.proof), ("a link", self.proof_link), ("a file", self.proof_file)]
        held = [name for name, value in kinds if value]
        return f"; proof: {', '.join(held)}" if held else "; no proof kept"


class Credit(_UnderTerms):
    """Who made a source, under which terms it came, and the proof of it."""

    kind: Literal["credit"] = "credit"
    source: str = Field(max_length=64)
    """Hash of the source's mesh."""
    file: str = Field(default="", max_length=255)
    maker: str = Field(default="", max_length=120)

    def replaces(self, other: Step) -> bool:
        return isinstance(other, Credit) and other.source == self.source

    def sentence(self, receipt: Receipt) -> Sentence:
        what = self.file or "The source"
        if self.terms == "own-work":
            return (f"{what} is your own work.",)
        when = f", {self.dated}" if self.dated else ""
        return (f"{what} is by {self.maker or 'somebody not named'}: {self.under.name}{when}{self.proven}.",)


class Depict(_UnderTerms):
    """What a figure shows that others have a say in, and what they allow."""

    kind: Literal["depict"] = "depict"
    what: Literal["character", "mark", "person", "original", "reference"]
    subject: str = Field(min_length=1, max_length=120)
    consent: Answer = Answer.UNANSWERED
    """Of a living person."""

    def replaces(self, other: Step) -> bool:
        return isinstance(other, Depict) and (other.what, other.subject) == (self.what, self.subject)

    def sentence(self, receipt: Receipt) -> Sentence:
        agreed = {Answer.YES: "who consents", Answer.NO: "who does not consent"}.get(self.consent, "consent not known")
        consent = f", {agreed}" if self.what == "person" else ""
        return (f"Depicts {DEPICTED[self.what]}, {self.subject}{consent}: {self.under.name}{self.proven}.",)


class Offer(_Statement):
    """How the figure is meant to go out: for money or not, under which terms."""

    kind: Literal["offer"] = "offer"
    sold: bool = False
    terms: str | None = Field(default=None, max_length=40)
    """Shipped terms by id; None is closed, with all rights kept."""

    @field_validator("terms")
    @classmethod
    def _known(cls, value: str | None) -> str | None:
        if value is not None and terms_named(value) is None:
            raise ValueError(f"There are no terms {value!r} in the list.")
        return value

    def sentence(self, receipt: Receipt) -> Sentence:
        named = terms_named(self.terms) if self.terms else None
        under = f"under {named.name}" if named else "with all rights kept"
        return (f"To go out {'for money' if self.sold else 'free of charge'}, {under}.",)
