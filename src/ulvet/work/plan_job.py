"""The job that packs what is wanted on plates and plans the days it takes."""

from datetime import datetime
from itertools import groupby
from typing import Any

from ulvet.core.bench.bench import Bench
from ulvet.core.bench.setup import Setup
from ulvet.core.days.plan import UnusablePlan
from ulvet.core.days.scheduling import plan_days
from ulvet.core.plates.outline import outline_on_plate, outlines_of
from ulvet.core.plates.packing import Lying
from ulvet.core.plates.plate import Piece, PlateTold, Risk, piece_of, plates_of, room_of
from ulvet.core.plates.sums import PlannedPlate, days_plan, sums_of
from ulvet.core.progress import Progress
from ulvet.core.proof.ready import ready_list
from ulvet.store.blobs import Blobs
from ulvet.store.folder import DataFolder
from ulvet.work.job_values import Values
from ulvet.work.layer_store import layers_from
from ulvet.work.plan_record import LyingDrawn, PlanTold, PlateDrawn, Unfit

__all__ = ["plan"]


def plan(folder: DataFolder, values: Values, progress: Progress) -> Values:
    """Pack ``pieces``, each with its ``layers``, ``setting`` and ``count``, on plates of ``bench``, and plan their days
    from ``begins`` on. Gives the hash of what came of it."""
    blobs, bench = Blobs(folder.blobs), Bench.model_validate(values["bench"])
    risk = Risk(most_parts=values["most_parts"])
    plates: list[PlateDrawn] = []
    planned: list[PlannedPlate] = []
    unfit = [Unfit(**one) for one in values["unfit"]]
    pieces = sorted(values["pieces"], key=lambda one: one["setting"])
    for setting, group in groupby(pieces, key=lambda one: one["setting"]):
        progress(len(planned) / max(len(pieces), 1) * 0.7, f"plates of {setting}")
        setup = bench.setup(setting)
        wanted = [one for one in group for _ in range(one["count"])]
        seen = {one["layers"]: piece_of(one["name"], layers_from(blobs.read(one["layers"])), setup) for one in wanted}
        held = [seen[one["layers"]] for one in wanted]
        packed, left = plates_of(held, setup, risk)
        why = f"does not fit the plate of {setup.printer.name} as it stands"
        unfit += [Unfit(name=name, why=why) for name in sorted({wanted[k]["name"] for k in left})]
        for lying, told in packed:
            minutes = sum(wanted[one.number]["cleanup_min"] for one in lying)
            number = len(plates) + 1
            plates.append(_drawn(number, setup, lying, told, held, wanted, minutes))
            planned.append(PlannedPlate(number=number, printer=setup.printer.id, setting=setting, process=setup.process,
                                        told=told, cleanup_min=minutes))  # fmt: skip
    begins = datetime.fromisoformat(values["begins"])
    due = None if values["due"] is None else datetime.fromisoformat(values["due"])
    asked = days_plan(planned, bench, begins, due, values["days_off"])
    schedule, why = None, ""
    try:
        schedule = plan_days(asked, progress=lambda share, says: progress(0.7 + 0.3 * share, says)) if planned else None
    except UnusablePlan as refusal:
        why = str(refusal)
    told_all = PlanTold(
        plates=plates, unfit=unfit, sums=sums_of(planned, asked, bench) if planned else None,
        machines=list(asked.machines), tasks=list(asked.tasks), schedule=schedule, why=why,
    )  # fmt: skip
    return {"plan": blobs.put(told_all.model_dump_json().encode())}


def _drawn(
    number: int, setup: Setup, lying: tuple[Lying, ...], told: PlateTold, held: list[Piece],
    wanted: list[dict[str, Any]], minutes: float,
) -> PlateDrawn:  # fmt: skip
    room = room_of(setup)
    drawn = []
    for one in lying:
        shadow = held[one.number].shadow
        rings = [outline_on_plate(ring, one) for ring in outlines_of(shadow)]
        outlines = [[(round(float(x), 2), round(float(y), 2)) for x, y in ring] for ring in rings]
        of = {name: wanted[one.number][name] for name in ("name", "figure", "edition", "part")}
        drawn.append(LyingDrawn(**of, x=one.x, y=one.y, turn=one.turn, tall=shadow.tall, outlines=outlines))
    return PlateDrawn(
        number=number, printer=setup.printer.id, printer_name=setup.printer.name, setting_name=setup.setting.name,
        wide=room.wide, deep=room.deep, cleanup_min=minutes, told=told, lying=drawn,
        ready=list(ready_list(setup.process, told.material_ml)),
    )  # fmt: skip
