"""Hours that are logged, over HTTP."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import AwareDatetime, BaseModel, Field

from ulvet.api.asked import AtStudio, RowNumber
from ulvet.work import hours
from ulvet.work.hours import HoursKind, LoggedTime

__all__ = ["router"]

router = APIRouter(prefix="/hours", tags=["hours"])
Minutes = Annotated[float, Field(gt=0, le=100_000, allow_inf_nan=False)]


class BeginHours(BaseModel):
    """What is begun now."""

    figure: int = Field(ge=1, le=2**53)
    kind: HoursKind


class StopHours(BaseModel):
    """A remark on what was done."""

    says: str = Field(default="", max_length=200)


class EnterHours(BeginHours):
    """Time that was worked before."""

    began: AwareDatetime
    minutes: Minutes
    says: str = Field(default="", max_length=200)


@router.get("")
def logged(studio: AtStudio) -> list[LoggedTime]:
    """All that was logged, the newest first."""
    return list(hours.hours_of(studio))


@router.post("", status_code=201)
def enter(asked: EnterHours, studio: AtStudio) -> list[LoggedTime]:
    """Enter time that was worked."""
    hours.enter_hours(studio, asked.figure, asked.kind, asked.began, asked.minutes, asked.says)
    return list(hours.hours_of(studio))


@router.post("/begun", status_code=201)
def begin(asked: BeginHours, studio: AtStudio) -> list[LoggedTime]:
    """Begin to count time; what else is counted is stopped."""
    hours.begin_hours(studio, asked.figure, asked.kind)
    return list(hours.hours_of(studio))


@router.post("/{entry}/stopped")
def stop(entry: RowNumber, asked: StopHours, studio: AtStudio) -> list[LoggedTime]:
    """Stop counting."""
    hours.stop_hours(studio, entry, asked.says)
    return list(hours.hours_of(studio))


@router.delete("/{entry}")
def strike(entry: RowNumber, studio: AtStudio) -> list[LoggedTime]:
    """Let an entry count no more."""
    hours.strike_hours(studio, entry)
    return list(hours.hours_of(studio))


@router.post("/{entry}/put-back")
def put_back(entry: RowNumber, studio: AtStudio) -> list[LoggedTime]:
    """Let an entry count again."""
    hours.strike_hours(studio, entry, struck=False)
    return list(hours.hours_of(studio))
