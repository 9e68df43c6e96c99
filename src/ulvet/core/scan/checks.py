"""What is looked at of a figure that was scanned."""

from collections.abc import Sequence
from typing import ClassVar

from ulvet.core.findings.check import FigureCheck, Seen
from ulvet.core.findings.finding import Finding, Unseen
from ulvet.core.recipe.step import Part
from ulvet.core.scan.check import check_scan
from ulvet.core.stations import Station

__all__ = ["ScanCheck"]


class ScanCheck(FigureCheck):
    """What is left to do of a scan."""

    station: ClassVar[Station] = Station.BRING_IN
    says: ClassVar[str] = "bring in: what the scan left"
    kept: ClassVar[bool] = False

    def judge(self, parts: Sequence[Part], measured: None, seen: Seen) -> list[Finding | Unseen]:
        return list(check_scan(seen.recipe.steps, seen.receipts, seen.parts, seen.factor))
