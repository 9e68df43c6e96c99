"""The studio: figures with their revisions, and the builds that follow from every change."""

import itertools
from collections.abc import Callable
from typing import Annotated, Any, NamedTuple

from pydantic import Field, TypeAdapter, ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session, selectinload

from ulvet.core.bench.edition import Edition
from ulvet.core.bench.editions import Editions, IllegalEdition, NamedEdition, edition_of, with_edition
from ulvet.core.bench.part_setups import PartSetups
from ulvet.core.bench.setup import UnknownOnBench
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.build.figure_build import check_seconds
from ulvet.core.recipe.changes import IllegalOrder
from ulvet.core.recipe.in_edition import in_edition, with_new_steps_in
from ulvet.core.recipe.reading import UnreadableRecipe, read_recipe
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.variants import with_change
from ulvet.core.stations import Station
from ulvet.store.blobs import Blobs
from ulvet.store.database import open_database
from ulvet.store.folder import DataFolder
from ulvet.store.models import Figure, Revision, Source
from ulvet.work.bench import StudioBench
from ulvet.work.builds import Builds
from ulvet.work.memory import build_memory
from ulvet.work.painting import Mixes, PaintedCopies
from ulvet.work.plan_document import Plans
from ulvet.work.proofs import Proofs
from ulvet.work.record import BuildRecord, build_key
from ulvet.work.refusals import Conflict, NotThere, Refused, refusal
from ulvet.work.release_sets import ReleaseSets
from ulvet.work.revisions import add_revision, move_back, move_forward, redo_of
from ulvet.work.standing import as_it_stands
from ulvet.work.stock import Stock
from ulvet.work.supervisor import Job, JobState, Supervisor
from ulvet.work.write_down import write_down

__all__ = ["Change", "FigureNow", "Seen", "Studio"]


class Seen(NamedTuple):
    """What was looked at when a change was asked for: the number of the revision, and the edition by its id, which is
    the first where it is empty."""

    revision: int
    edition: str = ""


class FigureNow(NamedTuple):
    """A figure, its head, the build of the edition that is looked at, and whether there is something to redo."""

    figure: Figure
    head: Revision
    record: BuildRecord | None
    can_redo: bool


Change = Callable[[Recipe, Edition], tuple[Recipe, Edition]]
WholeChange = Callable[[Recipe, Editions], tuple[Recipe, Editions]]
_EDITIONS: TypeAdapter[Editions] = TypeAdapter(Annotated[Editions, Field(min_length=1)])


class Studio:
    """One data folder, opened. All changes go through here, in the server's process."""

    def __init__(self, folder: DataFolder, supervisor: Supervisor) -> None:
        self.folder = folder
        self.blobs = Blobs(folder.blobs)
        self.supervisor = supervisor
        self.sessions = open_database(folder.database)
        self.bench = StudioBench(self.sessions)
        self.builds = Builds(self.sessions, self.blobs)
        self.proofs = Proofs(self.sessions)
        self.plans = Plans(self.sessions)
        self.painted = PaintedCopies(self.sessions)
        self.mixes = Mixes(self.sessions)
        self.stock = Stock(self.sessions, self.bench, self.proofs, self.painted, self.mixes)
        self.release_sets = ReleaseSets(self.sessions)
        self.looked_at: dict[int, Station] = {}
        """By figure the station whose sheet was open when it was last asked for."""

    # Looking

    def figure(self, number: int, edition: str = "") -> FigureNow:
        """A figure as it stands, with the build of one of its editions, and what its proofs found among the findings.

        Raises NotThere.
        """
        with self.sessions() as session:
            figure = self._figure(session, number)
            head = self._head(figure)
            record = self.record(session, head, edition)
            if record is not None:
                record = as_it_stands(self, session, head, edition, record)
            return FigureNow(figure, head, record, redo_of(session, head) is not None)

    def figure_and_head(self, number: int) -> tuple[Figure, Revision]:
        """A figure and its head.

        Raises NotThere.
        """
        with self.sessions() as session:
            return self.at(session, number)

    def build_job(self, revision: Revision, edition: str = "") -> Job | None:
        """The last job that was to build a revision in an edition, under way or ended, as far as it is remembered."""
        return self.supervisor.latest("build", self.key_of(revision, edition))

    def want_build(self, number: int, edition: str = "", again: bool = False) -> Job | None:
        """The job that builds a figure's head in an edition, started if need be; None when the build is there.

        A job that failed or was stopped is not started anew unless ``again`` says so.
        """
        figure, head, record, _ = self.figure(number, edition)
        keys = {self.key_of(head, one.id) for one in self.editions(head)}
        # What an earlier head wanted, and trials on it, are of no use any more.
        self.supervisor.drop("build", number, *keys)
        self.supervisor.drop("preview", number)
        if record is not None:
            return None
        before = self.build_job(head, edition)
        if before and before.state is not JobState.DONE and not again:
            return before
        recipe, made = self.asked(head, edition)
        triangles = len(self.blobs.mesh(self.source(figure, head, edition).mesh_hash).faces)
        return self.supervisor.submit(
            "build",
            self.key_of(head, edition),
            {
                "recipe": recipe.model_dump(mode="json"),
                "edition": made.model_dump(mode="json"),
                "bench": self.bench.value.model_dump(mode="json"),
                "first": self.looked_at.get(number),
            },
            f"Checking {figure.name}{self._called(head, edition)}",
            3 + recipe.seconds(triangles) + check_seconds(triangles),
            figure.id,
            build_memory(recipe, triangles),
            then=self.keep_build,
        )

    # Changing

    def change(
        self, number: int, seen: Seen, says: str, change: Change, only_here: bool = False, sized_by: str = ""
    ) -> None:
        """Make a change of the edition that is looked at, or of the recipe of its variant, as a new revision. Steps
        that are new hold ``only_here`` or in all editions; ``sized_by`` says which length another size means.

        Raises NotThere, Conflict, Refused.
        """

        def changed(recipe: Recipe, editions: Editions) -> tuple[Recipe, Editions]:
            looked = self._looked(editions, seen.edition)
            shown = recipe.in_variant(looked.made.variant)
            after, made = change(shown.made, looked.made)
            PartSetups(self.bench.value, made)
            after = with_new_steps_in(shown.made, after, looked.id, only_here)
            same = (made.height, made.factor) == (looked.made.height, looked.made.factor)
            meant = looked.sized_by if same else sized_by
            changed = looked.model_copy(update={"made": made, "sized_by": meant})
            return with_change(shown, after).in_variant(""), with_edition(editions, changed)

        self.change_all(number, seen, says, changed)

    def change_all(self, number: int, seen: Seen, says: str, change: WholeChange) -> None:
        """Make a change of the editions, or of the recipe with all its variants, as a new revision.

        Raises NotThere, Conflict, Refused.
        """
        with self.sessions.begin() as session:
            figure, head = self.at(session, number, seen)
            try:
                recipe, editions = change(self.recipe(head), self.editions(head))
            except (ValidationError, IllegalOrder, IllegalEdition) as error:
                raise refusal(error) from error
            self.revise(session, figure, recipe, editions, says)

    def undo(self, number: int, seen: Seen) -> None:
        """Move the head back to what it was made from.

        Raises NotThere, Conflict, Refused.
        """
        with self.sessions.begin() as session:
            figure, head = self.at(session, number, seen)
            self._refuse_unmakeable(head.parent)
            move_back(session, figure, head, "There is nothing to undo: this is how the figure was brought in.")

    def redo(self, number: int, seen: Seen) -> None:
        """Move the head forward to the last change that was undone.

        Raises NotThere, Conflict, Refused.
        """
        with self.sessions.begin() as session:
            figure, head = self.at(session, number, seen)
            self._refuse_unmakeable(redo_of(session, head))
            move_forward(session, figure, head)

    @staticmethod
    def revise(session: Session, figure: Figure, recipe: Recipe, editions: Editions, says: str) -> None:
        """Make this the figure's head, as a new revision."""
        kept = [one.model_dump(mode="json") for one in editions]
        add_revision(session, figure, Revision, says, recipe=recipe.model_dump(mode="json"), editions=kept)

    # What both need

    @staticmethod
    def recipe(revision: Revision) -> Recipe:
        """The recipe of a revision with all its variants.

        Raises UnreadableRecipe.
        """
        return read_recipe(revision.recipe)

    def editions(self, revision: Revision) -> Editions:
        """The editions of a revision, one at least.

        Raises UnreadableRecipe.
        """
        try:
            editions = _EDITIONS.validate_python(revision.editions)
            for one in editions:
                PartSetups(self.bench.value, one.made)
        except (ValidationError, UnknownOnBench) as error:
            raise UnreadableRecipe(
                "What it is made for, its size or setting, cannot be read. Nothing of it was changed; open it with the "
                "Ulvet that made it, or bring its source in again."
            ) from error
        return editions

    def edition(self, revision: Revision, edition: str = "") -> NamedEdition:
        """An edition of a revision by its id.

        Raises NotThere, UnreadableRecipe.
        """
        return self._looked(self.editions(revision), edition)

    def asked(self, revision: Revision, edition: str = "") -> tuple[Recipe, Edition]:
        """What an edition of a revision asks for: the recipe as it is followed there, by itself, and what is made.

        Raises NotThere, UnreadableRecipe.
        """
        looked = self.edition(revision, edition)
        return in_edition(self.recipe(revision), looked.made, looked.id), looked.made

    def new_edition_id(self, number: int) -> str:
        """An id that no edition of a figure ever had."""
        with self.sessions() as session:
            rows = session.scalars(select(Revision.editions).where(Revision.figure_id == number))
            known = {one.get("id", "") for editions in rows for one in editions}
        return next(new for new in (f"e{count}" for count in itertools.count(1)) if new not in known)

    def key_of(self, revision: Revision, edition: str = "") -> str:
        """The key of the build of a revision in an edition.

        Raises NotThere, UnreadableRecipe.
        """
        return build_key(*self.asked(revision, edition), self.bench.value)

    def source(self, figure: Figure, revision: Revision, edition: str = "") -> Source:
        """The source that a revision of a figure brings in.

        Raises NotThere.
        """
        first = self.asked(revision, edition)[0].steps[0]
        for source in figure.sources:
            if isinstance(first, BringIn) and source.mesh_hash == first.source:
                return source
        raise NotThere("The figure's source is not in this data folder.")

    def keep_build(self, result: dict[str, Any]) -> dict[str, Any]:
        """Keep what a ``build`` job gave, and write down in the figures that asked for it what its steps found."""
        record, asked = result["record"], result["asked"]
        with self.sessions.begin() as session:
            self.builds.keep(session, record, {record["key"], asked})
            if asked != record["key"]:
                write_down(self, session, asked, Recipe.model_validate(result["written"]))
        return {"build": record["key"]}

    def record(self, session: Session, revision: Revision | None, edition: str = "") -> BuildRecord | None:
        """The finished build of a revision in an edition, if there is one."""
        return None if revision is None else self.builds.current(session, self.key_of(revision, edition))

    def at(self, session: Session, number: int, seen: Seen | None = None) -> tuple[Figure, Revision]:
        """A figure and its head, which must be the one that was seen, if one was, or differ from it only in other
        editions than the one that was looked at.

        Raises NotThere, Conflict.
        """
        figure = self._figure(session, number)
        head = self._head(figure)
        if seen is not None and seen.revision != head.number and not self._same_to(session, head, seen):
            raise Conflict(
                "The figure was changed elsewhere in the meantime, and nothing was overwritten: "
                "look at it again, then repeat the change."
            )
        return figure, head

    def _same_to(self, session: Session, head: Revision, seen: Seen) -> bool:
        """Whether what was seen of a figure is still so: its recipe, and the edition that was looked at."""
        before = session.scalar(
            select(Revision).where(Revision.figure_id == head.figure_id, Revision.number == seen.revision)
        )
        if before is None or before.recipe != head.recipe or not seen.edition:
            return False
        then, now = (edition_of(self.editions(one), seen.edition) for one in (before, head))
        return then is not None and then == now

    @staticmethod
    def _looked(editions: Editions, wanted: str) -> NamedEdition:
        found = edition_of(editions, wanted)
        if found is None:
            raise NotThere("That edition is not there any more; the figure's first is shown instead.")
        return found

    def _called(self, revision: Revision, edition: str) -> str:
        """The name of an edition, where a revision has several."""
        editions = self.editions(revision)
        return f", {self._looked(editions, edition).name}" if len(editions) > 1 else ""

    def _refuse_unmakeable(self, revision: Revision | None) -> None:
        """Refuse to go to a revision that is made in a setting which is not on the bench any more."""
        try:
            if revision is not None:
                self.editions(revision)
        except UnreadableRecipe as error:
            raise Refused(
                "It was made in a setting that is not on the bench any more, and nothing was changed: put that back "
                "first."
            ) from error

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
