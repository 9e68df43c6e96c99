"""What Layers looks at."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

from ulvet.core.findings.check import Check, FigureUnderCheck, PartCheck
from ulvet.core.findings.finding import Finding, Unseen
from ulvet.core.layers.check import find_trouble
from ulvet.core.layers.cup_findings import VentedCup, cup_findings, cups_of, is_stood
from ulvet.core.layers.estimate import ESTIMATED, Estimate, estimate_print
from ulvet.core.layers.fine_findings import FineLayers, fine_findings, fine_layers_of
from ulvet.core.layers.force_findings import force_findings
from ulvet.core.layers.islands import Island
from ulvet.core.layers.raster import LayerStack, TooManyLayers, raster_layers
from ulvet.core.recipe.step import Context, Part
from ulvet.core.stations import Station

RASTER = ("setup.setting.layer", "setup.printer.pixel")
"""What of a setup decides how the printer sees a layer."""
ISLANDS = ("setup.printer.process", "setup.setting.line", "setup.setting.supports", "setup.printer.name")
"""What of a setup decides which islands are told, and how."""
FORCES = ("setup.printer.process", "setup.setting.supports")
"""What of a setup decides how hard layers pull, and what holds."""

__all__ = ["FORCES", "RASTER", "CupCheck", "FineCheck", "ForcesCheck", "LayersCheck", "LayersSeen", "StackCheck"]


class StackCheck(PartCheck):
    """The layers of a part as the printer sees them; why not, as text, where there would be too many."""

    station: ClassVar[Station] = Station.LAYERS
    progress_text: ClassVar[str] = "layers: outlines"
    part_fields: ClassVar[tuple[str, ...]] = ("mesh", "stance", "supports")
    context_names: ClassVar[tuple[str, ...]] = ("factor", *RASTER)
    seconds_a_triangle: ClassVar[float] = 2e-6

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> LayerStack | str:
        setup = context["setup"]
        try:
            return raster_layers(part.whole(context["factor"]), setup.layer, setup.pixel)
        except TooManyLayers as refusal:
            return str(refusal)


class CupCheck(PartCheck):
    """The cups of a part as it stands; none where its layers could not be seen, and in filament, which has no film."""

    station: ClassVar[Station] = Station.LAYERS
    progress_text: ClassVar[str] = "layers: cups"
    part_fields: ClassVar[tuple[str, ...]] = ("name", "mesh", "stance", "supports", "source")
    context_names: ClassVar[tuple[str, ...]] = ("factor", *RASTER, "setup.printer.process", "setup.setting.supports")
    judge_names: ClassVar[tuple[str, ...]] = ("setup.setting.times", "setup.setting.supports")
    after: ClassVar[tuple[type[Check], ...]] = (StackCheck,)
    seconds_a_triangle: ClassVar[float] = 2e-6

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> tuple[VentedCup, ...]:
        stack, setup = others[StackCheck], context["setup"]
        if isinstance(stack, str) or setup.process != "resin":
            return ()
        return cups_of(part, stack, context["factor"], setup.supports)

    def judge(self, part: Part, measured: tuple[VentedCup, ...], figure: FigureUnderCheck) -> list[Finding | Unseen]:
        # A file that is looked at lies as it was saved, and nobody has said how it will stand.
        return list(cup_findings(part, measured, figure.setup.setting)) if figure.of_studio or is_stood(part) else []


@dataclass(frozen=True)
class LayersSeen:
    """What the layers of a part come to: what they take, their islands, and what is wrong between them."""

    estimate: Estimate
    islands: tuple[Island, ...]
    findings: tuple[Finding, ...]


class LayersCheck(PartCheck):
    """What goes wrong between layers. Its limits are of the process, so its findings are its measure."""

    station: ClassVar[Station] = Station.LAYERS
    progress_text: ClassVar[str] = "layers: islands"
    part_fields: ClassVar[tuple[str, ...]] = ("name", "mesh", "stance", "supports")
    context_names: ClassVar[tuple[str, ...]] = ("factor", *RASTER, *ESTIMATED, *ISLANDS)
    after: ClassVar[tuple[type[Check], ...]] = (StackCheck,)
    seconds_a_triangle: ClassVar[float] = 2e-6

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> LayersSeen | str:
        stack = others[StackCheck]
        if isinstance(stack, str):
            return stack
        setup = context["setup"]
        islands, findings = find_trouble(part, stack, context["factor"], setup)
        estimate = estimate_print(stack, setup, held=part.supports is not None)
        return LayersSeen(estimate, islands, findings)

    def judge(self, part: Part, measured: LayersSeen | str, figure: FigureUnderCheck) -> list[Finding | Unseen]:
        if isinstance(measured, str):
            return [Unseen(station=Station.LAYERS, part=part.name, why=measured)]
        return list(measured.findings)


class ForcesCheck(PartCheck):
    """How hard the layers of a part are torn at as it stands; nothing is said before somebody has stood it."""

    station: ClassVar[Station] = Station.LAYERS
    progress_text: ClassVar[str] = "layers: areas and pull"
    part_fields: ClassVar[tuple[str, ...]] = ("name", "mesh", "stance", "supports")
    context_names: ClassVar[tuple[str, ...]] = ("factor", *RASTER, *ESTIMATED, *FORCES)
    after: ClassVar[tuple[type[Check], ...]] = (StackCheck,)

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> tuple[Finding, ...]:
        stack = others[StackCheck]
        if isinstance(stack, str):
            return ()
        return tuple(force_findings(part, stack, context["factor"], context["setup"]))

    def judge(self, part: Part, measured: tuple[Finding, ...], figure: FigureUnderCheck) -> list[Finding | Unseen]:
        return list(measured) if figure.is_stood else []


class FineCheck(PartCheck):
    """Lines and gaps of a part that its printer hardly draws as it stands, without its supports."""

    station: ClassVar[Station] = Station.LAYERS
    progress_text: ClassVar[str] = "layers: lines and gaps"
    part_fields: ClassVar[tuple[str, ...]] = ("name", "mesh", "stance", "supports")
    context_names: ClassVar[tuple[str, ...]] = (
        "factor",
        *RASTER,
        *ESTIMATED,
        "setup.printer.process",
        "setup.setting.edge_growth",
    )
    after: ClassVar[tuple[type[Check], ...]] = (StackCheck,)
    seconds_a_triangle: ClassVar[float] = 2e-6

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> FineLayers | None:
        if isinstance(others[StackCheck], str) or not is_stood(part):
            return None
        return fine_layers_of(part, context["factor"], context["setup"])

    def judge(self, part: Part, measured: FineLayers | None, figure: FigureUnderCheck) -> list[Finding | Unseen]:
        return [] if measured is None else list(fine_findings(part, measured))
