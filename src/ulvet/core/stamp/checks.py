"""What is looked at of stamps."""

from collections.abc import Sequence
from typing import ClassVar

from ulvet.core.findings.check import FigureCheck, Seen
from ulvet.core.findings.finding import Finding, Unseen
from ulvet.core.recipe.step import Part
from ulvet.core.stamp.check import check_stamps
from ulvet.core.stations import Station

__all__ = ["StampsCheck"]


class StampsCheck(FigureCheck):
    """Stamps that landed beside the figure, or are too fine to print."""

    station: ClassVar[Station] = Station.BRING_IN
    says: ClassVar[str] = "bring in: stamps"
    kept: ClassVar[bool] = False

    def judge(self, parts: Sequence[Part], measured: None, seen: Seen) -> list[Finding | Unseen]:
        return list(check_stamps(seen.recipe, seen.receipts, seen.parts, seen.factor, seen.setup))
