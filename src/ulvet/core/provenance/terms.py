"""Terms under which things come: four answers, and whether what is made of them has to go out alike."""

import json
from enum import StrEnum
from importlib.resources import files

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

__all__ = ["NO_ADVICE", "TERMS", "Answer", "Terms", "terms_named"]

NO_ADVICE = (
    "Ulvet explains and records what you tell it; it is no legal advice. Terms are written out where they come "
    "from, and what they mean where you live, a licensed person can say."
)


class Answer(StrEnum):
    """What is known of a question."""

    YES = "yes"
    NO = "no"
    UNANSWERED = "unanswered"


class Terms(BaseModel):
    """What one may do: share the file or what is made of it, sell it, alter it; whether its maker must be named; and
    ``alike``, whether what is made of it may go out under these same terms only."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: str = Field(max_length=40)
    name: str = Field(min_length=1, max_length=80)
    share: Answer = Answer.UNANSWERED
    sell: Answer = Answer.UNANSWERED
    alter: Answer = Answer.UNANSWERED
    name_maker: Answer = Answer.UNANSWERED
    alike: bool = False
    line: str = Field(default="", max_length=400)

    @property
    def unanswered(self) -> tuple[str, ...]:
        """The questions without an answer, as they are asked."""
        asked = {
            "may it be shared": self.share,
            "may it be sold": self.sell,
            "may it be altered": self.alter,
            "must its maker be named": self.name_maker,
        }
        return tuple(question for question, answer in asked.items() if answer is Answer.UNANSWERED)


def _shipped() -> tuple[Terms, ...]:
    text = (files("ulvet.core.provenance") / "terms.json").read_text("utf-8")
    return tuple(TypeAdapter(list[Terms]).validate_python(json.loads(text)))


TERMS = _shipped()
"""Common terms, shipped as data: their usual reading in a line, not their text."""


def terms_named(terms_id: str) -> Terms | None:
    """The shipped terms with this id, or None."""
    return next((terms for terms in TERMS if terms.id == terms_id), None)
