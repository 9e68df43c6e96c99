"""What is looked at of stamps."""

from collections.abc import Sequence
from typing import ClassVar

from ulvet.core.findings.check import FigureCheck, FigureUnderCheck
from ulvet.core.findings.finding import Finding, Unseen
from ulvet.core.recipe.step import Part
from ulvet.core.stamp.check import check_stamps
from ulvet.core.stations import Station

__all__ = ["StampsCheck"]


class StampsCheck(FigureCheck):
    """Stamps that landed beside the figure, or are too fine to print."""

    station: ClassVar[Station] = Station.BRING_IN
    progress_text: ClassVar[str] = "bring in: stamps"
    cached: ClassVar[bool] = False
    judge_names: ClassVar[tuple[str, ...]] = ("setup.setting.line", "setup.printer.pixel", "setup.printer.name")

    def judge(self, parts: Sequence[Part], measured: None, figure: FigureUnderCheck) -> list[Finding | Unseen]:
        return list(check_stamps(figure.recipe, figure.receipts, figure.parts, figure.factor, figure.setup))
