"""What is looked at of bits and of where they meet."""

from collections.abc import Mapping, Sequence
from typing import Any, ClassVar

from ulvet.core.findings.check import Check, FigureCheck, FigureUnderCheck
from ulvet.core.findings.finding import Finding, Unseen
from ulvet.core.join.check import Meeting, check_kit, meetings_of
from ulvet.core.recipe.step import Context, Part
from ulvet.core.stations import Station

__all__ = ["KitCheck"]


class KitCheck(FigureCheck):
    """How bits hold, joined or only there. What two come to is kept by itself, so that one that moves is measured
    alone."""

    station: ClassVar[Station] = Station.BRING_IN
    progress_text: ClassVar[str] = "bring in: how bits hold"
    part_fields: ClassVar[tuple[str, ...]] = ("name", "mesh")
    context_names: ClassVar[tuple[str, ...]] = ("placed", "memory")
    cached: ClassVar[bool] = False
    judge_names: ClassVar[tuple[str, ...]] = ("setup.material.name", "setup.setting.walls")
    seconds_a_triangle: ClassVar[float] = 1e-6

    def measure(
        self, parts: Sequence[Part], context: Context, others: Mapping[type[Check], Sequence[Any]]
    ) -> dict[str, list[Meeting] | None]:
        return meetings_of(context["placed"], parts, context["memory"])

    def judge(
        self, parts: Sequence[Part], measured: dict[str, list[Meeting] | None], figure: FigureUnderCheck
    ) -> list[Finding | Unseen]:
        return list(check_kit(figure.recipe, figure.receipts, parts, measured, figure.factor, figure.setup))
