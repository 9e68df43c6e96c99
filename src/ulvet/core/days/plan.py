"""What is to be done, with which machines and hands, and when that is."""

from datetime import datetime, timedelta
from typing import Annotated, Literal, Self

from pydantic import BaseModel, ConfigDict, Field, model_validator

__all__ = ["Booked", "Bound", "HandsHours", "Machine", "Plan", "Schedule", "Task", "UnusablePlan"]

Id = Annotated[str, Field(min_length=1, max_length=120)]
Bound = Literal["machines", "hands", "the longest chain", "what is under way", "machines and hands together"]
"""What keeps a plan from being ready earlier."""
Minutes = Annotated[float, Field(ge=0, le=100_000, allow_inf_nan=False)]


class UnusablePlan(ValueError):
    """A plan that cannot be kept; its text is for the user."""


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class HandsHours(_Value):
    """Hours of a weekday (0 is Monday) in which somebody is there, 0 to 24 o'clock."""

    weekday: int = Field(ge=0, le=6)
    begin: float = Field(ge=0, le=24)
    end: float = Field(ge=0, le=24)


class Machine(_Value):
    """A printer, a station that washes or cures, or room to dry: of which so many tasks have a place at once."""

    id: Id
    name: str = Field(default="", max_length=120)
    places: int = Field(default=1, ge=1, le=100)


class Task(_Value):
    """Something to be done in one go.

    It begins with ``hands_before`` minutes of hands, goes on for ``minutes`` by itself and ends with ``hands_after``
    minutes of hands, which may have to wait until somebody is there: till then it keeps its machine. With no
    ``minutes`` of its own it is work of hands alone.
    """

    id: Id
    says: str = Field(default="", max_length=200)
    machines: tuple[Id, ...] = ()
    """Any of which may do it; none for what needs no machine."""
    minutes: dict[Id, Minutes] | Minutes = 0.0
    """By itself; by machine where that makes a difference."""
    hands_before: Minutes = 0.0
    hands_after: Minutes = 0.0
    after: tuple[Id, ...] = ()
    """Tasks that must be over before it begins."""
    wait: Minutes = 0.0
    """That must pass after those, for something to dry."""
    due: datetime | None = None
    begun: datetime | None = None
    """Set for what is under way: it stays where it is."""
    on: Id | None = None
    """The machine it was begun on, or must be done on."""
    not_before: datetime | None = None


class Plan(_Value):
    """Tasks, machines and hours of hands, from a moment on. All times are of one clock on the wall."""

    begins: datetime
    machines: tuple[Machine, ...] = ()
    hours: tuple[HandsHours, ...] = ()
    days_off: tuple[str, ...] = ()
    """Days, as 2026-12-24, on which nobody is there."""
    tasks: tuple[Task, ...] = Field(max_length=2_000)

    @model_validator(mode="after")
    def _names_agree(self) -> Self:
        ids = [task.id for task in self.tasks]
        if len(set(ids)) < len(ids):
            raise ValueError("two tasks have one id: give each its own")
        machines = {machine.id for machine in self.machines}
        for task in self.tasks:
            named = {*task.machines, *([task.on] if task.on else [])}
            if missing := sorted(named - machines):
                raise ValueError(f"{task.id} needs {missing[0]}, which is no machine of this plan")
            if missing := sorted(set(task.after) - set(ids)):
                raise ValueError(f"{task.id} comes after {missing[0]}, which is no task of this plan")
            if isinstance(task.minutes, dict) and (missing := sorted(set(task.machines) - set(task.minutes))):
                raise ValueError(f"{task.id} does not say how long it takes on {missing[0]}")
        if any(moment.tzinfo for task in self.tasks for moment in (task.due, task.begun, task.not_before) if moment):
            raise ValueError("times are given without a time zone: those of the clock on the wall")
        return self


class Booked(_Value):
    """When a task is done: from when hands begin it, when it runs by itself, and when hands end it."""

    task: Id
    machine: Id | None
    begin: datetime
    runs: datetime
    ends: datetime
    """When it could be ended, if hands are there."""
    over: datetime
    late_minutes: float = 0.0
    """By which it is over after it is due."""
    waits: bool = False
    """Whether its end falls where nobody is there, so that it keeps its machine until somebody is."""


class Schedule(_Value):
    """All tasks, in the order in which they begin; when the last is over; and the moment before which no plan with
    these machines and hands could be."""

    booked: tuple[Booked, ...]
    ready: datetime
    bound: datetime
    bound_by: Bound
    method: str

    @property
    def minutes_over_bound(self) -> float:
        """How much later than the bound it is ready."""
        return (self.ready - self.bound) / timedelta(minutes=1)
