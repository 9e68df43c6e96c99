"""What Size looks at."""

from collections.abc import Mapping, Sequence
from typing import Any, ClassVar

from ulvet.core.bench.bench import SETUPS_ON_BENCH
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

_FITTED = (
    "setup.printer.id",
    "setup.printer.name",
    "setup.printer.volume",
    "setup.printer.edge",
    "setup.material.id",
    "setup.setting.supports",
    *SETUPS_ON_BENCH,
)
_SCALED = ("setup.printer.process", "setup.printer.pixel", "setup.setting.line", "setup.setting.walls")


class FitCheck(PartCheck):
    """Whether a part fits the printer as it stands. Its limit is of the printer, so its findings are its measure."""

    station: ClassVar[Station] = Station.SIZE
    progress_text: ClassVar[str] = "size: whether it fits"
    part_fields: ClassVar[tuple[str, ...]] = ("name", "mesh", "stance", "supports")
    context_names: ClassVar[tuple[str, ...]] = ("factor", "edition", *_FITTED)

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> list[Finding]:
        return check_fit(part, context["factor"], context["setup"], context["edition"], context["bench"])

    def judge(self, part: Part, measured: list[Finding], figure: FigureUnderCheck) -> list[Finding | Unseen]:
        return list(measured)


class SizesCheck(FigureCheck):
    """What would be too thin at other sizes; it is no finding."""

    station: ClassVar[Station] = Station.SIZE
    progress_text: ClassVar[str] = "size: other sizes"
    context_names: ClassVar[tuple[str, ...]] = ("factor", *_SCALED)
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
        return survey_sizes([(one.mesh, one.thickness) for one in walled if one], height, now, context["setup"])
