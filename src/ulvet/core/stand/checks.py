"""What Stand looks at."""

from collections.abc import Mapping
from typing import Any, ClassVar

from ulvet.core.findings.check import Check, FigureCheck, FigureUnderCheck, PartCheck
from ulvet.core.findings.finding import AddSteps, Finding, Remedy, Unseen
from ulvet.core.layers.checks import FORCES, RASTER, LayersCheck, StackCheck
from ulvet.core.layers.estimate import ESTIMATED
from ulvet.core.recipe.step import Context, Part
from ulvet.core.stand.check import check_stand
from ulvet.core.stand.plate import plate_findings
from ulvet.core.stand.steps import Orient, ShowSide, Support
from ulvet.core.stations import Station

__all__ = ["FRONT", "FrontCheck", "PlateCheck", "StandCheck"]

FRONT = (0.0, -1.0, 0.0)
"""Direction of a figure's front, which is proposed as the side that shows."""


class StandCheck(PartCheck):
    """How a part is held; of one whose layers could not be seen nothing is said. It measures whether they could."""

    station: ClassVar[Station] = Station.STAND
    progress_text: ClassVar[str] = "stand: what holds it"
    cached: ClassVar[bool] = False
    after: ClassVar[tuple[type[Check], ...]] = (LayersCheck,)
    judge_names: ClassVar[tuple[str, ...]] = ("setup.setting.supports",)

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> bool:
        return not isinstance(others[LayersCheck], str)

    def judge(self, part: Part, measured: bool, figure: FigureUnderCheck) -> list[Finding | Unseen]:
        held = next((s for s in reversed(figure.recipe.steps) if isinstance(s, Support) and s.on), None)
        return list(check_stand(part, figure.factor, figure.setup, held)) if measured else []


class PlateCheck(PartCheck):
    """Whether the plate holds a part as it stands, and what its base loses there."""

    station: ClassVar[Station] = Station.STAND
    progress_text: ClassVar[str] = "stand: what the plate holds"
    part_fields: ClassVar[tuple[str, ...]] = ("name", "mesh", "stance", "supports")
    context_names: ClassVar[tuple[str, ...]] = (
        "factor",
        *RASTER,
        *ESTIMATED,
        *FORCES,
        "setup.setting.height_lost",
        "setup.setting.first_growth",
    )
    after: ClassVar[tuple[type[Check], ...]] = (StackCheck,)

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> tuple[Finding, ...]:
        stack = others[StackCheck]
        if isinstance(stack, str):
            return ()
        return tuple(plate_findings(part, stack, context["factor"], context["setup"]))

    def judge(self, part: Part, measured: tuple[Finding, ...], figure: FigureUnderCheck) -> list[Finding | Unseen]:
        return list(measured) if figure.is_stood else []


class FrontCheck(FigureCheck):
    """Where nobody said which side shows, what seeks a way to stand proposes the front: else a figure is leaned onto
    its face."""

    station: ClassVar[Station] = Station.STAND
    progress_text: ClassVar[str] = "stand: the side that shows"
    cached: ClassVar[bool] = False

    def revise(self, findings: list[Finding], figure: FigureUnderCheck) -> list[Finding]:
        if any(isinstance(step, ShowSide) for step in figure.recipe.steps):
            return findings
        return [
            finding.model_copy(update={"remedies": tuple(map(_with_front, finding.remedies))}) for finding in findings
        ]


def _with_front(remedy: Remedy) -> Remedy:
    change = remedy.change
    if not isinstance(change, AddSteps) or not any(isinstance(step, Orient) for step in change.steps):
        return remedy
    says = f"{remedy.cost.says}; its front is taken as the side that shows"
    return remedy.model_copy(
        update={
            "change": change.model_copy(update={"steps": (ShowSide(direction=FRONT), *change.steps)}),
            "cost": remedy.cost.model_copy(update={"says": says}),
        }
    )
