"""The studio's plan: what is wanted of which figures, and the job that packs and plans it."""

from datetime import datetime, timedelta
from typing import Any

from ulvet.core.bench.part_setups import PartSetups
from ulvet.core.recipe.runner import Recipe, measured_key
from ulvet.core.stand.ways import cleanup_of
from ulvet.store.models import StudioValue
from ulvet.work.memory import build_memory
from ulvet.work.plan_record import PlanTold, WantedPart, WantedPlan
from ulvet.work.refusals import NotThere, Refused
from ulvet.work.studio import Studio
from ulvet.work.supervisor import Job

__all__ = ["make_plan", "plan_of", "set_wanted", "wanted_of"]

_NAME = "plan"
_SECONDS, _SECONDS_A_PART = 3.0, 0.4
"""What planning takes, roughly (bench default)."""


def wanted_of(studio: Studio) -> WantedPlan:
    """What is wanted; nothing before anything was said."""
    with studio.sessions() as session:
        held = session.get(StudioValue, _NAME)
    return WantedPlan() if held is None else WantedPlan.model_validate(held.value)


def set_wanted(studio: Studio, wanted: WantedPlan) -> None:
    """Keep what is wanted.

    Raises Refused for times that cannot be.
    """
    if wanted.due is not None and wanted.begins is not None and wanted.due <= wanted.begins:
        raise Refused("It is due before it begins: give a later date; nothing was changed.")
    with studio.sessions.begin() as session:
        session.merge(StudioValue(name=_NAME, value=wanted.model_dump(mode="json")))


def make_plan(studio: Studio) -> Job:
    """The job that packs and plans what is wanted, of the figures as they stand.

    Raises Refused where nothing is wanted.
    """
    wanted = wanted_of(studio)
    if not wanted.wanted:
        raise Refused("Nothing is planned yet: say first what is to be printed.")
    pieces: list[dict[str, Any]] = []
    unfit: list[dict[str, str]] = []
    for one in wanted.wanted:
        _gather(studio, one, pieces, unfit)
    bench = studio.bench.value
    begins = wanted.begins or _next_hour()
    count = sum(one["count"] for one in pieces)
    return studio.supervisor.submit(
        "plan",
        measured_key(pieces, unfit, wanted.model_dump(mode="json"), begins.isoformat(), bench.model_dump(mode="json")),
        {
            "pieces": pieces,
            "unfit": unfit,
            "bench": bench.model_dump(mode="json"),
            "most_parts": wanted.most_parts,
            "begins": begins.isoformat(),
            "due": wanted.due and wanted.due.isoformat(),
            "days_off": list(wanted.days_off),
        },
        "Planning plates and days",
        _SECONDS + count * _SECONDS_A_PART,
        None,
        build_memory(Recipe(steps=()), 200_000),
    )


def plan_of(studio: Studio, name: str) -> PlanTold:
    """What came of planning, by the hash its job gave.

    Raises NotThere.
    """
    try:
        return PlanTold.model_validate_json(bytes(studio.blobs.read(name)))
    except ValueError as error:
        raise NotThere("That plan is not there any more; plan again.") from error


def _gather(studio: Studio, one: WantedPart, pieces: list[dict[str, Any]], unfit: list[dict[str, str]]) -> None:
    """The parts that a line of a plan means, or why it means none now."""
    try:
        figure, head, record, _ = studio.figure(one.figure, one.edition)
    except NotThere:
        unfit.append({"name": f"Figure {one.figure}", "why": "is no longer on the shelf, or lost this edition"})
        return
    if record is None:
        unfit.append({"name": figure.name, "why": "is still being checked: plan again when that is done"})
        return
    setups = PartSetups(studio.bench.value, studio.edition(head, one.edition).made)
    meant = [part for part in record.parts if one.part in ("", part.facts.part)]
    if not meant:
        unfit.append({"name": figure.name, "why": "has no such part any more"})
    for part in meant:
        name = figure.name if len(record.parts) == 1 else f"{figure.name}, {part.facts.called}"
        if part.layers is None:
            unfit.append({"name": name, "why": "has layers that cannot be looked at: mend it first"})
            continue
        pieces.append(
            {
                "name": name, "figure": figure.id, "edition": one.edition, "part": part.facts.part,
                "layers": part.layers, "count": one.count,
                "setting": setups.of(part.facts.part).setting.id, "cleanup_min": cleanup_of(part.facts.stance.contacts),
            }
        )  # fmt: skip


def _next_hour() -> datetime:
    now = datetime.now()
    return now.replace(minute=0, second=0, microsecond=0) + timedelta(hours=1)
