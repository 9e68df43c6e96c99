"""How figures stand on the shelf: named, in collections, copied; taken off it, they can be put back for a while."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session, selectinload

from ulvet.core.blob_hash import blobs_named
from ulvet.core.recipe.reading import UnreadableRecipe
from ulvet.store.blobs import MissingBlob
from ulvet.store.models import Bit, BuildRow, Figure, ReleaseRow, Revision, Source, Version, VersionEdition
from ulvet.work.record import Glance
from ulvet.work.refusals import NotThere, Refused
from ulvet.work.studio import Studio
from ulvet.work.supervisor import Job

__all__ = [
    "KEPT_FOR",
    "ShelfEntry",
    "copy_figure",
    "delete_figure",
    "deleted_figures",
    "needed_builds",
    "purge_deleted",
    "put_back",
    "put_in_collection",
    "rename_collection",
    "rename_figure",
    "resume_checks",
    "shelf_of",
]

_LONGEST = 110
"""Letters of a name that are kept in that of a copy, so that its number has room."""
_COPIED_OF_SOURCES = ("file_name", "file_hash", "file_bytes", "mesh_hash", "look")

KEPT_FOR = timedelta(days=30)
"""How long a deleted figure can be put back (bench default: a month, so that a holiday does not cost it)."""


@dataclass(frozen=True)
class ShelfEntry:
    """A figure as it stands on the shelf: with what is seen of the build of its first edition, if that is finished, or
    what is wrong with it."""

    figure: Figure
    head: Revision
    glance: Glance | None
    job: Job | None
    trouble: str = ""


def shelf_of(studio: Studio) -> list[ShelfEntry]:
    """Every figure that is not deleted, the one worked on last first; what cannot be used says why."""
    with studio.sessions() as session:
        there = select(Figure).where(Figure.deleted.is_(None), Figure.head_id.is_not(None))
        rows = session.scalars(
            there.options(selectinload(Figure.head), selectinload(Figure.sources)).order_by(
                Figure.worked.desc(), Figure.id.desc()
            )
        ).all()
        return [_shelved(studio, session, figure, figure.head) for figure in rows if figure.head]


def resume_checks(studio: Studio) -> None:
    """Take up the checks that were not finished when the server last ended."""
    for one in shelf_of(studio):
        if one.glance is None and not one.trouble:
            studio.want_build(one.figure.id)


def _shelved(studio: Studio, session: Session, figure: Figure, head: Revision) -> ShelfEntry:
    try:
        for name in sorted(blobs_named(studio.asked(head)[0])):
            studio.blobs.path(name)
        glance = studio.builds.glance(session, studio.key_of(head))
        return ShelfEntry(figure, head, glance, None if glance else studio.build_job(head))
    except UnreadableRecipe as error:
        return ShelfEntry(figure, head, None, None, str(error))
    except MissingBlob as error:
        return ShelfEntry(
            figure, head, None, None, f"{error} Bring its source in again, or put back a copy of the folder."
        )


def rename_figure(studio: Studio, number: int, name: str) -> None:
    """Give a figure another name.

    Raises NotThere, Refused for an empty one.
    """
    with studio.sessions.begin() as session:
        figure, _ = studio.at(session, number)
        if not name.strip():
            raise Refused("A figure needs a name: type one.")
        figure.name = name.strip()


def put_in_collection(studio: Studio, number: int, collection: str) -> None:
    """Put a figure into a collection, which comes to be with its first figure; an empty name takes it out of its own.

    Raises NotThere.
    """
    with studio.sessions.begin() as session:
        figure, _ = studio.at(session, number)
        figure.collection = collection.strip()


def rename_collection(studio: Studio, name: str, to: str) -> None:
    """Give a collection another name, for all its figures; under the name of another one it is joined to that.

    Raises NotThere, Refused for an empty name.
    """
    if not to.strip():
        raise Refused("A collection needs a name: type one.")
    with studio.sessions.begin() as session:
        figures = session.scalars(select(Figure).where(Figure.collection == name)).all()
        if not name or not figures:
            raise NotThere("There is no such collection on the shelf.")
        for figure in figures:
            figure.collection = to.strip()


def copy_figure(studio: Studio, number: int) -> int:
    """Put a copy of a figure on the shelf as it stands now, with the files it is made from; the number of the copy. It
    has a history, versions and releases of its own.

    Raises NotThere, UnreadableRecipe.
    """
    with studio.sessions.begin() as session:
        figure, head = studio.at(session, number)
        taken = set(session.scalars(select(Figure.name).where(Figure.deleted.is_(None))))
        copy = Figure(name=_name_of_copy(figure.name, taken), collection=figure.collection)
        copy.sources = [
            Source(**{name: getattr(source, name) for name in _COPIED_OF_SOURCES}) for source in figure.sources
        ]
        session.add(copy)
        session.flush()
        studio.revise(session, copy, studio.recipe(head), studio.editions(head), f"copied from {figure.name}")
        made = copy.id
    studio.want_build(made)
    return made


def _name_of_copy(name: str, taken: set[str]) -> str:
    names = (f"{name[:_LONGEST]} {count}" for count in itertools.count(2))
    return next(other for other in names if other not in taken)


def delete_figure(studio: Studio, number: int) -> None:
    """Take a figure off the shelf, with its versions and releases; its jobs are ended.

    Raises NotThere.
    """
    with studio.sessions.begin() as session:
        figure, _ = studio.at(session, number)
        figure.deleted = datetime.now(UTC)
    for kind in ("build", "preview", "compare", "ways", "plan", "win", "release"):
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
        return session.scalars(gone.options(selectinload(Figure.head), selectinload(Figure.sources))).all()


def purge_deleted(studio: Studio, now: datetime | None = None) -> int:
    """Remove figures and bits deleted too long ago to be put back, with all their rows; how many figures."""
    before = (now or datetime.now(UTC)) - KEPT_FOR
    with studio.sessions.begin() as session:
        numbers = session.scalars(select(Figure.id).where(Figure.deleted < before)).all()
        revisions = session.scalars(select(Revision).where(Revision.figure_id.in_(numbers)))
        keys = {key for revision in revisions for key in _keys_of(studio, revision)}
        versions = session.scalars(select(Version.id).where(Version.figure_id.in_(numbers))).all()
        frozen = VersionEdition.version_id.in_(versions)
        keys |= set(
            session.scalars(select(VersionEdition.build_key).where(frozen, VersionEdition.build_key.is_not(None)))
        )
        session.execute(delete(VersionEdition).where(frozen))
        session.execute(update(Figure).where(Figure.id.in_(numbers)).values(head_id=None))
        # Revisions name their parents, so they go without one first.
        session.execute(update(Revision).where(Revision.figure_id.in_(numbers)).values(parent_id=None))
        for table in (ReleaseRow, Version, Source, Revision):
            session.execute(delete(table).where(table.figure_id.in_(numbers)))
        session.execute(delete(Figure).where(Figure.id.in_(numbers)))
        session.execute(delete(Bit).where(Bit.dropped < before))
        session.execute(delete(BuildRow).where(BuildRow.key.in_(keys - needed_builds(studio, session))))
    return len(numbers)


def needed_builds(studio: Studio, session: Session) -> set[str]:
    """Keys of the builds that a head or a version needs."""
    needed = {key for key in session.scalars(select(VersionEdition.build_key)) if key}
    for figure in session.scalars(select(Figure).options(selectinload(Figure.head))):
        needed |= set(_keys_of(studio, figure.head))
    return needed


def _keys_of(studio: Studio, revision: Revision | None) -> list[str]:
    """The keys of a revision's builds; none where it cannot be read."""
    try:
        return [studio.key_of(revision, one.id) for one in studio.editions(revision)] if revision else []
    except UnreadableRecipe:
        return []
