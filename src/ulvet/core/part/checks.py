"""What Part looks at."""

from collections.abc import Mapping, Sequence
from typing import Any, ClassVar

from ulvet.core.findings.check import Check, FigureCheck, FigureUnderCheck, PartCheck
from ulvet.core.findings.finding import Finding, Unseen
from ulvet.core.part.check import check_joints
from ulvet.core.part.check_cuts import check_cuts
from ulvet.core.part.printers import printers_that_hold
from ulvet.core.part.survey import PartsSurvey, survey_parts
from ulvet.core.recipe.step import Context, Part
from ulvet.core.stations import Station

__all__ = ["CutsCheck", "JointsCheck", "PrintersCheck"]


class JointsCheck(FigureCheck):
    """The joints of a figure that was cut, and how it goes together."""

    station: ClassVar[Station] = Station.PART
    progress_text: ClassVar[str] = "part: joints and assembly"
    part_fields: ClassVar[tuple[str, ...]] = ("name", "mesh", "stance", "seams", "keys")
    context_names: ClassVar[tuple[str, ...]] = ("factor", "assembly_order")
    judge_names: ClassVar[tuple[str, ...]] = (
        "setup.printer.process",
        "setup.material.strength",
        "setup.material.across_layers",
        "setup.material.density",
        "setup.setting.walls",
        "setup.setting.fits",
        "bench.glues",
        "bench.bought_parts",
    )
    seconds_a_triangle: ClassVar[float] = 2e-6

    def measure(
        self, parts: Sequence[Part], context: Context, others: Mapping[type[Check], Sequence[Any]]
    ) -> PartsSurvey:
        return survey_parts(parts, context["factor"], context["assembly_order"])

    def judge(self, parts: Sequence[Part], measured: PartsSurvey, figure: FigureUnderCheck) -> list[Finding | Unseen]:
        glues = [glue for glue in figure.bench.glues if not glue.retired]
        bought = [one for one in figure.bench.bought_parts if not one.retired]
        return list(check_joints(measured, figure.recipe, figure.setup, figure.edition.use, glues, bought))


class CutsCheck(FigureCheck):
    """What cuts and keys told of themselves when they were made."""

    station: ClassVar[Station] = Station.PART
    progress_text: ClassVar[str] = "part: cuts and keys"
    cached: ClassVar[bool] = False

    def judge(self, parts: Sequence[Part], measured: None, figure: FigureUnderCheck) -> list[Finding | Unseen]:
        return list(check_cuts(parts, figure.recipe, figure.receipts, figure.factor))


class PrintersCheck(PartCheck):
    """In which printers a part that was cut off fits some way up; it is no finding."""

    station: ClassVar[Station] = Station.PART
    progress_text: ClassVar[str] = "part: printers that hold it"
    part_fields: ClassVar[tuple[str, ...]] = ("mesh", "seams")
    context_names: ClassVar[tuple[str, ...]] = ("factor", "bench.printers")

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> tuple[str, ...]:
        if not part.seams:
            return ()
        printers = [one for one in context["bench"].printers if not one.retired]
        return printers_that_hold(part.mesh, context["factor"], printers)
