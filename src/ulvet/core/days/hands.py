"""When somebody is there: stretches of minutes from the beginning of a plan."""

from bisect import bisect_right
from collections.abc import Sequence
from copy import copy
from datetime import datetime, timedelta

from ulvet.core.days.plan import HandsHours

__all__ = ["Hands"]

_DAYS = 400
"""Days that a plan looks ahead."""


class Hands:
    """Stretches (begin, end) in minutes from the beginning in which somebody is there, and what is taken of them."""

    def __init__(self, begins: datetime, hours: Sequence[HandsHours], days_off: Sequence[str]) -> None:
        free: list[tuple[float, float]] = []
        midnight = begins.replace(hour=0, minute=0, second=0, microsecond=0)
        for day in range(_DAYS):
            date = midnight + timedelta(days=day)
            if date.date().isoformat() in days_off:
                continue
            for one in sorted(hours, key=lambda one: one.begin):
                if one.weekday == date.weekday() and one.end > one.begin:
                    start = (date - begins) / timedelta(minutes=1)
                    free.append((max(start + one.begin * 60, 0.0), start + one.end * 60))
        self._free = [(begin, end) for begin, end in free if end > begin]
        self._taken: list[tuple[float, float]] = []

    def untaken(self) -> "Hands":
        """The same stretches with nothing taken of them."""
        fresh = copy(self)
        fresh._taken = []
        return fresh

    @property
    def stretches(self) -> list[tuple[float, float]]:
        """When somebody is there, taken or not."""
        return self._free

    def first(self, at: float, minutes: float, beside: Sequence[tuple[float, float]] = ()) -> float | None:
        """The first moment from ``at`` on at which hands are free for so many minutes in one go, also of stretches
        ``beside``; ``at`` itself where none are needed; None where there never is."""
        if minutes <= 0:
            return at
        taken = sorted([*self._taken, *beside]) if beside else self._taken
        first = max(bisect_right(self._free, (at, float("inf"))) - 1, 0)
        for begin, end in self._free[first:]:
            now = max(at, begin)
            for from_, to in taken[max(bisect_right(taken, (now, float("inf"))) - 1, 0) :]:
                if from_ >= end or now + minutes <= from_:
                    break
                now = max(now, to)
            if now + minutes <= end:
                return now
        return None

    def take(self, begin: float, minutes: float) -> None:
        """Take hands for so many minutes."""
        if minutes > 0:
            self._taken.insert(bisect_right(self._taken, (begin, begin + minutes)), (begin, begin + minutes))

    def there_for(self, minutes: float) -> float | None:
        """When hands have been there for so many minutes in all; None where they never are."""
        left = minutes
        for begin, end in self._free:
            if left <= end - begin:
                return begin + left
            left -= end - begin
        return None
