"""The studio's proofs: documents with revisions, each of one print."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import UTC, datetime
from threading import Lock

from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session, selectinload

from ulvet.core.proof.proof import Came, Proof
from ulvet.store.database import Sessions
from ulvet.store.models import ProofDocument, ProofRevision
from ulvet.work.refusals import Conflict, NotThere, Refused
from ulvet.work.revisions import add_revision, move_back, move_forward, redo_of

__all__ = ["ProofNow", "Proofs"]


@dataclass(frozen=True)
class ProofNow:
    """A proof as it stands, under its number and that of its revision."""

    number: int
    revision: int
    proof: Proof
    can_undo: bool
    can_redo: bool


class Proofs:
    """The proofs of a studio, all kept in memory: they are few, and every figure asks for them."""

    def __init__(self, sessions: Sessions) -> None:
        self._sessions = sessions
        self._known: tuple[ProofNow, ...] | None = None
        self._unreadable = 0
        self._reading = Lock()

    def all(self) -> tuple[ProofNow, ...]:
        """Every proof, the oldest first."""
        with self._reading:
            if self._known is None:
                with self._sessions() as session:
                    rows = session.scalars(
                        select(ProofDocument)
                        .where(ProofDocument.dropped.is_(None), ProofDocument.head_id.is_not(None))
                        .options(selectinload(ProofDocument.head))
                        .order_by(ProofDocument.id)
                    )
                    read = [_now(session, row) for row in rows]
                self._known = tuple(one for one in read if one is not None)
                self._unreadable = len(read) - len(self._known)
            return self._known

    @property
    def unreadable(self) -> int:
        """How many proofs another version wrote that this one cannot read; they are kept."""
        self.all()
        return self._unreadable

    def one(self, number: int) -> ProofNow:
        """A proof.

        Raises NotThere.
        """
        found = next((one for one in self.all() if one.number == number), None)
        if found is None:
            raise NotThere(_GONE)
        return found

    def of_figure(self, figure: int, edition: str = "") -> tuple[ProofNow, ...]:
        """Proofs with a part of a figure, in one edition where one is named, the oldest first."""
        return tuple(
            one
            for one in self.all()
            if any(part.figure == figure and edition in ("", part.edition) for part in one.proof.parts)
        )

    def begin(self, proofs: Iterable[Proof]) -> list[int]:
        """Keep proofs that were begun, and give their numbers."""
        numbers = []
        with self._sessions.begin() as session:
            for proof in proofs:
                document = ProofDocument()
                session.add(document)
                session.flush()
                add_revision(session, document, ProofRevision, "begun", proof=proof)
                numbers.append(document.id)
        self._forget()
        return numbers

    def enter(self, number: int, seen: int, says: str, change: Callable[[Proof], Came]) -> None:
        """Change what came out of a proof, as a new revision.

        Raises NotThere, Conflict, and Refused for what cannot be.
        """
        with self._sessions.begin() as session:
            document, head = _at(session, number, seen)
            before = head.proof
            if not isinstance(before, Proof):
                raise NotThere(_GONE)
            try:
                # As plain values, so that what was copied with other values is held to its limits too.
                proof = Proof.model_validate({**dict(before), "came": change(before).model_dump()})
            except ValidationError as error:
                said = error.errors()[0]["msg"].removeprefix("Value error, ")
                raise Refused(f"Nothing was changed: {said}.") from error
            add_revision(session, document, ProofRevision, says, proof=proof)
        self._forget()

    def undo(self, number: int, seen: int) -> None:
        """Take the last entry back.

        Raises NotThere, Conflict, Refused.
        """
        with self._sessions.begin() as session:
            document, head = _at(session, number, seen)
            move_back(session, document, head, "There is nothing to undo: this is how the proof was begun.")
        self._forget()

    def redo(self, number: int, seen: int) -> None:
        """Make the entry again that was taken back last.

        Raises NotThere, Conflict, Refused.
        """
        with self._sessions.begin() as session:
            move_forward(session, *_at(session, number, seen))
        self._forget()

    def drop(self, number: int, dropped: bool = True) -> None:
        """Let a proof count no more, or again.

        Raises NotThere.
        """
        with self._sessions.begin() as session:
            document = session.get(ProofDocument, number)
            if document is None:
                raise NotThere(_GONE)
            document.dropped = datetime.now(UTC) if dropped else None
        self._forget()

    def _forget(self) -> None:
        with self._reading:
            self._known = None


_GONE = "There is no such proof: it was left out, or never begun."


def _now(session: Session, row: ProofDocument) -> ProofNow | None:
    """A proof as it stands; none where it cannot be read."""
    head = row.head
    if head is None or not isinstance(head.proof, Proof):
        return None
    return ProofNow(row.id, head.number, head.proof, head.parent_id is not None, redo_of(session, head) is not None)


def _at(session: Session, number: int, seen: int) -> tuple[ProofDocument, ProofRevision]:
    """A proof and its head, which must be the one that was seen."""
    document = session.get(ProofDocument, number, options=[selectinload(ProofDocument.head)])
    if document is None or document.head is None or document.dropped is not None:
        raise NotThere(_GONE)
    if document.head.number != seen:
        raise Conflict(
            "The proof was changed elsewhere in the meantime, and nothing was overwritten: look at it again, then "
            "repeat the entry."
        )
    return document, document.head
