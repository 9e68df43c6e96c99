"""The jobs that pack what is wanted on plates and plan its days, and that try what would win time."""

from datetime import datetime, timedelta
from typing import Any

from ulvet.core.bench.bench import Bench
from ulvet.core.bench.settings_card import settings_card
from ulvet.core.days.hands import Hands
from ulvet.core.days.plan import Plan, Schedule, UnusablePlan
from ulvet.core.days.scheduling import plan_days
from ulvet.core.layers.clock import hours_and_minutes
from ulvet.core.plates.outline import outlines_of
from ulvet.core.plates.planning import PackedPlate, Packing, WantedPiece, packed, planned_plate
from ulvet.core.plates.plate import Piece, Risk, piece_of
from ulvet.core.plates.sums import FailRate, LineSum, Sums, sums_of
from ulvet.core.plates.tasks import PaintedLine, PlannedPlate, Work, days_plan
from ulvet.core.plates.wanted import WantedPlan
from ulvet.core.plates.winning import Won, changes_to_try
from ulvet.core.progress import Progress, progress_within
from ulvet.core.proof.ready import ready_list
from ulvet.core.recipe.step import plural
from ulvet.core.stock.good import goods_of, key_of_material, material_amount
from ulvet.core.stock.shortages import Need, shortages
from ulvet.store.blobs import Blobs
from ulvet.store.folder import DataFolder
from ulvet.work.job_values import Values
from ulvet.work.layer_store import layers_from
from ulvet.work.plan_record import LyingDrawn, PlanTold, PlateDrawn, Unfit, WonTold

__all__ = ["plan", "win_time"]

_TRIED_ORDERS = 60
"""Orders that are tried for each change that might win time (bench default)."""


def plan(folder: DataFolder, values: Values, progress: Progress) -> Values:
    """Pack pieces on plates and plan their days: see ``_Asked`` for the values. Gives the hash of what came of it."""
    blobs, asked = Blobs(folder.blobs), _Asked(values)
    pieces = asked.pieces(blobs, progress_within(progress, 0.0, 0.2))
    progress(0.2, "plates")
    packing = packed(pieces, asked.bench, Risk(most_parts=asked.plan.most_parts), asked.plan.plates)
    planned = asked.planned(packing)
    days = asked.days(planned)
    schedule, why = _scheduled(days, progress_within(progress, 0.5, 0.5))
    told = PlanTold(
        plates=[_drawn(plate, of, asked) for plate, of in zip(planned, packing.plates, strict=False)],
        unfit=asked.unfit + _unfit(packing, asked.bench),
        changed=[*packing.changed, *_lost_moves(asked.plan, days)],
        sums=asked.sums(planned, packing, days) if planned else None,
        machines=list(days.machines),
        tasks=list(days.tasks),
        away=_away(days, schedule),
        schedule=schedule,
        short=list(shortages(asked.needs(planned, schedule), goods_of(asked.bench), asked.there)),
        why=why,
    )
    return {"plan": blobs.put(told.model_dump_json().encode())}


def win_time(folder: DataFolder, values: Values, progress: Progress) -> Values:
    """Try changes to a plan, each packed and planned as the plan is. Gives the hash of what each would win."""
    blobs, asked = Blobs(folder.blobs), _Asked(values)
    pieces = asked.pieces(blobs, progress_within(progress, 0.0, 0.1))

    def tried(held: list[WantedPiece]) -> tuple[Sums, Schedule | None, int]:
        packing = packed(held, asked.bench, Risk(most_parts=asked.plan.most_parts))
        planned = asked.planned(packing)
        left = {one.line for one in held}
        days = asked.days(planned, left)
        return asked.sums(planned, packing, days), _scheduled(days)[0], len(packing.unfit)

    now, at, unfit = tried(pieces)
    changes = list(changes_to_try(pieces, asked.bench, asked.called))
    won: list[Won] = []
    for k, change in enumerate(changes):
        progress(0.1 + 0.9 * (k + 1) / (len(changes) + 1), change.says)
        sums, ready, left_over = tried(change.of(pieces))
        won.append(
            Won(
                says=change.says, roughly=change.roughly, printing_s=now.printing_s - sums.printing_s,
                hands_min=now.hands_min - sums.hands_min,
                material_ml=now.resin_ml + now.filament_ml - sums.resin_ml - sums.filament_ml,
                money=now.money + now.paint_money - sums.money - sums.paint_money, ready=ready and ready.ready,
                sooner_min=(at.ready - ready.ready) / timedelta(minutes=1) if at and ready else None,
                unfit=max(left_over - unfit, 0),
            )
        )  # fmt: skip
    won.sort(key=lambda one: (-(one.sooner_min or 0.0), -one.printing_s, one.says))
    return {"won": blobs.put(WonTold(tried=won).model_dump_json().encode())}


class _Asked:
    """The values of a job: ``bench``; ``plan``, what is wanted; ``pieces``, each with its ``layers``, ``count`` and
    line; ``lines``, what each line is called and what painting it takes; ``begun`` plates; ``unfit``; what is
    ``there`` by good; ``rates`` of failure by setting; and ``begins``."""

    def __init__(self, values: Values) -> None:
        self.bench = Bench.model_validate(values["bench"])
        self.plan = WantedPlan.model_validate(values["plan"])
        self.begins = datetime.fromisoformat(values["begins"])
        self.unfit = [Unfit(**one) for one in values["unfit"]]
        self.there: dict[str, float] = values["there"]
        self.called: list[str] = [one["says"] for one in values["lines"]]
        self._lines: list[dict[str, Any]] = values["lines"]
        self._begun = [PlannedPlate.model_validate(one) for one in values["begun"]]
        self._rates = {name: FailRate(**one) for name, one in values["rates"].items()}
        self._pieces: list[dict[str, Any]] = values["pieces"]

    def pieces(self, blobs: Blobs, progress: Progress) -> list[WantedPiece]:
        """Every copy that is wanted, as its layers show it."""
        seen: dict[tuple[str, str], Piece] = {}
        found = []
        for k, one in enumerate(self._pieces):
            progress(k / len(self._pieces), one["called"])
            key = (one["layers"], one["setting"])
            if key not in seen:
                setup = self.bench.setup(one["setting"])
                seen[key] = piece_of(one["called"], layers_from(blobs.read(one["layers"])), setup)
            of = {name: value for name, value in one.items() if name != "count"}
            found += [WantedPiece(**of, piece=seen[key])] * one["count"]
        return found

    def planned(self, packing: Packing) -> list[PlannedPlate]:
        """The plates as they are planned, and behind them those that were begun."""
        tags: set[str] = set()
        planned = [planned_plate(k, one, self.bench, tags) for k, one in enumerate(packing.plates, 1)]
        return [*planned, *self._begun]

    def days(self, planned: list[PlannedPlate], lines: set[int] | None = None) -> Plan:
        """Plates as tasks, with the painting of ``lines``, or of all."""
        painted = [
            PaintedLine(number=k, says=one["says"], count=one["count"], work=one["work"])
            for k, one in enumerate(self._lines)
            if one["work"] and (lines is None or k in lines)
        ]
        plan = self.plan
        return days_plan(
            planned, self.bench, self.begins, plan.due, plan.days_off, painted, plan.moves, plan.done, plan.spare_from
        )

    def sums(self, planned: list[PlannedPlate], packing: Packing, days: Plan) -> Sums:
        """What all of it takes, and each line of it."""
        lines = [self._line_sum(k, packing, days) for k in range(len(self._lines))]
        there = {one.line for plate in packing.plates for one in plate.pieces}
        paint = sum(one["paint_money"] * one["count"] for k, one in enumerate(self._lines) if k in there)
        return sums_of(planned, days, self.bench, self._rates, [one for one in lines if one is not None], paint)

    def needs(self, planned: list[PlannedPlate], schedule: Schedule | None) -> list[Need]:
        """What of stock each plate and each line takes, and when it does."""
        begins = {one.task: one.begin for one in schedule.booked} if schedule else {}
        needs = []
        for plate in planned:
            if plate.proof is None:
                material = self.bench.setup(plate.setting).material.id
                amount = material_amount(self.bench, material, plate.told.material_ml)
                at = begins.get(f"{Work.PRINT}-{plate.of_tasks}")
                needs.append(Need(key_of_material(material), amount, at, plate.says))
        for k, line in enumerate(self._lines):
            at = min((at for task, at in begins.items() if task.startswith(f"{Work.FINISH}-{k}-")), default=None)
            needs += [Need(good, amount * line["count"], at, line["says"]) for good, amount in line["takes"].items()]
        return needs

    def _line_sum(self, number: int, packing: Packing, days: Plan) -> LineSum | None:
        """A line's share of the plates, by material, and its own hands; None where nothing of it is to be printed."""
        line = self._lines[number]
        seconds = money = ml = cleanup = 0.0
        copies = 0
        for plate in packing.plates:
            whole = sum(float(one.piece.areas.sum()) for one in plate.pieces)
            mine = [one for one in plate.pieces if one.line == number]
            share = sum(float(one.piece.areas.sum()) for one in mine) / whole if whole else 0.0
            seconds += share * plate.told.seconds
            money += share * plate.told.money
            ml += share * plate.told.material_ml
            cleanup += sum(one.cleanup_min for one in mine)
            copies += len(mine)
        if not copies:
            return None
        painting = sum(task.hands_before for task in days.tasks if task.id.startswith(f"{Work.FINISH}-{number}-"))
        return LineSum(
            says=line["says"], figure=line["figure"], edition=line["edition"], copies=copies, printing_s=seconds,
            hands_min=cleanup + painting, material_ml=ml, money=money + line["paint_money"] * line["count"],
        )  # fmt: skip


def _scheduled(days: Plan, progress: Progress | None = None) -> tuple[Schedule | None, str]:
    """The days, or why there are none; tried in short where nobody hears of it."""
    if not days.tasks:
        return None, ""
    try:
        if progress is None:
            return plan_days(days, _TRIED_ORDERS, effort=0.0), ""
        return plan_days(days, progress=progress), ""
    except UnusablePlan as refusal:
        return None, str(refusal)


def _away(days: Plan, schedule: Schedule | None) -> list[tuple[datetime, datetime]]:
    """When nobody is there, from the midnight before a schedule begins to the one after it is ready."""
    if schedule is None:
        return []
    first = min((one.begin for one in schedule.booked), default=days.begins)
    first = min(first, days.begins).replace(hour=0, minute=0, second=0, microsecond=0)
    last = schedule.ready.replace(hour=0, minute=0, second=0, microsecond=0) + timedelta(days=1)
    away, at = [], first
    for begin, end in Hands(first, days.hours, days.days_off).stretches:
        begins, ends = first + timedelta(minutes=begin), first + timedelta(minutes=end)
        if begins >= last:
            break
        if begins > at:
            away.append((at, begins))
        at = ends
    return [*away, (at, last)] if at < last else away


def _lost_moves(plan: WantedPlan, days: Plan) -> list[str]:
    """That something was moved by hand which is planned no more, as other parts lie on its plate now."""
    there = {task.id for task in days.tasks}
    lost = [move for move in plan.moves if move.task not in there and move.task not in plan.done]
    return [f"{plural(len(lost), 'task')} moved by hand: no plate has these parts any more, so it is planned anew"
            for _ in lost[:1]]  # fmt: skip


def _unfit(packing: Packing, bench: Bench) -> list[Unfit]:
    return [
        Unfit(name=name, why=f"does not fit the plate of {bench.setup(setting).printer.name} as it stands")
        for name, setting in dict.fromkeys((one.called, one.setting) for one in packing.unfit)
    ]


def _drawn(plate: PlannedPlate, packed_plate: PackedPlate, asked: _Asked) -> PlateDrawn:
    setup, told = packed_plate.setup, plate.told
    wide, deep, _ = setup.printer.room
    lying = []
    for k, (one, piece) in enumerate(zip(packed_plate.lying, packed_plate.pieces, strict=True)):
        shadow, areas = piece.piece.shadow, piece.piece.areas
        outlines = [[(round(float(x), 2), round(float(y), 2)) for x, y in ring] for ring in outlines_of(shadow)]
        lying.append(
            LyingDrawn(
                name=piece.called, figure=piece.figure, edition=piece.edition, part=piece.part, layers=piece.layers,
                x=one.x, y=one.y, turn=one.turn, tall=shadow.tall, outlines=outlines, by_hand=k < packed_plate.by_hand,
                pull_N=float(areas.max()) * setup.supports.pull if setup.process == "resin" and len(areas) else None,
                foot_mm2=float(areas[0]) if len(areas) else 0.0,
            )
        )  # fmt: skip
    shows = [
        ("it should show", f"{told.layers} layers, {hours_and_minutes(told.seconds)} h, {told.material_ml:.1f} ml")
    ]
    return PlateDrawn(
        number=plate.number, tag=plate.of_tasks, setting=setup.setting.id, printer=setup.printer.id,
        printer_name=setup.printer.name, setting_name=setup.setting.name, wide=wide, deep=deep,
        margin=packed_plate.margin, told=told, lying=lying,
        ready=list(ready_list(setup.printer, told.material_ml)), card=[*settings_card(setup), *shows],
    )  # fmt: skip
