"""What is looked at of a figure that was scanned."""

from collections.abc import Sequence
from typing import ClassVar

from ulvet.core.findings.check import FigureCheck, FigureUnderCheck
from ulvet.core.findings.finding import Finding, Unseen
from ulvet.core.recipe.step import Part
from ulvet.core.scan.check import check_scan
from ulvet.core.stations import Station

__all__ = ["ScanCheck"]


class ScanCheck(FigureCheck):
    """What is left to do of a scan."""

    station: ClassVar[Station] = Station.BRING_IN
    progress_text: ClassVar[str] = "bring in: what the scan left"
    cached: ClassVar[bool] = False

    def judge(self, parts: Sequence[Part], measured: None, figure: FigureUnderCheck) -> list[Finding | Unseen]:
        return list(check_scan(figure.recipe.steps, figure.receipts, figure.parts, figure.factor))
