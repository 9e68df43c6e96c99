"""Documents of the studio that are values with revisions: changed whole, undone and redone, kept in memory."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import UTC, datetime
from threading import Lock
from typing import Any, ClassVar, Generic, TypeVar

from pydantic import BaseModel, ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session, selectinload

from ulvet.store.database import Sessions
from ulvet.work.refusals import Conflict, NotThere, Refused
from ulvet.work.revisions import add_revision, move_back, move_forward, redo_of

__all__ = ["DocumentNow", "Documents"]

Held = TypeVar("Held", bound=BaseModel)


@dataclass(frozen=True)
class DocumentNow(Generic[Held]):
    """A document as it stands, under its number and that of its revision."""

    number: int
    revision: int
    value: Held
    can_undo: bool
    can_redo: bool


class Documents(Generic[Held]):
    """The documents of one kind, all kept in memory: they are few, and every figure asks for them."""

    kind: ClassVar[type[BaseModel]]
    """What each holds."""
    document: ClassVar[Any]
    """Its table."""
    revision: ClassVar[Any]
    """The table of its revisions, whose column named ``column`` holds the value."""
    column: ClassVar[str]
    word: ClassVar[str]
    """What one is called."""

    def __init__(self, sessions: Sessions) -> None:
        self._sessions = sessions
        self._known: tuple[DocumentNow[Held], ...] | None = None
        self._unreadable = 0
        self._reading = Lock()

    def all(self) -> tuple[DocumentNow[Held], ...]:
        """Every one, the oldest first."""
        with self._reading:
            if self._known is None:
                table = self.document
                with self._sessions() as session:
                    rows = session.scalars(
                        select(table)
                        .where(table.dropped.is_(None), table.head_id.is_not(None))
                        .options(selectinload(table.head))
                        .order_by(table.id)
                    )
                    read = [self._now(session, row) for row in rows]
                self._known = tuple(one for one in read if one is not None)
                self._unreadable = len(read) - len(self._known)
            return self._known

    @property
    def unreadable(self) -> int:
        """How many another version wrote that this one cannot read; they are kept."""
        self.all()
        return self._unreadable

    def one(self, number: int) -> DocumentNow[Held]:
        """One of them.

        Raises NotThere.
        """
        found = next((one for one in self.all() if one.number == number), None)
        if found is None:
            raise self._gone()
        return found

    def begin(self, values: Iterable[Held]) -> list[int]:
        """Keep new ones, and give their numbers."""
        numbers = []
        with self._sessions.begin() as session:
            for value in values:
                document = self.document()
                session.add(document)
                session.flush()
                add_revision(session, document, self.revision, "begun", **{self.column: value})
                numbers.append(document.id)
        self._forget()
        return numbers

    def change(self, number: int, seen: int | None, says: str, change: Callable[[Held], Held]) -> None:
        """Change one, as a new revision; ``seen`` is the revision that was looked at, None whatever it is.

        Raises NotThere, Conflict, and Refused for what cannot be.
        """
        with self._sessions.begin() as session:
            document, head = self._at(session, number, seen)
            before = getattr(head, self.column)
            if not isinstance(before, self.kind):
                raise self._gone()
            try:
                # As plain values, so that what was copied with other values is held to its limits too.
                changed = self.kind.model_validate(change(before).model_dump())  # type: ignore[arg-type]
            except ValidationError as error:
                said = error.errors()[0]["msg"].removeprefix("Value error, ")
                raise Refused(f"Nothing was changed: {said}.") from error
            if changed != before:
                add_revision(session, document, self.revision, says, **{self.column: changed})
        self._forget()

    def undo(self, number: int, seen: int) -> None:
        """Take the last change back.

        Raises NotThere, Conflict, Refused.
        """
        with self._sessions.begin() as session:
            document, head = self._at(session, number, seen)
            move_back(session, document, head, f"There is nothing to undo: this is how the {self.word} was begun.")
        self._forget()

    def redo(self, number: int, seen: int) -> None:
        """Make the change again that was taken back last.

        Raises NotThere, Conflict, Refused.
        """
        with self._sessions.begin() as session:
            move_forward(session, *self._at(session, number, seen))
        self._forget()

    def drop(self, number: int, dropped: bool = True) -> None:
        """Let one count no more, or again.

        Raises NotThere.
        """
        with self._sessions.begin() as session:
            document = session.get(self.document, number)
            if document is None:
                raise self._gone()
            document.dropped = datetime.now(UTC) if dropped else None
        self._forget()

    def _now(self, session: Session, row: Any) -> DocumentNow[Held] | None:
        """One as it stands; none where it cannot be read."""
        head = row.head
        held = None if head is None else getattr(head, self.column)
        if not isinstance(held, self.kind):
            return None
        undo, redo = head.parent_id is not None, redo_of(session, head) is not None
        return DocumentNow(row.id, head.number, held, undo, redo)  # type: ignore[arg-type]

    def _at(self, session: Session, number: int, seen: int | None) -> tuple[Any, Any]:
        """One and its head, which must be the one that was seen."""
        document = session.get(self.document, number, options=[selectinload(self.document.head)])
        if document is None or document.head is None or document.dropped is not None:
            raise self._gone()
        if seen is not None and document.head.number != seen:
            raise Conflict(
                f"The {self.word} was changed elsewhere in the meantime, and nothing was overwritten: look at it "
                "again, then repeat the entry."
            )
        return document, document.head

    def _gone(self) -> NotThere:
        return NotThere(f"There is no such {self.word}: it was left out, or never begun.")

    def _forget(self) -> None:
        with self._reading:
            self._known = None
