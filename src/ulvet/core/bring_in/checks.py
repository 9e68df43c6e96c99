"""What Bring in looks at of a source."""

from collections.abc import Mapping, Sequence
from typing import Any, ClassVar

from ulvet.core.bring_in.check import check_facets, check_unit
from ulvet.core.bring_in.check_recipe import check_recipe
from ulvet.core.bring_in.facets import Bulge, bulge_of
from ulvet.core.bring_in.lean import check_lean
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.findings.check import Check, FigureCheck, FigureUnderCheck, PartCheck
from ulvet.core.findings.finding import Finding, Unseen
from ulvet.core.geometry.mesh import concatenated
from ulvet.core.geometry.topology import without_collapsed_faces
from ulvet.core.recipe.step import Context, Part
from ulvet.core.stations import Station

__all__ = ["BulgeCheck", "FacetsCheck", "LeanCheck", "RecipeCheck", "UnitCheck"]


class UnitCheck(FigureCheck):
    """Whether a unit that was only guessed makes sense."""

    station: ClassVar[Station] = Station.BRING_IN
    progress_text: ClassVar[str] = "bring in: its unit"
    cached: ClassVar[bool] = False

    def judge(self, parts: Sequence[Part], measured: None, figure: FigureUnderCheck) -> list[Finding | Unseen]:
        first = next((step for step in figure.recipe.steps if isinstance(step, BringIn)), None)
        if first is None or not first.doubt or not parts:
            return []
        return list(check_unit(first, concatenated(*(part.mesh for part in parts)), figure.edition))


class LeanCheck(FigureCheck):
    """Whether the figure would stand as it is drawn."""

    station: ClassVar[Station] = Station.BRING_IN
    progress_text: ClassVar[str] = "bring in: whether it leans"
    part_fields: ClassVar[tuple[str, ...]] = ("name", "mesh", "source")
    context_names: ClassVar[tuple[str, ...]] = ("factor",)
    seconds_a_triangle: ClassVar[float] = 5e-7

    def measure(
        self, parts: Sequence[Part], context: Context, others: Mapping[type[Check], Sequence[Any]]
    ) -> list[Finding]:
        return check_lean(parts, context["factor"]) if parts else []

    def judge(self, parts: Sequence[Part], measured: list[Finding], figure: FigureUnderCheck) -> list[Finding | Unseen]:
        return list(measured)


class BulgeCheck(PartCheck):
    """How far curved surface bulges over its triangles, once for every size; None for a scan, which is not asked."""

    station: ClassVar[Station] = Station.BRING_IN
    progress_text: ClassVar[str] = "bring in: how it curves"
    part_fields: ClassVar[tuple[str, ...]] = ("mesh", "captured")
    seconds_a_triangle: ClassVar[float] = 3e-6

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> Bulge | None:
        return None if part.captured is not None else bulge_of(without_collapsed_faces(part.mesh))


class FacetsCheck(PartCheck):
    """Curved surface whose triangles would show. Its limit is of the printer, so its findings are its measure."""

    station: ClassVar[Station] = Station.BRING_IN
    progress_text: ClassVar[str] = "bring in: facets"
    part_fields: ClassVar[tuple[str, ...]] = ("name", "mesh", "source", "captured")
    context_names: ClassVar[tuple[str, ...]] = (
        "factor",
        "setup.setting.layer",
        "setup.printer.pixel",
        "setup.printer.name",
    )
    after: ClassVar[tuple[type[Check], ...]] = (BulgeCheck,)

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> list[Finding]:
        return check_facets(part, context["factor"], context["setup"], others[BulgeCheck])

    def judge(self, part: Part, measured: list[Finding], figure: FigureUnderCheck) -> list[Finding | Unseen]:
        return list(measured)


class RecipeCheck(FigureCheck):
    """Steps whose points or parts are lost, or that are not known."""

    station: ClassVar[Station] = Station.BRING_IN
    progress_text: ClassVar[str] = "bring in: what the record names"
    cached: ClassVar[bool] = False

    def judge(self, parts: Sequence[Part], measured: None, figure: FigureUnderCheck) -> list[Finding | Unseen]:
        return list(check_recipe(figure.recipe, figure.receipts, figure.parts, figure.factor))
