"""What Mend looks at."""

from collections.abc import Mapping
from typing import Any, ClassVar

from ulvet.core.findings.check import Check, FigureUnderCheck, PartCheck
from ulvet.core.findings.finding import Finding, Unseen
from ulvet.core.mend.check import check_mesh
from ulvet.core.mend.diagnosis import Diagnosis, diagnose
from ulvet.core.recipe.step import Context, Part
from ulvet.core.stations import Station
from ulvet.core.tolerances import BENCH_TOLERANCES

__all__ = ["DiagnosisCheck", "MeshCheck"]


class DiagnosisCheck(PartCheck):
    """A mesh looked over, once for every size; ``MeshCheck`` says what is wrong with it."""

    station: ClassVar[Station] = Station.MEND
    progress_text: ClassVar[str] = "mend: edges, faces, shells"
    seconds_a_triangle: ClassVar[float] = 5e-6

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> Diagnosis:
        return diagnose(part.mesh, BENCH_TOLERANCES.zero_area_height)


class MeshCheck(PartCheck):
    """What is wrong with a mesh as a mesh. Its limits are of the printer and the bench, so its findings are its
    measure."""

    station: ClassVar[Station] = Station.MEND
    progress_text: ClassVar[str] = "mend: whether it will show, and gaps"
    part_fields: ClassVar[tuple[str, ...]] = ("name", "mesh", "source", "overlaps_left", "captured")
    context_names: ClassVar[tuple[str, ...]] = (
        "factor",
        "setup.setting.line",
        "setup.printer.pixel",
        "setup.printer.name",
    )
    after: ClassVar[tuple[type[Check], ...]] = (DiagnosisCheck,)
    seconds_a_triangle: ClassVar[float] = 3e-6

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> list[Finding]:
        return check_mesh(part, context["factor"], BENCH_TOLERANCES, context["setup"], others[DiagnosisCheck])

    def judge(self, part: Part, measured: list[Finding], figure: FigureUnderCheck) -> list[Finding | Unseen]:
        return list(measured)
