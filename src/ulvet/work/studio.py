"""The studio: figures with their revisions, and the jobs that follow from every change."""

from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from threading import Lock
from typing import Any

from pydantic import ValidationError
from sqlalchemy import func, select
from sqlalchemy.orm import Session, selectinload

from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.edition import Edition
from ulvet.core.bench.setup import UnknownOnBench
from ulvet.core.blob_hash import blobs_named
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.build.figure_build import check_seconds
from ulvet.core.recipe.changes import IllegalOrder
from ulvet.core.recipe.reading import UnreadableRecipe, read_recipe
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.variants import with_change
from ulvet.core.stations import Station
from ulvet.store.blobs import Blobs, MissingBlob
from ulvet.store.database import open_database
from ulvet.store.folder import DataFolder
from ulvet.store.models import BuildRow, Figure, Revision, Source
from ulvet.work.memory import build_memory
from ulvet.work.record import BuildRecord, Glance, build_key, read_record
from ulvet.work.refusals import Conflict, NotThere, Refused, refusal
from ulvet.work.supervisor import Job, JobState, Supervisor

__all__ = ["ShelfEntry", "Studio"]


_RECORDS = 24
"""Records of builds that are kept in memory; a large one takes some ten MB."""


@dataclass(frozen=True)
class ShelfEntry:
    """A figure as it stands on the shelf: with what is seen of the build of its head, if that is finished, or what is
    wrong with it."""

    figure: Figure
    head: Revision
    glance: Glance | None
    job: Job | None
    trouble: str = ""


class Studio:
    """One data folder, opened. All changes go through here, in the server's process."""

    def __init__(self, folder: DataFolder, supervisor: Supervisor) -> None:
        self.folder = folder
        self.blobs = Blobs(folder.blobs)
        self.supervisor = supervisor
        self.sessions = open_database(folder.database)
        self.looked_at: dict[int, Station] = {}
        """By figure the station whose sheet was open when it was last asked for."""
        self._records: OrderedDict[str, BuildRecord] = OrderedDict()
        self._glances: dict[str, Glance] = {}
        self._reading = Lock()

    def resume(self) -> None:
        """Take up the checks that were not finished when the server last ended."""
        for one in self.shelf():
            if one.glance is None and not one.trouble:
                self.want_build(one.figure.id)

    # Looking

    def shelf(self) -> list[ShelfEntry]:
        """Every figure that is not deleted, the one worked on last first; what cannot be used says why."""
        with self.sessions() as session:
            there = select(Figure).where(Figure.deleted.is_(None), Figure.head_id.is_not(None))
            rows = session.scalars(
                there.options(selectinload(Figure.head), selectinload(Figure.sources)).order_by(
                    Figure.worked.desc(), Figure.id.desc()
                )
            ).all()
            return [self._shelved(session, figure, self._head(figure)) for figure in rows]

    def _shelved(self, session: Session, figure: Figure, head: Revision) -> ShelfEntry:
        try:
            recipe, _ = self.asked(head)
            for name in sorted(blobs_named(recipe)):
                self.blobs.path(name)
            glance = self._glance(session, head)
            return ShelfEntry(figure, head, glance, None if glance else self.build_job(head))
        except UnreadableRecipe as error:
            return ShelfEntry(figure, head, None, None, str(error))
        except MissingBlob as error:
            return ShelfEntry(
                figure, head, None, None, f"{error} Bring its source in again, or put back a copy of the folder."
            )

    def _glance(self, session: Session, head: Revision) -> Glance | None:
        """What is seen of the build of a revision. It is small, and kept for every figure of the shelf."""
        key = build_key(*self.asked(head))
        known = self._glances.get(key)
        if known is None or (known.picture and not self.blobs.holds(known.picture)):
            record = self.record(session, head)
            if record is None:
                return None
            known = self._glances[key] = Glance.of(record)
        return known

    def figure(self, number: int) -> tuple[Figure, Revision, BuildRecord | None, bool]:
        """A figure, its head, the head's build, and whether there is something to redo.

        Raises NotThere.
        """
        with self.sessions() as session:
            figure = self._figure(session, number)
            head = self._head(figure)
            return figure, head, self.record(session, head), self._child(session, head) is not None

    def build(self, key: str) -> BuildRecord:
        """A finished build.

        Raises NotThere.
        """
        with self.sessions() as session:
            record = self.built(session, key)
        if record is None:
            raise NotThere("That build is not finished, or was never asked for.")
        return record

    def build_job(self, revision: Revision) -> Job | None:
        """The last job that was to build a revision, under way or ended, as far as it is remembered."""
        return self.supervisor.latest("build", build_key(*self.asked(revision)))

    def want_build(self, number: int, again: bool = False) -> Job | None:
        """The job that builds a figure's head, started if need be; None when the build is there.

        A job that failed or was stopped is not started anew unless ``again`` says so.
        """
        figure, head, record, _ = self.figure(number)
        recipe, edition = self.asked(head)
        key = build_key(recipe, edition)
        # What an earlier head wanted, and trials on it, are of no use any more.
        self.supervisor.drop("build", number, key)
        self.supervisor.drop("preview", number)
        if record is not None:
            return None
        before = self.build_job(head)
        if before and before.state is not JobState.DONE and not again:
            return before
        triangles = len(self.blobs.mesh(self.source(figure, head).mesh_hash).faces)
        return self.supervisor.submit(
            "build",
            key,
            {
                "recipe": recipe.model_dump(mode="json"),
                "edition": head.edition,
                "first": self.looked_at.get(number),
            },
            f"Checking {figure.name}",
            3 + recipe.seconds(triangles) + check_seconds(triangles),
            figure.id,
            build_memory(recipe, triangles),
            then=self.keep_build,
        )

    # Changing

    def change(
        self, number: int, seen: int, says: str, change: Callable[[Recipe, Edition], tuple[Recipe, Edition]]
    ) -> None:
        """Make a change of edition, or of the recipe of the variant that is shown, as a new revision.

        Raises NotThere, Conflict, Refused.
        """

        def changed(recipe: Recipe, edition: Edition) -> tuple[Recipe, Edition]:
            after, edition = change(recipe.made, edition)
            return with_change(recipe, after), edition

        self.change_recipe(number, seen, says, changed)

    def change_recipe(
        self, number: int, seen: int, says: str, change: Callable[[Recipe, Edition], tuple[Recipe, Edition]]
    ) -> None:
        """Make a change of edition, or of the recipe with all its variants, as a new revision.

        Raises NotThere, Conflict, Refused.
        """
        with self.sessions.begin() as session:
            figure, head = self.at(session, number, seen)
            try:
                recipe, edition = change(self.recipe(head), self.edition(head))
            except (ValidationError, IllegalOrder) as error:
                raise refusal(error) from error
            self.revise(session, figure, recipe, edition, says)

    def undo(self, number: int, seen: int) -> None:
        """Move the head back to what it was made from.

        Raises NotThere, Conflict, Refused.
        """
        with self.sessions.begin() as session:
            figure, head = self.at(session, number, seen)
            if head.parent is None:
                raise Refused("There is nothing to undo: this is how the figure was brought in.")
            self._move(figure, head.parent)

    def redo(self, number: int, seen: int) -> None:
        """Move the head forward to the last change that was undone.

        Raises NotThere, Conflict, Refused.
        """
        with self.sessions.begin() as session:
            figure, head = self.at(session, number, seen)
            child = self._child(session, head)
            if child is None:
                raise Refused("There is nothing to redo.")
            self._move(figure, child)

    # What both need

    @staticmethod
    def recipe(revision: Revision) -> Recipe:
        """The recipe of a revision with all its variants.

        Raises UnreadableRecipe.
        """
        return read_recipe(revision.recipe)

    def asked(self, revision: Revision) -> tuple[Recipe, Edition]:
        """What a revision asks for: the recipe of the variant that is shown, by itself, and the edition.

        Raises UnreadableRecipe for either.
        """
        return self.recipe(revision).made, self.edition(revision)

    @staticmethod
    def edition(revision: Revision) -> Edition:
        """The edition of a revision.

        Raises UnreadableRecipe.
        """
        try:
            edition = Edition.model_validate(revision.edition)
            DEFAULT_BENCH.setup(edition.printer, edition.material)
        except (ValidationError, UnknownOnBench) as error:
            raise UnreadableRecipe(
                "The size, printer or material it was made for cannot be read. Nothing of it was changed; open it with "
                "the Ulvet that made it, or bring its source in again."
            ) from error
        return edition

    def source(self, figure: Figure, revision: Revision) -> Source:
        """The source that a revision of a figure brings in.

        Raises NotThere.
        """
        first = self.recipe(revision).made.steps[0]
        for source in figure.sources:
            if isinstance(first, BringIn) and source.mesh_hash == first.source:
                return source
        raise NotThere("The figure's source is not in this data folder.")

    def keep_build(self, result: dict[str, Any]) -> dict[str, Any]:
        """Keep what a ``build`` job gave, and write down in the figures that asked for it what its steps found."""
        record, asked = result["record"], result["asked"]
        with self.sessions.begin() as session:
            for key in {record["key"], asked}:
                session.merge(BuildRow(key=key, record={**record, "key": key}))
            if asked != record["key"]:
                self._write_down(session, asked, Recipe.model_validate(result["written"]))
        with self._reading:
            for key in (record["key"], asked):
                self._records.pop(key, None)
        return {"build": record["key"]}

    def _write_down(self, session: Session, asked: str, written: Recipe) -> None:
        """Put what was written down into every head that asks for the build with this key."""
        for figure in session.scalars(select(Figure).where(Figure.deleted.is_(None), Figure.head_id.is_not(None))):
            head = self._head(figure)
            try:
                if build_key(*self.asked(head)) != asked:
                    continue
            except UnreadableRecipe:
                continue  # a figure that cannot be read asks for nothing
            recipe = self.recipe(head)
            head.recipe = with_change(recipe, recipe.made.with_steps(written.steps)).model_dump(mode="json")

    def record(self, session: Session, revision: Revision | None) -> BuildRecord | None:
        """The finished build of a revision, if there is one."""
        if revision is None:
            return None
        record = self.built(session, build_key(*self.asked(revision)))
        # A version is read as far as it was written; a figure that is worked on is checked anew.
        return record if record and record.measured is not None else None

    def built(self, session: Session, key: str) -> BuildRecord | None:
        """The finished build with a key; one that another version wrote, or of which a blob is missing, is none."""
        with self._reading:
            if key in self._records:
                self._records.move_to_end(key)
                return self._records[key]
        record = read_record(session.get(BuildRow, key))
        if record is None or not all(map(self.blobs.holds, blobs_named(record))):
            return None
        with self._reading:
            self._records[key] = record
            while len(self._records) > _RECORDS:
                self._records.popitem(last=False)
        return record

    def at(self, session: Session, number: int, seen: int | None = None) -> tuple[Figure, Revision]:
        """A figure and its head, which must be the one that was seen, if one was.

        Raises NotThere, Conflict.
        """
        figure = self._figure(session, number)
        head = self._head(figure)
        if seen not in (None, head.number):
            raise Conflict(
                "The figure was changed elsewhere in the meantime, and nothing was overwritten: "
                "look at it again, then repeat the change."
            )
        return figure, head

    @staticmethod
    def _figure(session: Session, number: int) -> Figure:
        figure = session.get(Figure, number, options=[selectinload(Figure.head), selectinload(Figure.sources)])
        if figure is None or figure.deleted is not None:
            raise NotThere("There is no such figure on the shelf.")
        return figure

    @staticmethod
    def _head(figure: Figure) -> Revision:
        if figure.head is None:
            raise NotThere("The figure has no revision yet.")
        return figure.head

    @staticmethod
    def _child(session: Session, head: Revision) -> Revision | None:
        return session.scalars(
            select(Revision).where(Revision.parent_id == head.id).order_by(Revision.number.desc())
        ).first()

    @staticmethod
    def revise(session: Session, figure: Figure, recipe: Recipe, edition: Edition, says: str) -> None:
        """Make this the figure's head, as a new revision."""
        last = session.scalar(select(func.max(Revision.number)).where(Revision.figure_id == figure.id))
        revision = Revision(
            figure_id=figure.id,
            number=(last or 0) + 1,
            parent_id=figure.head_id,
            recipe=recipe.model_dump(mode="json"),
            edition=edition.model_dump(mode="json"),
            says=says[:400],
        )
        session.add(revision)
        session.flush()
        Studio._move(figure, revision)

    @staticmethod
    def _move(figure: Figure, head: Revision) -> None:
        """Make another revision the head of a figure."""
        figure.head = head
        figure.changes = (figure.changes or 0) + 1
        figure.worked = datetime.now(UTC)
