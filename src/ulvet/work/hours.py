"""Hours that are logged: design, clean-up, painting, by figure; begun and stopped, or entered."""

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from ulvet.store.models import Figure, LoggedHours
from ulvet.work.refusals import NotThere, Refused
from ulvet.work.studio import Studio

__all__ = ["HoursKind", "LoggedTime", "begin_hours", "enter_hours", "hours_of", "stop_hours", "strike_hours"]

HoursKind = Literal["design", "clean-up", "painting"]
_MOST_MINUTES = 100_000.0
"""Of one entry (bench default)."""


@dataclass(frozen=True)
class LoggedTime:
    """Time that was worked; ``minutes`` is None while it runs."""

    number: int
    figure: int
    figure_name: str
    kind: HoursKind
    began: datetime
    minutes: float | None
    says: str


def hours_of(studio: Studio) -> tuple[LoggedTime, ...]:
    """All that was logged, the newest first."""
    with studio.sessions() as session:
        rows = session.execute(
            select(LoggedHours, Figure.name)
            .join(Figure, Figure.id == LoggedHours.figure_id)
            .where(LoggedHours.struck.is_(None), Figure.deleted.is_(None))
            .order_by(LoggedHours.began.desc(), LoggedHours.id.desc())
        )
        return tuple(
            LoggedTime(one.id, one.figure_id, name, one.kind, one.began, one.minutes, one.says)  # type: ignore[arg-type]
            for one, name in rows
        )


def begin_hours(studio: Studio, figure: int, kind: HoursKind) -> int:
    """Begin to count time; what else is counted is stopped, as hands do one thing at a time.

    Raises NotThere.
    """
    studio.figure_and_head(figure)
    now = datetime.now(UTC)
    with studio.sessions.begin() as session:
        for row in session.scalars(
            select(LoggedHours).where(LoggedHours.minutes.is_(None), LoggedHours.struck.is_(None))
        ):
            row.minutes = _minutes(row.began, now)
        return _added(session, LoggedHours(figure_id=figure, kind=kind, began=now, minutes=None, says=""))


def stop_hours(studio: Studio, number: int, says: str = "") -> None:
    """Stop counting.

    Raises NotThere, and Refused where it was stopped before.
    """
    with studio.sessions.begin() as session:
        row = _row(session, number)
        if row.minutes is not None:
            raise Refused("That was stopped before: enter its time anew, if it is wrong; nothing was changed.")
        row.minutes, row.says = _minutes(row.began, datetime.now(UTC)), says


def enter_hours(studio: Studio, figure: int, kind: HoursKind, began: datetime, minutes: float, says: str = "") -> int:
    """Keep time that was worked; its number.

    Raises NotThere, and Refused for no time, or more than can be.
    """
    if not 0 < minutes <= _MOST_MINUTES:
        raise Refused(f"Time is more than 0 and at most {_MOST_MINUTES:.0f} minutes: enter it again; nothing changed.")
    studio.figure_and_head(figure)
    with studio.sessions.begin() as session:
        return _added(session, LoggedHours(figure_id=figure, kind=kind, began=began, minutes=minutes, says=says))


def strike_hours(studio: Studio, number: int, struck: bool = True) -> None:
    """Let an entry count no more, or again.

    Raises NotThere.
    """
    with studio.sessions.begin() as session:
        _row(session, number).struck = datetime.now(UTC) if struck else None


def _row(session: Session, number: int) -> LoggedHours:
    row = session.get(LoggedHours, number)
    if row is None:
        raise NotThere("No such time was logged: look at it again.")
    return row


def _added(session: Session, row: LoggedHours) -> int:
    session.add(row)
    session.flush()
    return row.id


def _minutes(began: datetime, ended: datetime) -> float:
    return min(max((ended - began).total_seconds() / 60, 0.0), _MOST_MINUTES)
