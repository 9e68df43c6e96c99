"""Remedies of findings: made, or tried first."""

from ulvet.core.findings.changes import after_change
from ulvet.core.findings.finding import AddSteps, DecidePin, Remedy
from ulvet.work.proofing import decide, redesigned
from ulvet.work.record import BuildRecord
from ulvet.work.refusals import NotThere
from ulvet.work.studio import Seen, Studio
from ulvet.work.supervisor import Job
from ulvet.work.trials import record_at, try_change

__all__ = ["apply", "preview", "remedy_of"]


def apply(studio: Studio, number: int, seen: Seen, remedy: Remedy, only_here: bool = False) -> None:
    """Make the change that a remedy stands for, as a new revision, its steps hold ``only_here`` or in all editions; or
    what it decides about a proof.

    Raises NotThere, Conflict, Refused.
    """
    if isinstance(remedy.change, DecidePin):
        decide(studio, remedy.change)
        return
    because = f", because of proof {remedy.because.proof}" if remedy.because else ""
    says = f"{remedy.label}{because}"
    studio.change(number, seen, says, lambda recipe, made: after_change(recipe, made, remedy.change), only_here)
    if remedy.because:
        redesigned(studio, remedy.because, studio.figure_and_head(number)[1].number)


def preview(studio: Studio, key: str, finding: int, remedy: int, number: int, place: int = 0, edition: str = "") -> Job:
    """The job that makes the parts as they would be after a remedy in an edition.

    Raises NotThere, Refused.
    """
    change = remedy_of(record_at(studio, number, key, edition), finding, remedy, place).change
    kind = change.steps[-1].kind if isinstance(change, AddSteps) else ""
    return try_change(studio, number, key, lambda recipe, made: after_change(recipe, made, change), kind, edition)


def remedy_of(record: BuildRecord, finding: int, remedy: int, place: int = 0) -> Remedy:
    """One remedy of one finding of a build, where it is for one place only for the one that is looked at.

    Raises NotThere.
    """
    if 0 <= finding < len(record.findings) and 0 <= remedy < len(record.findings[finding].remedies):
        found = record.findings[finding]
        offered = found.remedies[remedy]
        if not place or not isinstance(offered.change, AddSteps) or not offered.change.here:
            return offered
        if place < len(found.places):
            return offered.model_copy(update={"change": offered.change.at(found.places[place])})
    raise NotThere("That remedy is no longer offered; look at the figure again.")
