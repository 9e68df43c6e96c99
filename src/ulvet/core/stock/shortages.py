"""What runs short before it is needed, and when."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from pydantic import BaseModel, ConfigDict

from ulvet.core.stock.good import Good

__all__ = ["Need", "Shortage", "shortages"]

_ROUNDING = 1e-6
"""By which less is as much, in the good's unit."""


@dataclass(frozen=True)
class Need:
    """So much of a good that is taken at a moment, for what is said; ``at`` is None where no day is planned."""

    good: str
    amount: float
    at: datetime | None
    says: str


class Shortage(BaseModel):
    """A good of which less is there than a plan takes: when it runs out, at what, and how much has to come."""

    model_config = ConfigDict(frozen=True)

    good: Good
    there: float | None
    """None where nobody has counted it."""
    wanted: float
    """By the whole plan."""
    at: datetime | None
    says: str
    """What cannot be done any more."""


def shortages(needs: Sequence[Need], goods: Sequence[Good], there: Mapping[str, float]) -> tuple[Shortage, ...]:
    """Goods that run short, those that run out first first; goods that nobody has counted come last.

    What is needed is taken in the order of time; a good is short at the first need that its sum does not meet.
    """
    known = {good.key: good for good in goods}
    in_time = sorted(needs, key=lambda need: (need.at is None, need.at or datetime.max, need.says))
    wanted: dict[str, float] = {}
    short: dict[str, Need] = {}
    for need in in_time:
        wanted[need.good] = wanted.get(need.good, 0.0) + need.amount
        if need.good not in short and wanted[need.good] > there.get(need.good, 0.0) + _ROUNDING:
            short[need.good] = need
    found = [
        Shortage(good=known[key], there=there.get(key), wanted=wanted[key], at=need.at, says=need.says)
        for key, need in short.items()
        if key in known
    ]
    return tuple(sorted(found, key=lambda one: (one.there is None, one.at is None, one.at or datetime.max)))
