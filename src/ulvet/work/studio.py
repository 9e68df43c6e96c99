"""The studio: figures with their revisions, and the jobs that follow from every change."""

from collections.abc import Callable, Sequence
from typing import Any

from pydantic import ValidationError
from sqlalchemy import func, select
from sqlalchemy.orm import Session, selectinload

from ulvet.core.bench import Edition, setup_for
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.build import CHECK_SECONDS_A_TRIANGLE
from ulvet.core.recipe.changing import (
    IllegalOrder,
    with_fields,
    with_group_moved,
    with_group_switched,
    with_step_moved,
    with_step_removed,
    with_step_set,
    with_step_switched,
    with_steps_added,
)
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.step import Step
from ulvet.core.recipe.union import step_adapter
from ulvet.core.recipe.variants import with_change
from ulvet.store.blobs import Blobs
from ulvet.store.database import open_database
from ulvet.store.folder import DataFolder
from ulvet.store.models import BuildRow, Figure, Revision, Source
from ulvet.work.memory import build_memory
from ulvet.work.record import BuildRecord, build_key
from ulvet.work.supervisor import Job, JobState, Supervisor

__all__ = ["Conflict", "NotThere", "Refused", "Studio", "read_record"]


class NotThere(LookupError):
    """Something asked for that does not exist; its text is for the user."""


class Refused(ValueError):
    """A change that cannot be made; its text is for the user."""


class Conflict(Exception):
    """A change to a revision that is no longer the head; its text is for the user."""


def read_record(row: BuildRow | None) -> BuildRecord | None:
    """The record in a row; one that another version of Ulvet wrote, and this cannot read, counts as absent."""
    try:
        return BuildRecord.model_validate(row.record) if row else None
    except ValidationError:
        return None


class Studio:
    """One data folder, opened. All changes go through here, in the server's process."""

    def __init__(self, folder: DataFolder, supervisor: Supervisor) -> None:
        self.folder = folder
        self.blobs = Blobs(folder.blobs)
        self.supervisor = supervisor
        self.sessions = open_database(folder.database)

    def resume(self) -> None:
        """Take up the checks that were not finished when the server last ended."""
        for figure, _, record in self.shelf():
            if record is None:
                self.want_build(figure.id)

    # Looking

    def shelf(self) -> list[tuple[Figure, Revision, BuildRecord | None]]:
        """Every figure with the build of its head, if that is finished."""
        with self.sessions() as session:
            rows = session.scalars(select(Figure).options(selectinload(Figure.head)).order_by(Figure.id)).all()
            return [(figure, self._head(figure), self.record(session, figure.head)) for figure in rows]

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
            record = read_record(session.get(BuildRow, key))
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
            {"recipe": recipe.model_dump(mode="json"), "edition": head.edition},
            f"Checking {figure.name}",
            3 + recipe.seconds(triangles) + triangles * CHECK_SECONDS_A_TRIANGLE,
            figure.id,
            build_memory(recipe, triangles),
            then=self.keep_build,
        )

    # Changing

    def edit_step(self, number: int, seen: int, place: int, field: str, value: float) -> None:
        """Change a number in a sentence of the record, as a new revision.

        Raises NotThere, Conflict, Refused.
        """

        def edited(recipe: Recipe, edition: Edition) -> tuple[Recipe, Edition]:
            if field not in self._step(recipe, place).numbers():
                raise Refused(f"{field} is not a number of this step.")
            return with_fields(recipe, place, {field: value}), edition

        self.change(number, seen, f"{field} {value:g}", edited)

    def switch_step(self, number: int, seen: int, place: int, on: bool) -> None:
        """Switch a step of the record on or off, as a new revision.

        Raises NotThere, Conflict, Refused.
        """

        def switched(recipe: Recipe, edition: Edition) -> tuple[Recipe, Edition]:
            self._step(recipe, place)
            return with_step_switched(recipe, place, on), edition

        self.change(number, seen, f"sentence switched {'on' if on else 'off'}", switched)

    def switch_group(self, number: int, seen: int, group: str, on: bool) -> None:
        """Switch every step of a group on or off, as one new revision.

        Raises NotThere, Conflict, Refused.
        """

        def switched(recipe: Recipe, edition: Edition) -> tuple[Recipe, Edition]:
            return with_group_switched(recipe, group, on), edition

        self.change(number, seen, f"{group} switched {'on' if on else 'off'}", switched)

    def move_group(self, number: int, seen: int, group: str, by: Sequence[float]) -> None:
        """Move every bit and form of a group by (across, deep, up) figure mm, as one new revision.

        Raises NotThere, Conflict, Refused.
        """

        def moved(recipe: Recipe, edition: Edition) -> tuple[Recipe, Edition]:
            return with_group_moved(recipe, group, by), edition

        self.change(number, seen, f"{group} moved", moved)

    def set_fields(self, number: int, seen: int, place: int, values: dict[str, Any], says: str) -> None:
        """Set several fields of a step of the record, as one new revision.

        Raises NotThere, Conflict, Refused.
        """

        def changed(recipe: Recipe, edition: Edition) -> tuple[Recipe, Edition]:
            self._step(recipe, place)
            if values.keys() & {"kind", "source", "picture", "variants"}:
                raise Refused("What a step is, and what it is made from, is not changed in place.")
            return with_fields(recipe, place, values), edition

        self.change(number, seen, says, changed)

    def move_step(self, number: int, seen: int, place: int, to: int) -> None:
        """Move a step of the record to another place, as a new revision.

        Raises NotThere, Conflict, Refused.
        """

        def moved(recipe: Recipe, edition: Edition) -> tuple[Recipe, Edition]:
            self._step(recipe, place)
            return with_step_moved(recipe, place, to), edition

        self.change(number, seen, "sentence moved", moved)

    def set_steps(self, number: int, seen: int, steps: Sequence[tuple[str, dict[str, Any]]], says: str) -> None:
        """Set fields of the last step of each kind, added where there is none, as one new revision.

        Raises NotThere, Conflict, Refused.
        """

        def changed(recipe: Recipe, edition: Edition) -> tuple[Recipe, Edition]:
            for kind, values in steps:
                recipe = with_step_set(recipe, kind, values)
            return recipe, edition

        self.change(number, seen, says, changed)

    def add_steps(self, number: int, seen: int, steps: Sequence[dict[str, Any]], says: str) -> None:
        """Add steps, each behind the last of its phase or in place of one that may be there only once.

        Raises NotThere, Conflict, Refused.
        """

        def added(recipe: Recipe, edition: Edition) -> tuple[Recipe, Edition]:
            return with_steps_added(recipe, tuple(map(step_adapter().validate_python, steps))), edition

        self.change(number, seen, says, added)

    def remove_step(self, number: int, seen: int, place: int) -> None:
        """Take a step out of the record, as a new revision.

        Raises NotThere, Conflict, Refused.
        """

        def removed(recipe: Recipe, edition: Edition) -> tuple[Recipe, Edition]:
            self._step(recipe, place)
            return with_step_removed(recipe, place), edition

        self.change(number, seen, "sentence taken out", removed)

    def set_edition(self, number: int, seen: int, edition: Edition) -> None:
        """Make the figure for another size, printer or material, as a new revision.

        Raises NotThere, Conflict, UnknownOnBench.
        """
        setup_for(edition.printer, edition.material)
        self.change(number, seen, "another edition", lambda recipe, _: (recipe, edition))

    def change(
        self, number: int, seen: int, says: str, change: Callable[[Recipe, Edition], tuple[Recipe, Edition]]
    ) -> None:
        """Make a change of edition, or of the recipe of the variant that is shown, as a new revision.

        Raises NotThere, Conflict, Refused.
        """

        def changed(recipe: Recipe, edition: Edition) -> tuple[Recipe, Edition]:
            shown = recipe.made
            after, edition = change(shown, edition)
            return with_change(recipe, shown, after), edition

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
                recipe, edition = change(self.recipe(head), Edition.model_validate(head.edition))
            except ValidationError as error:
                raise Refused(f"That cannot be used: {error.errors()[0]['msg'].lower()}.") from error
            except IllegalOrder as error:
                raise Refused(str(error)) from error
            self.revise(session, figure, recipe, edition, says)

    def undo(self, number: int, seen: int) -> None:
        """Move the head back to what it was made from.

        Raises NotThere, Conflict, Refused.
        """
        with self.sessions.begin() as session:
            figure, head = self.at(session, number, seen)
            if head.parent is None:
                raise Refused("There is nothing to undo: this is how the figure was brought in.")
            figure.head = head.parent

    def redo(self, number: int, seen: int) -> None:
        """Move the head forward to the last change that was undone.

        Raises NotThere, Conflict, Refused.
        """
        with self.sessions.begin() as session:
            figure, head = self.at(session, number, seen)
            child = self._child(session, head)
            if child is None:
                raise Refused("There is nothing to redo.")
            figure.head = child

    # What both need

    @staticmethod
    def recipe(revision: Revision) -> Recipe:
        """The recipe of a revision with all its variants."""
        return Recipe.model_validate(revision.recipe)

    def asked(self, revision: Revision) -> tuple[Recipe, Edition]:
        """What a revision asks for: the recipe of the variant that is shown, by itself, and the edition."""
        return self.recipe(revision).made, Edition.model_validate(revision.edition)

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
        with self.sessions.begin() as session:
            session.merge(BuildRow(key=result["key"], record=result))
        return {"build": result["key"]}

    def record(self, session: Session, revision: Revision | None) -> BuildRecord | None:
        """The finished build of a revision, if there is one."""
        if revision is None:
            return None
        return read_record(session.get(BuildRow, build_key(*self.asked(revision))))

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
    def _step(recipe: Recipe, place: int) -> Step:
        if not 0 <= place < len(recipe.steps):
            raise NotThere("That sentence is no longer in the record.")
        return recipe.steps[place]

    @staticmethod
    def _figure(session: Session, number: int) -> Figure:
        figure = session.get(Figure, number, options=[selectinload(Figure.head), selectinload(Figure.sources)])
        if figure is None:
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
        figure.head = revision
