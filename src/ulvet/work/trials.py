"""Changes of a figure, tried before they are made: nothing of them is kept."""

from pydantic import ValidationError

from ulvet.core.recipe.changes import IllegalOrder
from ulvet.core.recipe.in_edition import in_edition
from ulvet.work.memory import build_memory
from ulvet.work.record import BuildRecord, build_key
from ulvet.work.refusals import NotThere, refusal
from ulvet.work.studio import Change, Studio
from ulvet.work.supervisor import Job
from ulvet.work.trial_record import Trial

__all__ = ["record_at", "tried_change", "try_change"]

_SECONDS = 2.0
"""That a trial takes, before anything of it is known (bench default)."""


def try_change(studio: Studio, number: int, key: str, change: Change, kind: str, edition: str = "") -> Job:
    """The job that makes the parts of a figure as they would be after a change, and says what the record would of its
    last step of ``kind``; ``key`` is that of the build the change was asked for on.

    Raises NotThere, Refused.
    """
    record = record_at(studio, number, key, edition)
    figure, head, _, _ = studio.figure(number, edition)
    looked = studio.edition(head, edition)
    try:
        changed, made = change(studio.recipe(head).in_variant(looked.made.variant).made, looked.made)
    except (ValidationError, IllegalOrder) as error:
        raise refusal(error) from error
    recipe, bench = in_edition(changed, made.model_copy(update={"variant": ""}), looked.id), studio.bench.value
    triangles = sum(part.facts.triangles for part in record.parts)
    before = {"ml": sum(part.facts.volume_mm3 for part in record.parts) / 1000, "triangles": triangles}
    return studio.supervisor.submit(
        "preview",
        f"{build_key(recipe, made, bench)} {kind}",
        {
            "recipe": recipe.model_dump(mode="json"),
            "edition": made.model_dump(mode="json"),
            "bench": bench.model_dump(mode="json"),
            "kind": kind,
            "before": before,
        },
        f"Trying a change of {figure.name}",
        _SECONDS,
        figure.id,
        build_memory(recipe, triangles),
    )


def tried_change(studio: Studio, name: str) -> Trial:
    """What came of a trial, by the hash its job gave.

    Raises NotThere.
    """
    try:
        return Trial.model_validate_json(bytes(studio.blobs.read(name)))
    except ValueError as error:
        raise NotThere("That trial is not there any more; look at the change again.") from error


def record_at(studio: Studio, number: int, key: str, edition: str = "") -> BuildRecord:
    """The build of a figure in an edition, which must be the one with the key ``key``.

    Raises NotThere.
    """
    _, _, record, _ = studio.figure(number, edition)
    if record is None or record.key != key:
        raise NotThere("The figure has changed since; look at it again.")
    return record
