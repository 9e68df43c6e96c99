"""The studio's bench: one document with revisions of its own."""

from collections.abc import Callable
from dataclasses import dataclass
from threading import Lock

from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session, selectinload

from ulvet.core.bench.bench import DEFAULT_BENCH, Bench
from ulvet.core.bench.bench_edits import IllegalBench
from ulvet.store.database import Sessions
from ulvet.store.documents import BenchDocument, BenchRevision
from ulvet.store.models import Figure
from ulvet.work.refusals import Conflict, Refused
from ulvet.work.revisions import add_revision, move_back, move_forward, redo_of

__all__ = ["BenchNow", "StudioBench"]

_ONE = 1
"""Id of the one bench that a studio has."""


@dataclass(frozen=True)
class BenchNow:
    """The bench as it stands, under the number of its revision; 0 is what Ulvet comes with."""

    bench: Bench
    revision: int
    says: str
    can_undo: bool
    can_redo: bool


class StudioBench:
    """The bench of one studio; it begins as the one Ulvet comes with."""

    def __init__(self, sessions: Sessions) -> None:
        self._sessions = sessions
        self._known: tuple[int, Bench] = (0, DEFAULT_BENCH)
        self._reading = Lock()

    @property
    def value(self) -> Bench:
        """The bench as it stands."""
        return self.now().bench

    def now(self) -> BenchNow:
        """The bench as it stands, and whether there is something to undo or redo."""
        with self._sessions() as session:
            head = self._head(session)
            if head is None:
                return BenchNow(DEFAULT_BENCH, 0, "", can_undo=False, can_redo=False)
            return BenchNow(
                self._read(head), head.number, head.says, head.parent is not None, redo_of(session, head) is not None
            )

    def change(self, seen: int, says: str, change: Callable[[Bench], Bench]) -> None:
        """Make a change, as a new revision.

        Raises Conflict, and Refused for what the bench may not hold.
        """
        with self._sessions.begin() as session:
            document = session.get(BenchDocument, _ONE)
            if document is None:
                document = BenchDocument(id=_ONE)
                session.add(document)
                session.flush()
                # What Ulvet comes with is kept as the first state, so that undo leads back to it.
                add_revision(
                    session,
                    document,
                    BenchRevision,
                    "what Ulvet comes with",
                    bench=DEFAULT_BENCH.model_dump(mode="json"),
                )
                seen = 1 if seen == 0 else seen
            head = self._seen(document, seen)
            try:
                changed = change(self._read(head))
            except IllegalBench as error:
                raise Refused(str(error)) from error
            except ValidationError as error:
                raise Refused(f"Nothing was changed: {_sentence(error)}") from error
            self._refuse_lost(session, changed)
            add_revision(session, document, BenchRevision, says, bench=changed.model_dump(mode="json"))

    def undo(self, seen: int) -> None:
        """Take the last change back.

        Raises Conflict, Refused.
        """
        with self._sessions.begin() as session:
            document = session.get(BenchDocument, _ONE)
            if document is None:
                raise Refused(_NOTHING)
            head = self._seen(document, seen)
            if head.parent is not None:
                self._refuse_lost(session, Bench.model_validate(head.parent.bench))
            move_back(session, document, head, _NOTHING)

    def redo(self, seen: int) -> None:
        """Make the change again that was taken back last.

        Raises Conflict, Refused.
        """
        with self._sessions.begin() as session:
            document = session.get(BenchDocument, _ONE)
            if document is None:
                raise Refused("There is nothing to redo.")
            move_forward(session, document, self._seen(document, seen))

    @staticmethod
    def _refuse_lost(session: Session, bench: Bench) -> None:
        """Refuse a bench without a setting that a figure is made with."""
        there = {one.id for one in bench.settings}
        for setting, figure in _settings_used(session).items():
            if setting not in there:
                raise Refused(
                    f"{figure} is made with the setting {setting}: give it another first. Nothing was changed."
                )

    @staticmethod
    def _head(session: Session) -> BenchRevision | None:
        document = session.get(BenchDocument, _ONE)
        return document.head if document else None

    @staticmethod
    def _seen(document: BenchDocument, seen: int) -> BenchRevision:
        head = document.head
        if head is None or head.number != seen:
            raise Conflict(
                "The bench was changed elsewhere in the meantime, and nothing was overwritten: look at it again, then "
                "repeat the change."
            )
        return head

    def _read(self, head: BenchRevision) -> Bench:
        with self._reading:
            if self._known[0] != head.id:
                # One that was kept before there were paints has those Ulvet comes with.
                paints = [one.model_dump(mode="json") for one in DEFAULT_BENCH.paints]
                self._known = head.id, Bench.model_validate({"paints": paints, **head.bench})
            return self._known[1]


_NOTHING = "There is nothing to undo: this is the bench Ulvet comes with."


def _sentence(error: ValidationError) -> str:
    said = error.errors()[0]["msg"].removeprefix("Value error, ")
    return f"{said[0].lower()}{said[1:]}."


def _settings_used(session: Session) -> dict[str, str]:
    """Settings that the heads of figures are made with, and for each the name of one of these figures."""
    found: dict[str, str] = {}
    for figure in session.scalars(select(Figure).options(selectinload(Figure.head))):
        for one in figure.head.editions if figure.head else ():
            made = one.get("made", {})
            for setting in (made.get("setting"), *made.get("part_settings", {}).values()):
                if setting:
                    found[setting] = figure.name
    return found
