"""What goes wrong between one layer and the next."""

from dataclasses import dataclass

import numpy as np

from ulvet.core.bench import Setup
from ulvet.core.findings import Finding, Severity, Where
from ulvet.core.layers.estimate import Estimate, estimate_print
from ulvet.core.layers.islands import Island, find_islands
from ulvet.core.layers.raster import LayerStack, raster_layers
from ulvet.core.lengths import PrintMM, spoken
from ulvet.core.mesh import Points, bounds, scaled
from ulvet.core.places import gathered, where_said
from ulvet.core.recipe.step import Part, says
from ulvet.core.stations import Station

__all__ = ["ISLAND_LEAST_AREA", "LayersReport", "check_layers", "island_dilation"]

ISLAND_LEAST_AREA = 0.02
"""Smallest island told, mm² (bench default): below it, cured resin bridges from its neighbours."""
_GATHER_SHARE = 0.12
_PLACES = 100


@dataclass(frozen=True)
class LayersReport:
    """The layers of one part at print size, their estimate, and what they show."""

    stack: LayerStack
    estimate: Estimate
    islands: tuple[Island, ...]
    findings: tuple[Finding, ...]


def island_dilation(setup: Setup) -> PrintMM:
    """How far beside solid new solid still holds: one pixel in resin, half a line in filament (bench defaults)."""
    printer = setup.printer
    return printer.pixel if printer.process == "resin" else PrintMM(printer.line / 2)


def check_layers(part: Part, factor: float, setup: Setup) -> LayersReport:
    """``island`` and ``open-layers`` for a part as it stands.

    Raises TooManyLayers.
    """
    mesh = scaled(part.mesh, factor)
    printer = setup.printer
    stack = raster_layers(mesh, printer.layer, printer.pixel)
    dilation = island_dilation(setup)
    islands = find_islands(stack, dilation, ISLAND_LEAST_AREA)
    findings = [*_islands(part, islands, stack, factor, dilation), *_open_layers(part, stack, factor)]
    return LayersReport(stack, estimate_print(stack, setup), tuple(islands), tuple(findings))


def _islands(part: Part, islands: list[Island], stack: LayerStack, factor: float, dilation: PrintMM) -> list[Finding]:
    if not islands:
        return []
    low, high = bounds(part.mesh)
    bottom = low[2] * factor
    points = np.array([(i.x, i.y, bottom + i.layer * stack.layer) for i in islands]) / factor
    group = gathered(points, _GATHER_SHARE * float((high - low).max()))
    findings = []
    for g in range(group.max() + 1):
        members = np.flatnonzero(group == g)
        members = members[np.argsort([-islands[k].area for k in members], kind="stable")]
        first = islands[members[0]]
        findings.append(
            Finding(
                code="island",
                station=Station.LAYERS,
                severity=Severity.STOP,
                part=part.name,
                title=f"{says(len(members), 'island')}, {where_said(points[members[0]], low, high)}",
                measured=first.area,
                limit=ISLAND_LEAST_AREA,
                unit="mm²",
                count=len(members),
                where=_at(points[members[0]], first.area),
                places=tuple(_at(points[k], islands[k].area) for k in members[:_PLACES]),
                why=f"From layer {first.layer + 1:,}, {spoken((first.layer + 0.5) * stack.layer)} mm up, solid begins "
                "with nothing under it: it drifts off or sticks where it should not. "
                f"(Told from {ISLAND_LEAST_AREA} mm² on, at {stack.pixel:.3f} mm pixels, "
                f"{dilation:.3f} mm beside solid still holds.)",
            )
        )
    return findings


def _at(point: Points, area: float) -> Where:
    x, y, z = map(float, point)
    return Where(point=(x, y, z), normal=(0.0, 0.0, -1.0), extent=PrintMM(area**0.5))


def _open_layers(part: Part, stack: LayerStack, factor: float) -> list[Finding]:
    layers = np.flatnonzero(stack.unbalanced)
    if not len(layers):
        return []
    low, high = bounds(part.mesh)
    worst = int(stack.unbalanced.argmax())
    middle = (low + high) / 2
    return [
        Finding(
            code="open-layers",
            station=Station.LAYERS,
            severity=Severity.STOP,
            part=part.name,
            title=f"{says(len(layers), 'layer')} with an outline that does not close",
            measured=float(stack.unbalanced[worst]),
            limit=0,
            unit="rows",
            count=len(layers),
            where=Where(
                point=(
                    float(middle[0]),
                    float(middle[1]),
                    float(low[2] + (worst + 0.5) * stack.layer / factor),
                )
            ),
            why=f"The worst is layer {worst + 1:,}. The printer would fill or leave out whole rows there; "
            "area, resin and islands are uncertain until Mend has closed the surface.",
        )
    ]
