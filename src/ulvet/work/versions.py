"""Versions of a figure: freezing them, and setting one against another."""

from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session, selectinload

from ulvet.core.recipe.runner import Recipe
from ulvet.store.models import Version, VersionEdition
from ulvet.work.memory import build_memory
from ulvet.work.record import BuildRecord
from ulvet.work.refusals import NotThere, Refused
from ulvet.work.studio import Seen, Studio
from ulvet.work.supervisor import Job
from ulvet.work.trial_record import Comparison

__all__ = ["compare", "comparison", "freeze", "versions_of"]

_SECONDS_A_TRIANGLE = 12e-6
"""Seconds that a comparison takes for a triangle, roughly."""


def freeze(studio: Studio, number: int, seen: Seen, says: str) -> Version:
    """Freeze a figure's head, as it was seen, under the next number, with every edition that is built.

    Raises NotThere, Conflict, and Refused for one that is still being checked or is frozen already.
    """
    with studio.sessions.begin() as session:
        figure, head = studio.at(session, number, seen)
        built = {one.id: studio.record(session, head, one.id) for one in studio.editions(head)}
        if not any(built.values()):
            raise Refused("The figure is still being checked: freeze it when that is done.")
        known = session.scalar(select(Version.number).where(Version.revision_id == head.id))
        if known is not None:
            raise Refused(f"This is version {known} already: change something before you freeze another.")
        last = session.scalar(select(func.max(Version.number)).where(Version.figure_id == figure.id))
        version = Version(figure_id=figure.id, number=(last or 0) + 1, revision_id=head.id, says=says[:400])
        for one in studio.editions(head):
            record = built[one.id]
            version.editions.append(
                VersionEdition(edition=one.id, name=one.name, build_key=record.key if record else None)
            )
        session.add(version)
    return version


def versions_of(studio: Studio, number: int, edition: str = "") -> Sequence[tuple[Version, BuildRecord | None]]:
    """Versions of a figure with their builds in one edition, by its id, or in their first; the newest first."""
    with studio.sessions() as session:
        asked = select(Version).where(Version.figure_id == number).order_by(Version.number.desc())
        rows = session.scalars(asked.options(selectinload(Version.editions))).all()
        return [(row, _built_in(studio, session, row, edition)) for row in rows]


def _built_in(studio: Studio, session: Session, version: Version, edition: str) -> BuildRecord | None:
    frozen = next((one for one in version.editions if edition in ("", one.edition)), None)
    return studio.builds.built(session, frozen.build_key) if frozen and frozen.build_key else None


def compare(studio: Studio, number: int, before: int, after: int | None, edition: str = "") -> Job:
    """The job that sets a version against a later one, or against the figure as it is now, in one edition.

    Raises NotThere, Refused.
    """
    figure, _, now, _ = studio.figure(number, edition)
    builds = {version.number: record for version, record in versions_of(studio, number, edition)}
    old, new = builds.get(before), now if after is None else builds.get(after)
    if old is None:
        raise NotThere(f"There is no version {before} of this figure, in this edition, that can still be read.")
    if new is None:
        raise Refused(
            "The figure is still being checked: compare when that is done."
            if after is None
            else f"There is no version {after} of this figure that can still be read."
        )
    triangles = sum(part.facts.triangles for record in (old, new) for part in record.parts)
    return studio.supervisor.submit(
        "compare",
        f"{old.key} {new.key}",
        {"before": old.model_dump(mode="json"), "after": new.model_dump(mode="json")},
        f"Comparing {figure.name}",
        2 + triangles * _SECONDS_A_TRIANGLE,
        figure.id,
        build_memory(Recipe(steps=()), triangles),
    )


def comparison(studio: Studio, name: str) -> Comparison:
    """A finished comparison, by the name of its blob.

    Raises NotThere where it is none.
    """
    try:
        return Comparison.model_validate_json(bytes(studio.blobs.read(name)))
    except ValueError as error:
        raise NotThere("That is no comparison; ask for it again.") from error
