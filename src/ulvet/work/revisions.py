"""Documents that are changed by revisions: a change makes a new one, undo and redo move the head."""

from datetime import UTC, datetime
from typing import Any, TypeVar

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ulvet.store.database import Changed, note_change
from ulvet.store.documents import (
    BenchDocument,
    BenchRevision,
    PaintedDocument,
    PaintedRevision,
    PlanDocument,
    PlanRevision,
    ProofDocument,
    ProofRevision,
    ReleaseSetDocument,
    ReleaseSetRevision,
)
from ulvet.store.models import Figure, Revision
from ulvet.work.refusals import Refused

__all__ = ["add_revision", "move_back", "move_forward", "numbers_before", "redo_of"]

Document = Figure | BenchDocument | ProofDocument | ReleaseSetDocument | PlanDocument | PaintedDocument
OneRevision = Revision | BenchRevision | ProofRevision | ReleaseSetRevision | PlanRevision | PaintedRevision
AnyRevision = TypeVar(
    "AnyRevision", Revision, BenchRevision, ProofRevision, ReleaseSetRevision, PlanRevision, PaintedRevision
)
_KINDS: dict[type[Document], str] = {
    Figure: "figure",
    BenchDocument: "bench",
    ProofDocument: "proof",
    ReleaseSetDocument: "release",
    PlanDocument: "plan",
    PaintedDocument: "painted",
}
"""What those who look on are told was changed."""


def add_revision(session: Session, document: Document, kind: type[AnyRevision], says: str, **held: Any) -> AnyRevision:
    """Make a revision that holds this the head of a document."""
    last = session.scalar(select(func.max(kind.number)).where(kind.owner_id == document.id))
    revision = kind(owner_id=document.id, number=(last or 0) + 1, parent_id=document.head_id, says=says[:400], **held)
    session.add(revision)
    session.flush()
    _move(session, document, revision)
    return revision


def redo_of(session: Session, head: AnyRevision) -> AnyRevision | None:
    """The last change of a head that was undone, if there is one."""
    kind = type(head)
    found: AnyRevision | None = session.scalars(
        select(kind).where(kind.parent_id == head.id).order_by(kind.number.desc())
    ).first()
    return found


def numbers_before(session: Session, head: Revision) -> set[int]:
    """Numbers of a figure's revisions that its head came from, with its own."""
    asked = select(Revision.id, Revision.number, Revision.parent_id).where(Revision.figure_id == head.figure_id)
    rows = {row.id: row for row in session.execute(asked)}
    found: set[int] = set()
    at: int | None = head.id
    while at is not None:
        found.add(rows[at].number)
        at = rows[at].parent_id
    return found


def move_back(session: Session, document: Document, head: OneRevision, nothing: str) -> None:
    """Make the parent of a head the head.

    Raises Refused, with ``nothing``, where there is none.
    """
    if head.parent is None:
        raise Refused(nothing)
    _move(session, document, head.parent)


def move_forward(session: Session, document: Document, head: AnyRevision) -> None:
    """Make the last change that was undone the head again.

    Raises Refused where there is none.
    """
    child = redo_of(session, head)
    if child is None:
        raise Refused("There is nothing to redo.")
    _move(session, document, child)


def _move(session: Session, document: Document, head: OneRevision) -> None:
    document.head = head
    document.changes = (document.changes or 0) + 1
    document.worked = datetime.now(UTC)
    note_change(session, Changed(_KINDS[type(document)], document.id, head.number))
