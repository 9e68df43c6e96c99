"""Plates as tasks: print, wash, dry, cure, clean up, and then what puts together and paints."""

from collections.abc import Collection, Sequence
from datetime import datetime
from enum import StrEnum

import numpy as np
from pydantic import BaseModel, ConfigDict

from ulvet.core.bench.bench import Bench
from ulvet.core.bench.workshop import WorkStation
from ulvet.core.days.plan import HandsHours, Machine, Plan, Task
from ulvet.core.finish.order import WorkRow
from ulvet.core.plates.plate import PlateTold
from ulvet.core.plates.wanted import Move

__all__ = ["PaintedLine", "PlannedPlate", "Work", "days_plan", "work_of"]

_BEFORE, _AFTER = 10.0, 12.0
"""Minutes of hands to begin a plate and to take it off (bench default)."""
_WASH_HANDS = 6.0
"""Minutes of hands to wash a plate's parts (bench default)."""
_DRIES = 30.0
"""Minutes that washed parts dry before they are cured (bench default)."""
_CURES_OUTSIDE = 240.0
"""Minutes that a part cures in daylight that is too large for what cures it (bench default)."""
_WASHES_OUTSIDE = 20.0
"""Minutes of hands to wash a part by hand that is too large for what washes it (bench default)."""
_A_GO = 90.0
"""Minutes of hands that are done in one go at most (bench default)."""
_WEEK = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
"""Ids of the bench's hours, by the day of the week."""


class Work(StrEnum):
    """What a task is; its id begins with it."""

    PRINT = "plate"
    SPARE = "spare"
    WASH = "wash"
    CURE = "cure"
    CLEAN_UP = "clean"
    FINISH = "finish"


def work_of(task: Task) -> Work:
    """What a task of a plan is that ``days_plan`` made."""
    return Work(task.id.split("-", 1)[0])


class PlannedPlate(BaseModel):
    """A plate as it is planned: its number, printer and setting, what it takes, and minutes of cleaning up after.

    ``tag`` names its tasks and stays when other plates change; ``seconds_on`` has every printer that prints the same
    layers, the one it was packed for among them; ``lines`` are the painted lines that wait for it. One that was begun
    has the proof's number and moment; one whose print is over is not printed again.
    """

    model_config = ConfigDict(frozen=True)

    number: int
    printer: str
    setting: str
    process: str
    told: PlateTold
    cleanup_min: float
    tag: str = ""
    seconds_on: dict[str, float] = {}
    largest_mm: tuple[float, float, float] = (0.0, 0.0, 0.0)
    """Size of its largest part."""
    lines: tuple[int, ...] = ()
    proof: int | None = None
    begun: datetime | None = None
    printed: bool = False

    @property
    def of_tasks(self) -> str:
        """What the ids of its tasks end in."""
        return f"proof-{self.proof}" if self.proof is not None else self.tag or str(self.number)

    @property
    def says(self) -> str:
        """What it is called."""
        return f"proof {self.proof}" if self.proof is not None else f"plate {self.number}"


class PaintedLine(BaseModel):
    """What is put together and painted once all its parts are there: so many copies, with the work of one."""

    model_config = ConfigDict(frozen=True)

    number: int
    says: str
    count: int
    work: tuple[WorkRow, ...]


def days_plan(
    plates: Sequence[PlannedPlate],
    bench: Bench,
    begins: datetime,
    due: datetime | None,
    days_off: Sequence[str] = (),
    painted: Sequence[PaintedLine] = (),
    moves: Sequence[Move] = (),
    done: Collection[str] = (),
    spare_from: float | None = None,
) -> Plan:
    """Plates as tasks: print, then in resin wash, dry and cure, then clean up; then what is put together and painted.

    Each is printed on one of the printers that print its layers alike. What is too large for a station is washed or
    cured outside it. Where a setting fails as often as ``spare_from`` the same plate has time to be printed again.
    Tasks that are ``done`` are left out; ``moves`` of tasks that are no more have no effect. Hours are the bench's.
    """
    stations = [one for one in bench.stations if not one.retired]
    used = dict.fromkeys(name for plate in plates for name in (plate.printer, *plate.seconds_on))
    names = {one.id: one.name for one in bench.printers}
    fails = {one.id: one.fails for one in bench.settings}
    machines = [Machine(id=one, name=names.get(one, one)) for one in used]
    machines += [Machine(id=one.id, name=one.name) for one in stations if one.does in (Work.WASH, Work.CURE)]
    tasks: list[Task] = []
    ends: dict[int, list[str]] = {}
    for plate in plates:
        made = _of_plate(plate, stations, due if not plate.lines else None)
        if spare_from is not None and plate.proof is None and fails.get(plate.setting, 0.0) >= spare_from:
            made.append(_spare(plate, made[0]))
        tasks += made
        for number in plate.lines:
            ends.setdefault(number, []).extend(task.id for task in made[-2:])
    for line in painted:
        tasks += _painting(line, ends.get(line.number, []), due)
    return Plan(
        begins=begins, machines=tuple(machines), hours=_hours(bench), days_off=tuple(days_off),
        tasks=_moved(_without(tasks, set(done)), {move.task: move for move in moves}, {one.id for one in machines}),
    )  # fmt: skip


def _of_plate(plate: PlannedPlate, stations: Sequence[WorkStation], due: datetime | None) -> list[Task]:
    tag, says = plate.of_tasks, plate.says
    tasks: list[Task] = []
    if not plate.printed:
        minutes = {name: seconds / 60 for name, seconds in plate.seconds_on.items()}
        tasks.append(Task(id=f"{Work.PRINT}-{tag}", says=says, machines=tuple(minutes) or (plate.printer,),
                          minutes=minutes or plate.told.seconds / 60, hands_before=_BEFORE, hands_after=_AFTER,
                          begun=plate.begun, on=plate.printer if plate.begun else None))  # fmt: skip
    last = (f"{Work.PRINT}-{tag}",) if tasks else ()
    if plate.process == "resin":
        for does in (Work.WASH, Work.CURE):
            station = next((one for one in stations if one.does == does), None)
            if station is not None:
                task = _in_station(station, plate, last)
                tasks.append(task)
                last = (task.id,)
    return [*tasks, *_in_goes(f"{Work.CLEAN_UP}-{tag}", f"clean up {says}", plate.cleanup_min, last, due)]


def _in_station(station: WorkStation, plate: PlannedPlate, after: tuple[str, ...]) -> Task:
    washes = station.does == "wash"
    says = f"{station.does} {plate.says}"
    dries = 0.0 if washes else _DRIES
    fits = all(a <= b for a, b in zip(sorted(plate.largest_mm), sorted(station.volume), strict=True))
    if fits:
        return Task(id=f"{station.does}-{plate.of_tasks}", says=says, machines=(station.id,), minutes=station.minutes,
                    hands_before=_WASH_HANDS if washes else 0.0, after=after, wait=dries)  # fmt: skip
    outside = "by hand" if washes else "in daylight"
    return Task(id=f"{station.does}-{plate.of_tasks}", says=f"{says} {outside}, as it is larger than {station.name}",
                minutes=0.0 if washes else _CURES_OUTSIDE, hands_before=_WASHES_OUTSIDE if washes else 2.0,
                after=after, wait=dries)  # fmt: skip


def _in_goes(
    name: str, says: str, minutes: float, after: tuple[str, ...], due: datetime | None, wait: float = 0.0
) -> list[Task]:
    """Work of hands, in goes that somebody can be there for."""
    goes = max(1, int(np.ceil(minutes / _A_GO)))
    tasks: list[Task] = []
    for k in range(goes):
        own = name if k == 0 else f"{name}-{k + 1}"
        tasks.append(Task(id=own, says=says, hands_before=minutes / goes, after=after, wait=0.0 if k else wait,
                          due=due if k == goes - 1 else None))  # fmt: skip
        after = (own,)
    return tasks


def _spare(plate: PlannedPlate, print_: Task) -> Task:
    """Time for the same plate again, should it fail."""
    return print_.model_copy(
        update={
            "id": f"{Work.SPARE}-{plate.of_tasks}",
            "says": f"{plate.says} again, should it fail",
            "after": (print_.id,),
        }
    )


def _painting(line: PaintedLine, after: Sequence[str], due: datetime | None) -> list[Task]:
    """The work of a line in its order, each behind what dries before it."""
    tasks: list[Task] = []
    last, wait = tuple(dict.fromkeys(after)), 0.0
    for k, row in enumerate(line.work):
        of_last = due if k == len(line.work) - 1 else None
        says = f"{row.what.lower()}: {line.says}"[:200]
        goes = _in_goes(f"{Work.FINISH}-{line.number}-{k + 1}", says, row.hands_min * line.count, last, of_last, wait)
        tasks += goes
        last, wait = (goes[-1].id,), row.wait_min
    return tasks


def _without(tasks: Sequence[Task], done: set[str]) -> list[Task]:
    """Tasks that are still to be done; what came after one that is done comes after nothing."""
    return [
        task.model_copy(update={"after": tuple(one for one in task.after if one not in done)})
        for task in tasks
        if task.id not in done
    ]


def _moved(tasks: Sequence[Task], moves: dict[str, Move], machines: set[str]) -> tuple[Task, ...]:
    return tuple(
        task.model_copy(update={
            "not_before": moves[task.id].not_before,
            "on": moves[task.id].on if moves[task.id].on in machines & set(task.machines) else task.on,
        })
        if task.id in moves and task.begun is None else task
        for task in tasks
    )  # fmt: skip


def _hours(bench: Bench) -> tuple[HandsHours, ...]:
    return tuple(
        HandsHours(weekday=_WEEK.index(one.id), begin=one.begin, end=one.end) for one in bench.hours if one.id in _WEEK
    )
