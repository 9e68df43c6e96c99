"""Figures taken off the shelf: for a while they can be put back, then they are gone."""

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session, selectinload

from ulvet.core.recipe.reading import UnreadableRecipe
from ulvet.store.models import BuildRow, Figure, ReleaseRow, Revision, Source, Version
from ulvet.work.record import build_key
from ulvet.work.studio import NotThere, Refused, Studio

__all__ = ["KEPT_FOR", "delete_figure", "deleted_figures", "needed_builds", "purge_deleted", "put_back"]

KEPT_FOR = timedelta(days=30)
"""How long a deleted figure can be put back (bench default: a month, so that a holiday does not cost it)."""


def delete_figure(studio: Studio, number: int) -> None:
    """Take a figure off the shelf, with its versions and releases; its jobs are ended.

    Raises NotThere.
    """
    with studio.sessions.begin() as session:
        figure, _ = studio.at(session, number)
        figure.deleted = datetime.now(UTC)
    for kind in ("build", "preview", "compare", "release"):
        studio.supervisor.drop(kind, number)


def put_back(studio: Studio, number: int) -> None:
    """Put a deleted figure back on the shelf, as it was.

    Raises NotThere, Refused for one that was not deleted.
    """
    with studio.sessions.begin() as session:
        figure = session.get(Figure, number)
        if figure is None:
            raise NotThere("That figure was deleted too long ago to be put back.")
        if figure.deleted is None:
            raise Refused(f"{figure.name} is on the shelf already.")
        figure.deleted = None
    studio.want_build(number)


def deleted_figures(studio: Studio) -> Sequence[Figure]:
    """Figures that can be put back, the last deleted first."""
    with studio.sessions() as session:
        gone = select(Figure).where(Figure.deleted.is_not(None)).order_by(Figure.deleted.desc())
        return session.scalars(gone.options(selectinload(Figure.head))).all()


def purge_deleted(studio: Studio, now: datetime | None = None) -> int:
    """Remove figures that were deleted too long ago to be put back, with all their rows; how many."""
    before = (now or datetime.now(UTC)) - KEPT_FOR
    with studio.sessions.begin() as session:
        numbers = session.scalars(select(Figure.id).where(Figure.deleted < before)).all()
        revisions = session.scalars(select(Revision).where(Revision.figure_id.in_(numbers)))
        keys = {key for revision in revisions for key in _key_of(studio, revision)}
        keys |= set(session.scalars(select(Version.build_key).where(Version.figure_id.in_(numbers))))
        session.execute(update(Figure).where(Figure.id.in_(numbers)).values(head_id=None))
        # Revisions name their parents, so they go without one first.
        session.execute(update(Revision).where(Revision.figure_id.in_(numbers)).values(parent_id=None))
        for table in (ReleaseRow, Version, Source, Revision):
            session.execute(delete(table).where(table.figure_id.in_(numbers)))
        session.execute(delete(Figure).where(Figure.id.in_(numbers)))
        session.execute(delete(BuildRow).where(BuildRow.key.in_(keys - needed_builds(studio, session))))
    return len(numbers)


def needed_builds(studio: Studio, session: Session) -> set[str]:
    """Keys of the builds that a head or a version needs."""
    needed = set(session.scalars(select(Version.build_key)))
    for figure in session.scalars(select(Figure).options(selectinload(Figure.head))):
        needed |= set(_key_of(studio, figure.head))
    return needed


def _key_of(studio: Studio, revision: Revision | None) -> list[str]:
    """The key of a revision's build; none where it cannot be read."""
    try:
        return [build_key(*studio.asked(revision))] if revision else []
    except UnreadableRecipe:
        return []
