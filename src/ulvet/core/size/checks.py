"""What Size looks at."""

from collections.abc import Mapping, Sequence
from typing import Any, ClassVar

from ulvet.core.bench.setup import Setup
from ulvet.core.findings.check import Check, FigureCheck, FigureUnderCheck, PartCheck
from ulvet.core.findings.finding import Finding, Unseen
from ulvet.core.gauge.checks import MeasuredWalls, WallsCheck
from ulvet.core.geometry.mesh import bounds
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.recipe.step import Context, Part
from ulvet.core.size.check import check_fit
from ulvet.core.size.scales import SizeSurvey, survey_sizes
from ulvet.core.stations import Station

__all__ = ["FitCheck", "SizesCheck"]


class FitCheck(PartCheck):
    """Whether a part fits the printer as it stands. Its limit is of the printer, so its findings are its measure."""

    station: ClassVar[Station] = Station.SIZE
    progress_text: ClassVar[str] = "size: whether it fits"
    part_fields: ClassVar[tuple[str, ...]] = ("name", "mesh", "stance", "supports")
    context_names: ClassVar[tuple[str, ...]] = ("factor", "printer", "material", "supports", "edition", "bench")

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> list[Finding]:
        setup = Setup(context["printer"], context["material"], context["supports"])
        return check_fit(part, context["factor"], setup, context["edition"], context["bench"])

    def judge(self, part: Part, measured: list[Finding], figure: FigureUnderCheck) -> list[Finding | Unseen]:
        return list(measured)


class SizesCheck(FigureCheck):
    """What would be too thin at other sizes; it is no finding."""

    station: ClassVar[Station] = Station.SIZE
    progress_text: ClassVar[str] = "size: other sizes"
    context_names: ClassVar[tuple[str, ...]] = ("factor", "printer", "material", "supports")
    after: ClassVar[tuple[type[Check], ...]] = (WallsCheck,)
    seconds_a_triangle: ClassVar[float] = 4e-6

    def measure(
        self, parts: Sequence[Part], context: Context, others: Mapping[type[Check], Sequence[Any]]
    ) -> SizeSurvey | None:
        walled: list[MeasuredWalls | None] = list(others[WallsCheck])
        if not parts or None in walled:
            return None
        corners = [bounds(part.mesh)[:, 2] for part in parts]
        height = FigureMM(max(high for _, high in corners) - min(low for low, _ in corners))
        now = PrintMM(height * context["factor"])
        setup = Setup(context["printer"], context["material"], context["supports"])
        return survey_sizes([(one.mesh, one.thickness) for one in walled if one], height, now, setup)
