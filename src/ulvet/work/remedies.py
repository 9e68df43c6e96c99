"""Remedies of findings: made, or tried first."""

from ulvet.core.findings import AddSteps, Remedy
from ulvet.core.recipe.remedies import after_change
from ulvet.work.memory import build_memory
from ulvet.work.record import BuildRecord, build_key
from ulvet.work.studio import NotThere, Studio
from ulvet.work.supervisor import Job

__all__ = ["apply", "preview", "remedy_of"]


def apply(studio: Studio, number: int, seen: int, remedy: Remedy) -> None:
    """Make the change that a remedy stands for, as a new revision.

    Raises NotThere, Conflict, Refused.
    """
    studio.change(number, seen, remedy.label, lambda recipe, edition: after_change(recipe, edition, remedy.change))


def preview(studio: Studio, key: str, finding: int, remedy: int, number: int) -> Job:
    """The job that makes the parts as they would be after a remedy.

    Raises NotThere.
    """
    figure, head, record, _ = studio.figure(number)
    if record is None or record.key != key:
        raise NotThere("The figure has changed since; look at it again.")
    change = remedy_of(record, finding, remedy).change
    recipe, edition = after_change(*studio.asked(head), change)
    return studio.supervisor.submit(
        "preview",
        build_key(recipe, edition),
        {
            "recipe": recipe.model_dump(mode="json"),
            "edition": edition.model_dump(mode="json"),
            "kind": change.steps[-1].kind if isinstance(change, AddSteps) else "",
        },
        f"Trying a remedy on {figure.name}",
        2.0,
        figure.id,
        build_memory(recipe, sum(part.facts.triangles for part in record.parts)),
    )


def remedy_of(record: BuildRecord, finding: int, remedy: int) -> Remedy:
    """One remedy of one finding of a build.

    Raises NotThere.
    """
    if 0 <= finding < len(record.findings) and 0 <= remedy < len(record.findings[finding].remedies):
        return record.findings[finding].remedies[remedy]
    raise NotThere("That remedy is no longer offered; look at the figure again.")
