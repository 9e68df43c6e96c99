"""Add it up: what plates and the work after them take in printing, hands, waiting, material and money."""

from collections.abc import Mapping, Sequence

from pydantic import BaseModel, ConfigDict

from ulvet.core.bench.bench import Bench
from ulvet.core.days.plan import Plan, Task
from ulvet.core.plates.tasks import PlannedPlate, Work, work_of

__all__ = ["FailRate", "HandsKind", "LineSum", "Sums", "sums_of"]

_MANY_HOURS_S = 36_000.0
"""Ten hours, in which failures are told besides those a plate."""
_HANDS = {
    Work.PRINT: "plates begun and taken off", Work.SPARE: "plates begun and taken off",
    Work.WASH: "washing and curing", Work.CURE: "washing and curing", Work.CLEAN_UP: "supports off",
    Work.FINISH: "sanding, gluing and painting",
}  # fmt: skip
"""What hands are told for, by what a task is."""


class FailRate(BaseModel):
    """How often plates of a setting failed: as a share with the range that holds nine times in ten, of so many plates;
    none where too few were printed, and the bench's own share stands."""

    model_config = ConfigDict(frozen=True)

    low: float
    high: float
    plates: int


class HandsKind(BaseModel):
    """Minutes of hands for one kind of work."""

    model_config = ConfigDict(frozen=True)

    says: str
    minutes: float


class LineSum(BaseModel):
    """What one line of a plan takes: its share of the plates by material, and its own hands. Estimates."""

    model_config = ConfigDict(frozen=True)

    says: str
    figure: int
    edition: str
    copies: int
    printing_s: float
    hands_min: float
    material_ml: float
    money: float


class Sums(BaseModel):
    """What all plates take together; hands and waiting apart. Estimates."""

    model_config = ConfigDict(frozen=True)

    plates: int
    printing_s: float
    hands_min: float
    hands: tuple[HandsKind, ...]
    waiting_min: float
    """Washing, drying, curing and setting by themselves."""
    resin_ml: float
    filament_ml: float
    money: float
    paint_money: float
    power_kwh: float
    failures_s: float
    """Printing allowed for plates that fail, at each setting's rate."""
    fail_share: float
    fail_low: float | None = None
    fail_high: float | None = None
    """Range of the rate, None where a setting has too few plates for one."""
    fail_plates: int = 0
    """Plates it comes from."""
    fails_in_ten_hours: float
    lines: tuple[LineSum, ...] = ()


def sums_of(
    plates: Sequence[PlannedPlate],
    plan: Plan,
    bench: Bench,
    rates: Mapping[str, FailRate] = {},
    lines: Sequence[LineSum] = (),
    paint_money: float = 0.0,
) -> Sums:
    """What plates and the tasks they became take together; what is printed already counts no more."""
    todo = [plate for plate in plates if not plate.printed]
    printing = sum(plate.told.seconds for plate in todo)
    printers = {one.id: one for one in bench.printers}
    fails = {one.id: one.fails for one in bench.settings}
    # What is under way may be of a setting or printer that is not on the bench any more.
    failures = sum(plate.told.seconds * fails.get(plate.setting, 0.0) for plate in todo)
    hands: dict[str, float] = {}
    for task in plan.tasks:
        kind = _HANDS[work_of(task)]
        hands[kind] = hands.get(kind, 0.0) + task.hands_before + task.hands_after
    known = {plate.setting: rates[plate.setting] for plate in todo if plate.setting in rates}
    whole = bool(known) and len(known) == len({plate.setting for plate in todo})

    def weighed(name: str) -> float:
        return sum(plate.told.seconds * getattr(known[plate.setting], name) for plate in todo) / printing

    return Sums(
        plates=len(todo),
        printing_s=printing,
        hands_min=sum(hands.values()),
        hands=tuple(HandsKind(says=says, minutes=minutes) for says, minutes in hands.items()),
        waiting_min=sum(
            _alone(task) + task.wait for task in plan.tasks if work_of(task) not in (Work.PRINT, Work.SPARE)
        ),
        resin_ml=sum(plate.told.material_ml for plate in todo if plate.process == "resin"),
        filament_ml=sum(plate.told.material_ml for plate in todo if plate.process == "filament"),
        money=sum(plate.told.money for plate in todo),
        paint_money=paint_money,
        power_kwh=sum(
            printers[plate.printer].power * plate.told.seconds / 3.6e6 for plate in todo if plate.printer in printers
        ),
        failures_s=failures,
        fail_share=failures / printing if printing else 0.0,
        fail_low=weighed("low") if whole and printing else None,
        fail_high=weighed("high") if whole and printing else None,
        fail_plates=sum(rate.plates for rate in known.values()),
        fails_in_ten_hours=sum(fails.get(plate.setting, 0.0) for plate in todo) / max(printing / _MANY_HOURS_S, 1e-9)
        if printing else 0.0,
        lines=tuple(lines),
    )  # fmt: skip


def _alone(task: Task) -> float:
    return task.minutes if isinstance(task.minutes, float) else max(task.minutes.values(), default=0.0)
