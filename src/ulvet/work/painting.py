"""Painted copies, mixes, and the air where it is painted."""

from datetime import UTC, datetime
from typing import ClassVar

from sqlalchemy import select
from sqlalchemy.orm import Session

from ulvet.core.finish.check_air import Air
from ulvet.core.finish.mix import Mix
from ulvet.core.finish.painted import PaintedCopy
from ulvet.store.database import Sessions
from ulvet.store.documents import PaintedDocument, PaintedRevision
from ulvet.store.models import MixRow, StudioValue
from ulvet.work.documents import DocumentNow, Documents
from ulvet.work.refusals import NotThere

__all__ = ["Mixes", "PaintedCopies", "PaintedNow", "air_of", "set_air"]

PaintedNow = DocumentNow[PaintedCopy]
_AIR = "air"


class PaintedCopies(Documents[PaintedCopy]):
    """The painted copies of a studio."""

    kind = PaintedCopy
    document = PaintedDocument
    revision = PaintedRevision
    column: ClassVar[str] = "painted"
    word: ClassVar[str] = "painted copy"

    def of_figure(self, figure: int) -> tuple[PaintedNow, ...]:
        """Copies of a figure, the oldest first."""
        return tuple(one for one in self.all() if one.value.figure == figure)


class Mixes:
    """The mixes of a studio."""

    def __init__(self, sessions: Sessions) -> None:
        self._sessions = sessions

    def all(self) -> tuple[tuple[int, Mix], ...]:
        """Every mix that counts, with its number, the oldest first."""
        with self._sessions() as session:
            rows = session.scalars(select(MixRow).where(MixRow.struck.is_(None)).order_by(MixRow.id))
            return tuple((row.id, row.mix) for row in rows if isinstance(row.mix, Mix))

    def make(self, mix: Mix) -> int:
        """Keep a mix; its number."""
        with self._sessions.begin() as session:
            row = MixRow(mix=mix)
            session.add(row)
            session.flush()
            return row.id

    def change(self, number: int, mix: Mix) -> None:
        """Keep what is said of a mix.

        Raises NotThere.
        """
        with self._sessions.begin() as session:
            self._row(session, number).mix = mix

    def strike(self, number: int, struck: bool = True) -> None:
        """Let a mix count no more, or again.

        Raises NotThere.
        """
        with self._sessions.begin() as session:
            self._row(session, number).struck = datetime.now(UTC) if struck else None

    @staticmethod
    def _row(session: Session, number: int) -> MixRow:
        row = session.get(MixRow, number)
        if row is None:
            raise NotThere("There is no such mix: look at them again.")
        return row


def air_of(session: Session) -> Air:
    """The air where it is painted, as it was read last."""
    held = session.get(StudioValue, _AIR)
    return Air() if held is None else Air.model_validate(held.value)


def set_air(sessions: Sessions, air: Air) -> None:
    """Keep what the air is."""
    with sessions.begin() as session:
        session.merge(StudioValue(name=_AIR, value=air.model_dump(mode="json")))
