"""What is planned for all figures: what is wanted, as it is kept, and what came of planning it."""

from datetime import datetime
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from ulvet.core.days.plan import Machine, Schedule, Task
from ulvet.core.plates.plate import PlateTold
from ulvet.core.plates.sums import Sums

__all__ = ["LyingDrawn", "PlanTold", "PlateDrawn", "Unfit", "WantedPart", "WantedPlan"]

_MOST_WANTED = 300
"""Lines of a plan (bench default)."""


class WantedPart(BaseModel):
    """So many copies of a part of a figure in an edition; all its parts where none is named."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    figure: int = Field(ge=1)
    edition: str = Field(default="", max_length=40)
    part: str = Field(default="", max_length=400)
    count: int = Field(default=1, ge=1, le=500)


class WantedPlan(BaseModel):
    """What is to be printed, from when on and until when. Times are of the clock on the wall."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    wanted: tuple[WantedPart, ...] = Field(default=(), max_length=_MOST_WANTED)
    most_parts: Annotated[int, Field(ge=1, le=500)] | None = None
    """Parts on one plate at most, so that less is lost at once."""
    begins: datetime | None = None
    """None is the next full hour."""
    due: datetime | None = None
    days_off: tuple[Annotated[str, Field(pattern=r"^\\d{4}-\\d{2}-\\d{2}$")], ...] = Field(default=(), max_length=400)


class LyingDrawn(BaseModel):
    """A part on a plate: its name, where its middle lies, mm, its turn, and its outlines there."""

    name: str
    figure: int
    edition: str = ""
    part: str = ""
    """Its lineage; empty of a plan that an earlier version made."""
    x: float
    y: float
    turn: float
    tall: float
    outlines: list[list[tuple[float, float]]]


class PlateDrawn(BaseModel):
    """A plate with what lies on it; ``wide`` and ``deep`` are of what may be used, mm."""

    number: int
    printer: str
    printer_name: str
    setting_name: str
    wide: float
    deep: float
    cleanup_min: float
    ready: list[str] = []
    """What is ticked before it is begun."""
    told: PlateTold
    lying: list[LyingDrawn]


class Unfit(BaseModel):
    """What could not be planned, and why."""

    name: str
    why: str


class PlanTold(BaseModel):
    """What came of planning."""

    plates: list[PlateDrawn]
    unfit: list[Unfit]
    sums: Sums | None
    machines: list[Machine]
    tasks: list[Task]
    schedule: Schedule | None
    why: str = ""
    """Why there are no days."""
