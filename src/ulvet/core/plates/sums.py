"""Add it up: what plates take in printing, hands, waiting, material and money, and the tasks that they become."""

from collections.abc import Sequence
from datetime import datetime

import numpy as np
from pydantic import BaseModel, ConfigDict

from ulvet.core.bench.bench import Bench
from ulvet.core.days.plan import HandsHours, Machine, Plan, Task
from ulvet.core.plates.plate import PlateTold

__all__ = ["PlannedPlate", "Sums", "days_plan", "sums_of"]

_BEFORE, _AFTER = 10.0, 12.0
"""Minutes of hands to begin a plate and to take it off (bench default)."""
_WASH_HANDS = 6.0
"""Minutes of hands to wash a plate's parts (bench default)."""
_DRIES = 30.0
"""Minutes that washed parts dry before they are cured (bench default)."""
_A_GO = 90.0
"""Minutes that are cleaned up in one go at most (bench default)."""
_WEEK = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
"""Ids of the bench's hours, by the day of the week."""


class PlannedPlate(BaseModel):
    """A plate as it is planned: its number, printer and setting, what it takes, and minutes of cleaning up after."""

    model_config = ConfigDict(frozen=True)

    number: int
    printer: str
    setting: str
    process: str
    told: PlateTold
    cleanup_min: float


class Sums(BaseModel):
    """What all plates take together; hands and waiting apart. Estimates."""

    model_config = ConfigDict(frozen=True)

    plates: int
    printing_s: float
    hands_min: float
    waiting_min: float
    """Washing, drying and curing by themselves."""
    resin_ml: float
    filament_ml: float
    money: float
    power_kwh: float
    failures_s: float
    """Printing allowed for plates that fail, at the bench's rate."""
    fail_share: float


def sums_of(plates: Sequence[PlannedPlate], plan: Plan, bench: Bench) -> Sums:
    """What plates and the tasks they became take together."""
    printing = sum(plate.told.seconds for plate in plates)
    printers = {one.id: one for one in bench.printers}
    fails = {one.id: one.fails for one in bench.settings}
    failures = sum(plate.told.seconds * fails[plate.setting] for plate in plates)
    prints = {_print_id(plate.number) for plate in plates}
    by_itself = sum(_alone(task) + task.wait for task in plan.tasks if task.id not in prints)
    return Sums(
        plates=len(plates),
        printing_s=printing,
        hands_min=sum(task.hands_before + task.hands_after for task in plan.tasks),
        waiting_min=by_itself,
        resin_ml=sum(plate.told.material_ml for plate in plates if plate.process == "resin"),
        filament_ml=sum(plate.told.material_ml for plate in plates if plate.process == "filament"),
        money=sum(plate.told.money for plate in plates),
        power_kwh=sum(printers[plate.printer].power * plate.told.seconds / 3.6e6 for plate in plates),
        failures_s=failures,
        fail_share=failures / printing if printing else 0.0,
    )


def days_plan(
    plates: Sequence[PlannedPlate], bench: Bench, begins: datetime, due: datetime | None, days_off: Sequence[str] = ()
) -> Plan:
    """Plates as tasks: print, then in resin wash, dry and cure where the bench has what does it, then clean up.

    Each is printed on the printer that it was packed for. Hours of hands are the bench's.
    """
    stations = [one for one in bench.stations if not one.retired]
    wash = next((one for one in stations if one.does == "wash"), None)
    cure = next((one for one in stations if one.does == "cure"), None)
    used = dict.fromkeys(plate.printer for plate in plates)
    names = {one.id: one.name for one in bench.printers}
    machines = [Machine(id=one, name=names[one]) for one in used]
    machines += [Machine(id=one.id, name=one.name) for one in (wash, cure) if one is not None]
    tasks: list[Task] = []
    for plate in plates:
        last = _print_id(plate.number)
        says = f"plate {plate.number}"
        minutes = plate.told.seconds / 60
        tasks.append(Task(id=last, says=says, machines=(plate.printer,), minutes=minutes, hands_before=_BEFORE,
                          hands_after=_AFTER))  # fmt: skip
        if plate.process == "resin":
            for station, hands, dries in ((wash, _WASH_HANDS, 0.0), (cure, 0.0, _DRIES)):
                if station is not None:
                    name, says = f"{station.does}-{plate.number}", f"{station.does} plate {plate.number}"
                    tasks.append(Task(id=name, says=says, machines=(station.id,), minutes=station.minutes,
                                      hands_before=hands, after=(last,), wait=dries))  # fmt: skip
                    last = name
        tasks += _cleaning(plate, last, due)
    hours = [HandsHours(weekday=_WEEK.index(one.id), begin=one.begin, end=one.end)
             for one in bench.hours if one.id in _WEEK]  # fmt: skip
    return Plan(
        begins=begins, machines=tuple(machines), hours=tuple(hours), days_off=tuple(days_off), tasks=tuple(tasks)
    )


def _cleaning(plate: PlannedPlate, last: str, due: datetime | None) -> list[Task]:
    """Supports off and sanded, in goes that somebody can be there for."""
    goes = max(1, int(np.ceil(plate.cleanup_min / _A_GO)))
    tasks: list[Task] = []
    for k in range(goes):
        name = f"clean-{plate.number}" if k == 0 else f"clean-{plate.number}-{k + 1}"
        tasks.append(Task(id=name, says=f"clean up plate {plate.number}", hands_before=plate.cleanup_min / goes,
                          after=(last,), due=due if k == goes - 1 else None))  # fmt: skip
        last = name
    return tasks


def _print_id(number: int) -> str:
    return f"plate-{number}"


def _alone(task: Task) -> float:
    return task.minutes if isinstance(task.minutes, float) else max(task.minutes.values(), default=0.0)
