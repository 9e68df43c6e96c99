"""What came of planning, as it is kept."""

from datetime import datetime

from pydantic import BaseModel

from ulvet.core.days.plan import Machine, Schedule, Task
from ulvet.core.plates.plate import PlateTold
from ulvet.core.plates.sums import Sums
from ulvet.core.plates.winning import Won
from ulvet.core.stock.shortages import Shortage

__all__ = ["LyingDrawn", "PlanTold", "PlateDrawn", "Unfit", "WonTold"]


class LyingDrawn(BaseModel):
    """A part on a plate: its name, where its middle lies, mm, its turn, and its outlines about its middle before it is
    turned."""

    name: str
    figure: int
    edition: str
    part: str
    """Its lineage."""
    layers: str
    x: float
    y: float
    turn: float
    tall: float
    outlines: list[list[tuple[float, float]]]
    by_hand: bool
    pull_N: float | None = None  # noqa: N815  (newtons are written so)
    """Pull on its largest layer; None in filament."""
    foot_mm2: float = 0.0
    """Area that it stands on."""


class PlateDrawn(BaseModel):
    """A plate with what lies on it; ``wide`` and ``deep`` are of what may be used, mm."""

    number: int
    tag: str
    """What the ids of its tasks end in."""
    setting: str
    printer: str
    printer_name: str
    setting_name: str
    wide: float
    deep: float
    margin: float
    ready: list[str]
    """What is ticked before it is begun."""
    card: list[tuple[str, str]]
    """What has to be set in whatever slices it, and what that should then show."""
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
    changed: list[str]
    """What the hand placed that does not count any more."""
    sums: Sums | None
    machines: list[Machine]
    tasks: list[Task]
    away: list[tuple[datetime, datetime]]
    """When nobody is there, while it lasts."""
    schedule: Schedule | None
    short: list[Shortage]
    why: str = ""
    """Why there are no days."""


class WonTold(BaseModel):
    """What was tried to win time, what wins most first."""

    tried: list[Won]
