"""What every check is: what it looks at, what it measures there, and what it says of that."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from importlib import import_module
from pkgutil import iter_modules
from typing import Any, ClassVar

import ulvet.core
from ulvet.core.bench.bench import Bench
from ulvet.core.bench.edition import Edition
from ulvet.core.bench.setup import Setup
from ulvet.core.findings.finding import Finding, Unseen
from ulvet.core.recipe.receipt import Insert, Receipt
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.step import Context, Part, Phase
from ulvet.core.stations import Station

__all__ = ["Check", "FigureCheck", "FigureUnderCheck", "PartCheck", "check_kinds"]

Outcome = list[Finding | Unseen]
"""What a check says: what it found, and what it could not look at."""


@dataclass(frozen=True)
class FigureUnderCheck:
    """A figure as its checks judge it."""

    recipe: Recipe
    receipts: tuple[Receipt, ...]
    parts: tuple[Part, ...]
    factor: float
    setup: Setup
    """Of the part that is judged, or the usual one; with what the check declared."""
    edition: Edition
    bench: Bench
    """With what the check declared."""
    of_studio: bool
    """Whether it is a figure of the studio, of which is asked whose it is, and no file looked at."""

    @property
    def is_stood(self) -> bool:
        """Whether somebody has said how it is stood in the printer."""
        return any(step.on and step.phase is Phase.STAND for step in self.recipe.steps)

    @property
    def inserts(self) -> tuple[Insert, ...]:
        """What steps set into the figure."""
        return tuple(insert for receipt in self.receipts for insert in receipt.inserts)


class Check:
    """One thing that is looked at. The checks of a station are found in ``ulvet/core/<station>/checks.py``.

    ``measure`` looks at geometry and gets nothing but what the check declares; what it gives is kept under that, so it
    is taken once. ``judge`` holds that against limits and puts it in words, in milliseconds.
    """

    station: ClassVar[Station]
    progress_text: ClassVar[str]
    """What is being done, while it is measured."""
    part_fields: ClassVar[tuple[str, ...]] = ("mesh",)
    """Fields of a part that ``measure`` reads."""
    context_names: ClassVar[tuple[str, ...]] = ()
    """Names of the context values that ``measure`` reads: factor, edition, sanding, placed, and paths of setup, setups
    (one a part) and bench, such as setup.setting.layer."""
    judge_names: ClassVar[tuple[str, ...]] = ()
    """Paths of setup and bench that ``judge`` reads."""
    after: ClassVar[tuple[type["Check"], ...]] = ()
    """Checks whose measures ``measure`` reads."""
    cached: ClassVar[bool] = True
    """Whether what was measured is kept; else it is taken anew, in no time."""
    seconds_a_triangle: ClassVar[float] = 0.0
    """What measuring takes, roughly, for its share of the progress."""

    @classmethod
    def is_judged(cls) -> bool:
        """Whether it says anything of what it measures; else that is read by other checks, or told with the build."""
        raise NotImplementedError


class PartCheck(Check):
    """A check that looks at every part by itself."""

    @classmethod
    def is_judged(cls) -> bool:
        return cls.judge is not PartCheck.judge

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> Any:
        """What is measured of a part; ``others`` are the measures of the same part by the checks named in ``after``."""
        return None

    def judge(self, part: Part, measured: Any, figure: FigureUnderCheck) -> Outcome:
        """What is to be said of a part."""
        return []


class FigureCheck(Check):
    """A check that looks at the figure as a whole."""

    scopes: ClassVar[bool] = False
    """Whether the remedies of its findings change their own part and no other."""

    @classmethod
    def is_judged(cls) -> bool:
        return cls.judge is not FigureCheck.judge

    def measure(self, parts: Sequence[Part], context: Context, others: Mapping[type[Check], Sequence[Any]]) -> Any:
        """What is measured of all parts; ``others`` are the measures by the checks named in ``after``, part by part."""
        return None

    def judge(self, parts: Sequence[Part], measured: Any, figure: FigureUnderCheck) -> Outcome:
        """What is to be said of the figure."""
        return []

    def revise(self, findings: list[Finding], figure: FigureUnderCheck) -> list[Finding]:
        """The findings of all checks, as the record has something to say of them."""
        return findings


@cache
def check_kinds() -> tuple[type[Check], ...]:
    """Every kind of check, each after those whose measures it reads, else by station and name."""
    for station in iter_modules(ulvet.core.__path__):
        names = iter_modules([f"{path}/{station.name}" for path in ulvet.core.__path__])
        if station.ispkg and any(module.name == "checks" for module in names):
            import_module(f"ulvet.core.{station.name}.checks")
    stations = list(Station)
    waiting = sorted(
        _leaves((PartCheck, FigureCheck)), key=lambda kind: (stations.index(kind.station), kind.__qualname__)
    )
    ordered: dict[type[Check], None] = {}

    def take(kind: type[Check]) -> None:
        for other in kind.after:
            take(other)
        ordered.setdefault(kind)

    for kind in waiting:
        take(kind)
    return tuple(ordered)


def _leaves(kinds: Sequence[type[Check]]) -> Iterator[type[Check]]:
    for kind in kinds:
        for below in kind.__subclasses__():
            if below.__subclasses__():
                yield from _leaves((below,))
            elif below.__module__.endswith(".checks"):
                yield below
