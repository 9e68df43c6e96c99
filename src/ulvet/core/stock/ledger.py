"""The ledger: every delivery, every print and every count as a signed amount, so that its sum is what is there."""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from datetime import date
from enum import StrEnum
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from ulvet.core.stock.good import Good

__all__ = ["MOST_AMOUNT", "Entry", "EntryKind", "Standing", "balances", "standing"]

MOST_AMOUNT = 1e6
"""The largest amount of one entry, in the good's unit (bench default)."""
_ROUNDING = 1e-6
"""Below which a sum is nothing, in the good's unit."""


class EntryKind(StrEnum):
    """What an entry is of."""

    DELIVERED = "delivered"
    COUNTED = "counted"
    USED = "used"
    THROWN_AWAY = "thrown away"


class Entry(BaseModel):
    """One line of the ledger. ``amount`` is signed and in the good's unit; of a count it is the difference to what the
    ledger had, so that the sum stays what is there."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    good: Annotated[str, Field(max_length=90)]
    day: date
    kind: EntryKind
    amount: Annotated[float, Field(ge=-MOST_AMOUNT, le=MOST_AMOUNT, allow_inf_nan=False)]
    says: Annotated[str, Field(max_length=200)] = ""


class Standing(BaseModel):
    """A good as it stands: what is there, None where nobody has ever counted or entered any, and when it was last
    counted."""

    model_config = ConfigDict(frozen=True)

    good: Good
    there: float | None
    counted: date | None
    worth: float
    """Money."""


def balances(entries: Iterable[Entry]) -> dict[str, float]:
    """By good the sum of its entries. A good whose only entries are runs has no sum that means anything, as nobody has
    said what was there before: it is left out."""
    sums: dict[str, float] = defaultdict(float)
    known: set[str] = set()
    for entry in entries:
        sums[entry.good] += entry.amount
        if entry.kind in (EntryKind.COUNTED, EntryKind.DELIVERED):
            known.add(entry.good)
    return {good: 0.0 if abs(sums[good]) < _ROUNDING else sums[good] for good in known}


def standing(goods: Sequence[Good], entries: Sequence[Entry]) -> tuple[Standing, ...]:
    """Every good as it stands, in their order."""
    sums = balances(entries)
    counted: Mapping[str, date] = {
        entry.good: entry.day for entry in sorted(entries, key=lambda one: one.day) if entry.kind is EntryKind.COUNTED
    }
    return tuple(
        Standing(
            good=good, there=sums.get(good.key), counted=counted.get(good.key),
            worth=max(sums.get(good.key, 0.0), 0.0) * good.price,
        )
        for good in goods
    )  # fmt: skip
