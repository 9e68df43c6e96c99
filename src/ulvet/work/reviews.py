"""What others said of a figure's versions."""

from datetime import UTC, datetime

from pydantic import BaseModel, TypeAdapter

from ulvet.core.findings.finding import Severity
from ulvet.core.proof.review import Review, UnusableReview, read_review, review_page
from ulvet.core.release.names import safe_name
from ulvet.store.models import StudioValue
from ulvet.work.display import display_from
from ulvet.work.refusals import Refused
from ulvet.work.studio import Studio
from ulvet.work.versions import versions_of

__all__ = ["KeptReview", "forget_review", "keep_review", "page_for_review", "reviews_of"]

_MOST = 200
"""Reviews that are kept of a figure (bench default)."""
_MOST_KNOWN = 30
"""Findings that are told on the page (bench default)."""


class KeptReview(BaseModel):
    """A review, when it came, and which version it is of, None for what was no version."""

    came: datetime
    version: int | None
    review: Review


_REVIEWS: TypeAdapter[list[KeptReview]] = TypeAdapter(list[KeptReview])


def page_for_review(studio: Studio, number: int, edition: str = "") -> tuple[str, bytes]:
    """The page on which somebody else looks at a figure as it is, and its file's name.

    Raises NotThere, Refused.
    """
    figure, head, record, _ = studio.figure(number, edition)
    if record is None:
        raise Refused(f"{figure.name} is still being checked: ask for a second pair of eyes when that is done.")
    looked = studio.edition(head, edition)
    parts = [(part.facts.part, display_from(studio.blobs.read(part.display))[0]) for part in record.parts]
    if not parts:
        raise Refused("Nothing is left of the figure: there is nothing to look at.")
    version = _version_of(studio, number, looked.id, record.key)
    which = f"version {version}" if version else f"revision {head.number}"
    size = " x ".join(f"{side:.1f}" for side in record.size_mm)
    known = [finding.title for finding in record.findings if finding.severity is not Severity.NOTE][:_MOST_KNOWN]
    name = safe_name(figure.name)
    data = review_page(
        figure.name, f"{which}, {looked.name}, {size} mm", record.key, parts, known, f"{name}_answer.json"
    )
    return f"{name}_to-review.html", data


def reviews_of(studio: Studio, number: int) -> list[KeptReview]:
    """What others said of a figure, the newest first.

    Raises NotThere.
    """
    studio.figure_and_head(number)
    with studio.sessions() as session:
        held = session.get(StudioValue, _name(number))
    return [] if held is None else _REVIEWS.validate_python(held.value)


def keep_review(studio: Studio, number: int, data: bytes, edition: str = "") -> None:
    """Keep an answer that came back.

    Raises NotThere, and Refused for what is none, was changed, or is of no version of this figure.
    """
    try:
        review = read_review(data)
    except UnusableReview as error:
        raise Refused(str(error)) from error
    _, head, record, _ = studio.figure(number, edition)
    version = _version_of(studio, number, studio.edition(head, edition).id, review.build)
    if version is None and (record is None or record.key != review.build):
        raise Refused(
            "This answer is of another figure, or of a state of this one that is gone: freeze a version before you "
            "ask; nothing was kept."
        )
    kept = reviews_of(studio, number)
    if any(one.review == review for one in kept):
        raise Refused("This answer is kept already.")
    _set(studio, number, [KeptReview(came=datetime.now(UTC), version=version, review=review), *kept][:_MOST])


def forget_review(studio: Studio, number: int, place: int) -> None:
    """Forget a review, by its place in the list.

    Raises NotThere, Refused.
    """
    kept = reviews_of(studio, number)
    if not 0 <= place < len(kept):
        raise Refused("That review is not there any more: look at the list again.")
    _set(studio, number, kept[:place] + kept[place + 1 :])


def _set(studio: Studio, number: int, kept: list[KeptReview]) -> None:
    with studio.sessions.begin() as session:
        session.merge(StudioValue(name=_name(number), value=_REVIEWS.dump_python(kept, mode="json")))


def _version_of(studio: Studio, number: int, edition: str, build: str) -> int | None:
    for version, record in versions_of(studio, number, edition):
        if record is not None and record.key == build:
            return version.number
    return None


def _name(number: int) -> str:
    return f"reviews-{number}"
