"""What goes wrong between one layer and the next."""

from dataclasses import dataclass

import numpy as np

from ulvet.core.bench.setup import Setup
from ulvet.core.findings.finding import MOST_PLACES, AddSteps, Cost, Finding, Place, Remedy, Severity
from ulvet.core.findings.location import location_in_words
from ulvet.core.geometry.clustering import CLUSTER_SHARE, cluster_points
from ulvet.core.geometry.mesh import Points, bounds
from ulvet.core.layers.estimate import Estimate, estimate_print
from ulvet.core.layers.island_limits import ISLAND_LEAST_AREA, island_dilation
from ulvet.core.layers.islands import Island, find_islands
from ulvet.core.layers.placing import in_figure
from ulvet.core.layers.raster import LayerStack, raster_layers
from ulvet.core.lengths import PrintMM, spoken
from ulvet.core.recipe.step import Part, plural
from ulvet.core.stations import Station

__all__ = ["LayersReport", "check_layers", "find_trouble"]


@dataclass(frozen=True)
class LayersReport:
    """The layers of one part at print size, their estimate, and what they show."""

    stack: LayerStack
    estimate: Estimate
    islands: tuple[Island, ...]
    findings: tuple[Finding, ...]


def check_layers(part: Part, factor: float, setup: Setup) -> LayersReport:
    """``island`` and ``open-layers`` for a part as it stands, with its supports.

    Raises TooManyLayers.
    """
    stack = raster_layers(part.whole(factor), setup.layer, setup.pixel)
    islands, findings = find_trouble(part, stack, factor, setup)
    return LayersReport(stack, estimate_print(stack, setup, held=part.supports is not None), islands, findings)


def find_trouble(
    part: Part, stack: LayerStack, factor: float, setup: Setup
) -> tuple[tuple[Island, ...], tuple[Finding, ...]]:
    """The islands of a part's layers, and the findings of ``check_layers``."""
    dilation = island_dilation(setup)
    islands = find_islands(stack, dilation, ISLAND_LEAST_AREA)
    findings = [*_islands(part, islands, stack, factor, dilation), *_open_layers(part, stack, factor)]
    return tuple(islands), tuple(findings)


def _islands(part: Part, islands: list[Island], stack: LayerStack, factor: float, dilation: PrintMM) -> list[Finding]:
    if not islands:
        return []
    low, high = bounds(part.mesh)
    points = in_figure(part, factor, [(i.x, i.y, i.layer * stack.layer) for i in islands])
    group = cluster_points(points, CLUSTER_SHARE * float((high - low).max()))
    remedies = _remedies(part)
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
                title=f"{plural(len(members), 'island')}, {location_in_words(points[members[0]], low, high)}",
                measured=first.area,
                limit=ISLAND_LEAST_AREA,
                unit="mm²",
                count=len(members),
                where=_at(part, points[members[0]], first.area),
                places=tuple(_at(part, points[k], islands[k].area) for k in members[:MOST_PLACES]),
                why=f"From layer {first.layer + 1:,}, {spoken((first.layer + 0.5) * stack.layer)} mm up, solid begins "
                "with nothing under it: it drifts off or sticks where it should not. "
                f"(Told from {ISLAND_LEAST_AREA} mm² on, at {stack.pixel:.3f} mm pixels, "
                f"{dilation:.3f} mm beside solid still holds.)",
                remedies=remedies,
            )
        )
    return findings


def _remedies(part: Part) -> tuple[Remedy, ...]:
    """Ways to hold what begins in the air, unless it is held already and this could not be reached."""
    if part.supports is not None:
        return ()
    return (
        Remedy(
            label="Lean it the best way and hold it",
            change=_added("orient", "support"),
            cost=Cost(says="supports are made anew at every size; each leaves a mark to clean"),
        ),
        Remedy(
            label="Hold it as it stands",
            change=_added("support"),
            cost=Cost(says="as above, often with more contacts"),
        ),
    )


def _added(*kinds: str) -> AddSteps:
    """Steps by kind, since Stand, whose they are, looks at layers itself."""
    return AddSteps.model_validate({"steps": [{"kind": kind} for kind in kinds]})


def _at(part: Part, point: Points, area: float) -> Place:
    x, y, z = map(float, point)
    down = tuple(map(float, -part.stance.turn[2]))
    return Place(point=(x, y, z), normal=(down[0], down[1], down[2]), extent=PrintMM(area**0.5))


def _open_layers(part: Part, stack: LayerStack, factor: float) -> list[Finding]:
    layers = np.flatnonzero(stack.unbalanced)
    if not len(layers):
        return []
    worst = int(stack.unbalanced.argmax())
    low, high = bounds(part.whole(factor))
    middle = (low + high) / 2
    x, y, z = map(float, in_figure(part, factor, [(middle[0], middle[1], (worst + 0.5) * stack.layer)])[0])
    return [
        Finding(
            code="open-layers",
            station=Station.LAYERS,
            severity=Severity.STOP,
            part=part.name,
            title=f"{plural(len(layers), 'layer')} with an outline that does not close",
            measured=float(stack.unbalanced[worst]),
            limit=0,
            unit="rows",
            count=len(layers),
            where=Place(point=(x, y, z)),
            why=f"The worst is layer {worst + 1:,}. The printer would fill or leave out whole rows there; "
            "area, resin and islands are uncertain until Mend has closed the surface.",
        )
    ]
