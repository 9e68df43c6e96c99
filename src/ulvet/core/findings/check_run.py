"""Looking at a figure with every check there is: what was measured before is recalled, and one check that fails costs
no other."""

import hashlib
import logging
import time
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor, wait
from contextlib import suppress
from dataclasses import fields, replace
from functools import partial
from threading import Lock, RLock
from typing import Any

from pydantic import BaseModel, ConfigDict

from ulvet.core.bench.part_setups import PartSetups
from ulvet.core.digest import module_digest
from ulvet.core.findings.check import Check, FigureCheck, FigureUnderCheck, PartCheck, check_kinds
from ulvet.core.findings.finding import AddSteps, Finding, Unseen
from ulvet.core.findings.judgements import Judgements
from ulvet.core.progress import Progress
from ulvet.core.recipe.measured import measured_once
from ulvet.core.recipe.projection import declared, projected
from ulvet.core.recipe.runner import Memory, plain_value, recipe_hash
from ulvet.core.recipe.step import Context, Part
from ulvet.core.stations import Station

__all__ = ["CachedMeasure", "CheckRun", "StationFindings"]

_FAILED = (
    "This could not be looked at: Ulvet made a mistake there, and everything else was checked. The server's log says "
    "where; undo the last change to go on, or leave it open."
)
_THREADS = 2
"""Measures taken at once: as many as there are cores (bench default: a small machine)."""
_TOOLS = frozenset({"memory"})
"""What a check may use that is no part of what it measures."""
_ALL = tuple(one.name for one in fields(Part))
_log = logging.getLogger("ulvet.core")


class CachedMeasure:
    """What a check measures of a part or the figure, and under what it is kept; measured when it is first asked for."""

    def __init__(self, key: str, memory: Memory, kept: bool, take: Callable[[], Any]) -> None:
        self.key = key
        self._memory, self._kept, self._take = memory, kept, take
        self._held: list[Any] = []
        self._error: Exception | None = None
        self._taking = Lock()

    @property
    def value(self) -> Any:
        """What was measured.

        Raises whatever measuring raises, which is tried once.
        """
        with self._taking:
            if self._error is not None:
                raise self._error
            try:
                self._held = self._held or [self._value()]
            except Exception as error:
                self._error = error
                raise
            return self._held[0]

    @property
    def error(self) -> Exception | None:
        """What measuring raised, if it was tried and failed."""
        return self._error

    def ensure(self) -> None:
        """Have it measured and kept, without reading what is kept already."""
        if not (self._kept and self._memory.holds_measured(self.key)):
            _ = self.value

    def _value(self) -> Any:
        return measured_once(self._memory, self.key, self._take) if self._kept else self._take()


class StationFindings(BaseModel):
    """What the checks of a station say of a figure."""

    model_config = ConfigDict(frozen=True)

    station: Station
    findings: tuple[Finding, ...]
    unseen: tuple[Unseen, ...]


class CheckRun:
    """One look at a figure by every check."""

    def __init__(
        self, figure: FigureUnderCheck, setups: PartSetups, context: Mapping[str, Any], memory: Memory
    ) -> None:
        self.figure, self.setups = figure, setups
        each = tuple(setups.of(part.name) for part in figure.parts)
        self._context, self._memory = {**context, "setup": setups.usual, "setups": each, "bench": figure.bench}, memory
        self._judgements = Judgements(
            memory,
            recipe_hash(figure.recipe),
            [_identity(part, _ALL) for part in figure.parts],
            [receipt.model_dump(mode="json") for receipt in figure.receipts],
            figure.edition.model_dump(mode="json"),
            figure.of_studio,
        )
        self._made: dict[tuple[type[Check], int | None], CachedMeasure] = {}
        self._making = RLock()

    def of(self, kind: type[Check], part: int | None = None) -> CachedMeasure:
        """The measure of a check: of the part at a place, or of the figure."""
        with self._making:
            if (kind, part) not in self._made:
                self._made[kind, part] = self._of_figure(kind) if part is None else self._of_part(kind, part)
            return self._made[kind, part]

    def known(self, kind: type[Check], part: int | None = None) -> Any:
        """What a check measured; None where it failed, which is told among what could not be seen."""
        try:
            return self.of(kind, part).value
        except MemoryError:
            raise
        except Exception:
            return None

    def findings(
        self,
        progress: Progress,
        seconds: dict[str, float],
        first: Station | None = None,
        seen: Callable[[StationFindings], None] = lambda one: None,
    ) -> tuple[list[Finding], list[Unseen]]:
        """What every check says; ``progress`` hears what is being measured and the share of the work that is done,
        ``seconds`` gets what the checks of each station took, and ``seen`` hears what a station says when its checks
        are done. Those of the station ``first`` come before others; what is found does not depend on it."""
        ahead = sum(kind.seconds_a_triangle for kind in check_kinds()) or 1.0
        done, said = 0.0, dict[type[Check], list[Finding | Unseen]]()
        ordered = sorted(check_kinds(), key=lambda kind: kind.station is not first)
        with ThreadPoolExecutor(_THREADS) as workers:
            measuring = {kind: [workers.submit(self._ahead, kind, at) for at in self._places(kind)] for kind in ordered}
            for kind, taken in measuring.items():
                progress(done / ahead, kind.progress_text)
                done += kind.seconds_a_triangle
                began = time.perf_counter()
                wait(taken)
                said[kind] = self._said(kind)
                seconds[kind.station] = seconds.get(kind.station, 0.0) + time.perf_counter() - began
                same = [other for other in ordered if other.station is kind.station]
                if all(other in said for other in same):
                    findings, unseen = self._together([said[other] for other in same])
                    seen(StationFindings(station=kind.station, findings=tuple(findings), unseen=tuple(unseen)))
        self._judgements.keep()
        return self._together([said[kind] for kind in check_kinds()])

    def _together(self, said: Sequence[Sequence[Finding | Unseen]]) -> tuple[list[Finding], list[Unseen]]:
        """What several checks say, as the record has something to say of it."""
        findings = [one for some in said for one in some if isinstance(one, Finding)]
        for kind in check_kinds():
            if issubclass(kind, FigureCheck):
                findings = kind().revise(findings, self.figure)
        return findings, list(dict.fromkeys(one for some in said for one in some if isinstance(one, Unseen)))

    def _ahead(self, kind: type[Check], part: int | None) -> None:
        """Measure what will be asked for: what is judged, and what nothing else is measured from. The rest is read when
        those need it."""
        if kind.is_judged():
            self.known(kind, part)
        elif not any(kind in other.after for other in check_kinds()):
            with suppress(Exception):  # told when it is asked for
                self.of(kind, part).ensure()

    def _places(self, kind: type[Check]) -> Sequence[int | None]:
        return range(len(self.figure.parts)) if issubclass(kind, PartCheck) else (None,)

    def _said(self, kind: type[Check]) -> list[Finding | Unseen]:
        parts, check = self.figure.parts, kind()
        if not kind.is_judged():
            errors = {at: self.of(kind, at).error for at in self._places(kind)}
            for error in errors.values():
                if isinstance(error, MemoryError):
                    raise error
            return [self._unseen(kind, at, error) for at, error in errors.items() if error is not None]
        if isinstance(check, PartCheck):
            outcome: list[Finding | Unseen] = []
            for at in range(len(parts)):
                found = self._safely(kind, at, partial(self._judged, check, at))
                outcome += found if len(parts) == 1 else map(_of_part_alone, found)
            return outcome
        assert isinstance(check, FigureCheck)
        found = self._safely(kind, None, lambda given: check.judge(parts, self.of(kind).value, given))
        return list(map(_of_part_alone, found)) if check.scopes and len(parts) > 1 else found

    def _judged(self, check: PartCheck, at: int, given: FigureUnderCheck) -> list[Finding | Unseen]:
        return check.judge(self.figure.parts[at], self.of(type(check), at).value, given)

    def _safely(
        self, kind: type[Check], at: int | None, judge: Callable[[FigureUnderCheck], list[Finding | Unseen]]
    ) -> list[Finding | Unseen]:
        values = self._values(at)
        read = projected(values, kind.judge_names)
        setup, bench = (read.get(name) or values[name].only(()) for name in ("setup", "bench"))
        given = replace(self.figure, setup=setup, bench=bench)
        known = {name: plain_value(value) for name, value in declared(values, kind.judge_names).items()}
        try:
            reads = [self.of(kind, at).key, known]
            return self._judgements.of(f"{kind.__qualname__} {at}", reads, lambda: judge(given))
        except MemoryError:
            raise
        except Exception as error:
            return [self._unseen(kind, at, error)]

    def _unseen(self, kind: type[Check], at: int | None, error: Exception) -> Unseen:
        part = self.figure.parts[at or 0].name if self.figure.parts else ""
        _log.error("%s failed on %s", kind.__qualname__, part, exc_info=error)
        return Unseen(station=kind.station, part=part, why=_FAILED)

    def _of_part(self, kind: type[Check], at: int) -> CachedMeasure:
        part, check = self.figure.parts[at], kind()
        assert isinstance(check, PartCheck)
        given, others = self._given(kind, at), {other: self.of(other, at) for other in kind.after}
        key = self._key(kind, [_identity(part, kind.part_fields)], given, [one.key for one in others.values()])
        return CachedMeasure(
            key,
            self._memory,
            kind.cached,
            lambda: check.measure(_only(part, kind.part_fields), given, {k: one.value for k, one in others.items()}),
        )

    def _of_figure(self, kind: type[Check]) -> CachedMeasure:
        parts, check = self.figure.parts, kind()
        assert isinstance(check, FigureCheck)
        given = self._given(kind, None)
        others = {
            other: [self.of(other, at) for at in range(len(parts))]
            if issubclass(other, PartCheck)
            else [self.of(other)]
            for other in kind.after
        }
        keys = [one.key for some in others.values() for one in some]
        return CachedMeasure(
            self._key(kind, [_identity(part, kind.part_fields) for part in parts], given, keys),
            self._memory,
            kind.cached,
            lambda: check.measure(
                tuple(_only(part, kind.part_fields) for part in parts),
                given,
                {k: [one.value for one in some] for k, some in others.items()},
            ),
        )

    def _given(self, kind: type[Check], at: int | None) -> Context:
        return Context(self._values(at), kind.context_names)

    def _values(self, at: int | None) -> Mapping[str, Any]:
        """What may be declared of a part, or of the figure."""
        return self._context if at is None else {**self._context, "setup": self._context["setups"][at]}

    @staticmethod
    def _key(kind: type[Check], parts: list[Any], given: Context, others: list[str]) -> str:
        said = {name: plain_value(value) for name, value in given.declared.items() if name not in _TOOLS}
        made_of = (kind.__module__, kind.__qualname__, parts, said, others, module_digest(kind.__module__))
        return hashlib.sha256(repr(made_of).encode()).hexdigest()


def _only(part: Part, sees: tuple[str, ...]) -> Part:
    """A part with nothing but the fields a check sees; its mesh is always there."""
    return Part(**{"name": "", "mesh": part.mesh, **{name: getattr(part, name) for name in sees}})


def _identity(part: Part, sees: tuple[str, ...]) -> list[Any]:
    return [(one.name, plain_value(getattr(part, one.name))) for one in fields(Part) if one.name in {*sees, "mesh"}]


def _of_part_alone(one: Finding | Unseen) -> Finding | Unseen:
    """A finding whose remedies change its own part and no other."""
    if isinstance(one, Unseen):
        return one
    remedies = []
    for remedy in one.remedies:
        if isinstance(remedy.change, AddSteps):
            steps = tuple(step.model_copy(update={"scope": one.part}) for step in remedy.change.steps)
            remedies.append(remedy.model_copy(update={"change": AddSteps(steps=steps)}))
        else:
            remedies.append(remedy)
    return one.model_copy(update={"remedies": tuple(remedies)})
