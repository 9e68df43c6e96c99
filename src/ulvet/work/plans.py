"""The studio's plan: what is wanted of which figures, what was begun of it, and the jobs that plan it."""

from collections import Counter
from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta
from typing import Any, TypeVar

from pydantic import BaseModel

from ulvet.core.bench.part_setups import PartSetups
from ulvet.core.finish.amounts import sums_of_paint
from ulvet.core.plates.plate import PlateTold
from ulvet.core.plates.tasks import PlannedPlate
from ulvet.core.plates.wanted import Placed, WantedPart, WantedPlan
from ulvet.core.proof.proof import Outcome, Proof
from ulvet.core.recipe.runner import Recipe, measured_key
from ulvet.core.stand.ways import cleanup_of
from ulvet.core.stock.good import key_of_paint
from ulvet.work.learning import learnt_in
from ulvet.work.memory import build_memory
from ulvet.work.plan_record import PlanTold, WonTold
from ulvet.work.proofing import begin_proofs
from ulvet.work.proofs import ProofNow
from ulvet.work.record import BuildRecord
from ulvet.work.refusals import NotThere, Refused
from ulvet.work.studio import Studio
from ulvet.work.supervisor import Job

__all__ = ["begin_plate", "change_plan", "make_plan", "plan_of", "win_time", "won_of"]

_SECONDS, _SECONDS_A_PART = 8.0, 0.4
"""What planning takes, roughly (bench default)."""
_FAILED = (Outcome.FAILED, Outcome.SPARE)
Told = TypeVar("Told", bound=BaseModel)


def change_plan(studio: Studio, seen: int, wanted: WantedPlan, says: str) -> None:
    """Keep what is wanted, as a new revision of what was ``seen``.

    Raises Conflict, Refused.
    """
    studio.plans.change(studio.plans.now().number, seen, says, lambda _: wanted)


def begin_plate(
    studio: Studio, parts: Sequence[WantedPart], ready: Sequence[str], lying: Sequence[Placed]
) -> list[int]:
    """Begin a plate of the plan as proofs, a setting each, its parts ``lying`` as they are planned; what lies on it is
    wanted no more unless it fails. Their numbers.

    Raises NotThere, Refused.
    """
    numbers = begin_proofs(studio, parts, ready, lying)
    now = studio.plans.now()

    def begun(plan: WantedPlan) -> WantedPlan:
        return plan.model_copy(update={"begun": (*plan.begun, *numbers)})

    studio.plans.change(now.number, None, f"begun: proof {numbers[0]}", begun)
    return numbers


def make_plan(studio: Studio) -> Job:
    """The job that packs and plans what is wanted, of the figures as they stand.

    Raises Refused where nothing is wanted.
    """
    return _job(studio, "plan", "Planning plates and days", 1.0)


def win_time(studio: Studio) -> Job:
    """The job that tries what would win time.

    Raises Refused where nothing is wanted.
    """
    return _job(studio, "win", "Trying what would win time", 4.0)


def plan_of(studio: Studio, name: str) -> PlanTold:
    """What came of planning, by the hash its job gave.

    Raises NotThere.
    """
    return _read(studio, name, PlanTold)


def won_of(studio: Studio, name: str) -> WonTold:
    """What was tried to win time, by the hash its job gave.

    Raises NotThere.
    """
    return _read(studio, name, WonTold)


def _read(studio: Studio, name: str, kind: type[Told]) -> Told:
    try:
        return kind.model_validate_json(bytes(studio.blobs.read(name)))
    except ValueError as error:
        raise NotThere("That plan is not there any more; plan again.") from error


def _job(studio: Studio, kind: str, says: str, times: float) -> Job:
    wanted = studio.plans.now().value
    if not wanted.wanted:
        raise Refused("Nothing is planned yet: say first what is to be printed.")
    gathered = _Gathered(studio, wanted)
    bench = studio.bench.value.model_dump(mode="json")
    values = {
        "bench": bench, "plan": wanted.model_dump(mode="json"), "there": studio.stock.there(),
        "begins": (wanted.begins or _next_hour()).isoformat(), **gathered.values(),
    }  # fmt: skip
    return studio.supervisor.submit(
        kind,
        measured_key(kind, values),
        values,
        says,
        times * (_SECONDS + gathered.count * _SECONDS_A_PART),
        None,
        build_memory(Recipe(steps=()), 200_000),
    )


class _Gathered:
    """What a plan means now: pieces that are still to be printed, its lines, and plates that were begun."""

    def __init__(self, studio: Studio, wanted: WantedPlan) -> None:
        self._studio = studio
        self._begun = [one for one in studio.proofs.all() if one.number in wanted.begun]
        self._made: Counter[tuple[int, str, str]] = Counter()
        for one in self._begun:
            self._made.update(_made_in(one.value))
        self._lines: list[dict[str, Any]] = []
        self._pieces: list[dict[str, Any]] = []
        self._unfit: list[dict[str, str]] = []
        self._cleanup: dict[tuple[int, str, str], float] = {}
        self._painted: dict[tuple[int, str, str], set[int]] = {}
        for number, line in enumerate(wanted.wanted):
            self._gather(number, line)
        self.count = sum(one["count"] for one in self._pieces)

    def values(self) -> dict[str, Any]:
        """As plain values."""
        settings = {one["setting"] for one in self._pieces}
        return {
            "pieces": self._pieces, "lines": self._lines, "unfit": self._unfit,
            "begun": [self._begun_plate(one).model_dump(mode="json") for one in self._begun if _has_more(one.value)],
            "rates": {name: rate for name in sorted(settings) if (rate := _rate_of(self._studio, name))},
        }  # fmt: skip

    def _gather(self, number: int, line: WantedPart) -> None:
        """The parts that a line means, or why it means none now."""
        says, record, setups, edition = f"figure {line.figure}", None, None, line.edition
        try:
            figure, head, record, _ = self._studio.figure(line.figure, line.edition)
            looked = self._studio.edition(head, line.edition)
            setups = PartSetups(self._studio.bench.value, looked.made)
            says, edition = figure.name, looked.id
        except NotThere:
            self._unfit.append(
                {"name": f"Figure {line.figure}", "why": "is no longer on the shelf, or lost this edition"}
            )
        else:
            if record is None:
                self._unfit.append({"name": says, "why": "is still being checked: plan again when that is done"})
        self._lines.append(_line(line, says, record if line.painted else None, self._studio))
        if record is not None and setups is not None:
            self._add(number, line, edition, says, record, setups)

    def _add(
        self, number: int, line: WantedPart, edition: str, name: str, record: BuildRecord, setups: PartSetups
    ) -> None:
        meant = [part for part in record.parts if line.part in ("", part.facts.part)]
        if not meant:
            self._unfit.append({"name": name, "why": "has no such part any more"})
        for part in meant:
            facts = part.facts
            called = name if len(record.parts) == 1 else f"{name}, {facts.called}"
            if part.layers is None:
                why = "has layers that cannot be looked at: mend it first"
                self._unfit.append({"name": called, "why": why})
                continue
            key = (line.figure, edition, facts.part)
            self._cleanup[key] = cleanup_of(facts.stance.contacts)
            if line.painted:
                self._painted.setdefault(key, set()).add(number)
            made = min(self._made[key], line.count)
            self._made[key] -= made
            if made < line.count:
                self._pieces.append(
                    {
                        "called": called, "figure": line.figure, "edition": edition, "part": facts.part,
                        "layers": part.layers, "count": line.count - made, "line": number, "painted": line.painted,
                        "setting": setups.of(facts.part).setting.id, "cleanup_min": self._cleanup[key],
                        "size_mm": facts.size_mm, "area_mm2": facts.area_mm2,
                        "solid_mm3": 0.0 if part.spaces else facts.volume_mm3,
                    }
                )  # fmt: skip

    def _begun_plate(self, one: ProofNow) -> PlannedPlate:
        """A proof as a plate that is under way, or that has been printed."""
        proof = one.value
        kept = [proof.parts[copy.part] for copy in proof.came.copies if copy.outcome not in _FAILED]
        keys = [(part.figure, part.edition, part.part) for part in kept]
        told = PlateTold(
            parts=len(kept), layers=proof.told.layers, tall_mm=max(part.size_mm[2] for part in proof.parts),
            seconds=proof.told.seconds, material_ml=proof.told.ml, money=proof.told.money, peak_mm2=0.0, pull_N=None,
            look_s=None, lost_ml=0.0,
        )  # fmt: skip
        return PlannedPlate(
            number=one.number, printer=proof.printer, setting=proof.setting, process=proof.process, told=told,
            cleanup_min=sum(self._cleanup.get(key, 0.0) for key in keys), proof=one.number,
            lines=tuple(sorted(set().union(*(self._painted.get(key, set()) for key in keys)))),
            largest_mm=max((part.size_mm for part in proof.parts), key=max),
            begun=proof.began.astimezone().replace(tzinfo=None), printed=proof.came.ended is not None,
        )  # fmt: skip


def _made_in(proof: Proof) -> Counter[tuple[int, str, str]]:
    """Copies of a proof that did not fail, by what they are of; of one whose outcome nobody has told all of them."""
    kept = [proof.parts[copy.part] for copy in proof.came.copies if copy.outcome not in _FAILED]
    return Counter((part.figure, part.edition, part.part) for part in kept)


def _has_more(proof: Proof) -> bool:
    """Whether there is anything left to do to what was printed."""
    return bool(_made_in(proof))


def _line(line: WantedPart, says: str, record: BuildRecord | None, studio: Studio) -> dict[str, Any]:
    """A line with what putting together and painting one copy takes; nothing of one that is not painted."""
    called = f"{line.count} x {says}"
    held: dict[str, Any] = {
        "says": called, "figure": line.figure, "edition": line.edition, "count": line.count, "work": [], "takes": {},
        "paint_money": 0.0,
    }  # fmt: skip
    if record is None:
        return held
    finish = record.finish
    roles = finish.meant.roles if finish.meant else ()
    takes: Mapping[str, float] = {
        key_of_paint(name): ml for name, ml in sums_of_paint(roles, studio.bench.value.paints).items()
    }
    bought = Counter(f"bought:{insert.item}" for insert in record.inserts if insert.item)
    return {
        **held,
        "work": [row.model_dump(mode="json") for row in finish.work if not row.by_plate],
        "takes": {**takes, **{name: float(count) for name, count in bought.items()}},
        "paint_money": sum(role.money for role in roles),
    }


def _rate_of(studio: Studio, setting: str) -> dict[str, Any] | None:
    """How often plates of a setting failed, where enough were printed."""
    found = next((one for one in learnt_in(studio, setting) if one.path == "fails"), None)
    if found is None or found.low is None or found.high is None:
        return None
    return {"low": found.low, "high": found.high, "plates": found.count}


def _next_hour() -> datetime:
    now = datetime.now()
    return now.replace(minute=0, second=0, microsecond=0) + timedelta(hours=1)
