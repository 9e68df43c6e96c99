"""What is told of lines and gaps that the printer hardly draws."""

from dataclasses import dataclass

import numpy as np

from ulvet.core.bench.setup import Setup
from ulvet.core.findings.finding import MOST_PLACES, Finding, Place, Severity
from ulvet.core.findings.location import location_in_words
from ulvet.core.geometry.mesh import bounds
from ulvet.core.layers.clock import hours_and_minutes, layer_seconds
from ulvet.core.layers.fine import Narrow, narrow_places
from ulvet.core.layers.raster import LayerStack, raster_layers
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.step import Part, plural
from ulvet.core.stations import Station

__all__ = ["FineLayers", "fine_findings", "fine_layers_of"]

_LINE_PIXELS = 2.0
"""Pixels of resin that a line wants to hold together (bench default)."""
_GAP_PIXELS = 3.0
"""Pixels of resin across which light strays and closes a gap (bench default)."""


@dataclass(frozen=True)
class FineLayers:
    """Lines and gaps of a part's own layers that are too narrow, each with its limit, print mm, and when each begins,
    seconds; points (n, 3) are figure mm, lines first."""

    lines: tuple[Narrow, ...]
    gaps: tuple[Narrow, ...]
    line_limit: float
    gap_limit: float
    points: tuple[tuple[float, float, float], ...]
    seconds: tuple[float, ...]


def fine_layers_of(part: Part, factor: float, setup: Setup) -> FineLayers:
    """What of a part without its supports is too fine as it stands.

    In resin a line wants two pixels, and a gap three and what edges grow on both sides; in filament both want a line.

    Raises TooManyLayers.
    """
    stack = raster_layers(part.stance.in_print(part.mesh, factor), setup.layer, setup.pixel)
    resin = setup.process == "resin"
    line = _LINE_PIXELS * setup.pixel if resin else float(setup.line)
    gap = (_GAP_PIXELS * setup.pixel if resin else float(setup.line)) + 2 * max(setup.setting.edge_growth, 0.0)
    lines, gaps = narrow_places(stack, line, gap)
    return FineLayers(tuple(lines), tuple(gaps), line, gap, *_placed(part, stack, [*lines, *gaps], factor, setup))


def _placed(
    part: Part, stack: LayerStack, found: list[Narrow], factor: float, setup: Setup
) -> tuple[tuple[tuple[float, float, float], ...], tuple[float, ...]]:
    if not found:
        return (), ()
    lift = float(part.stance.lift)
    at = np.array([(one.x, one.y, lift + one.layer * stack.layer) for one in found])
    points = part.stance.in_figure(at, part.mesh, factor)
    begins = layer_seconds(stack, setup)
    return tuple((float(x), float(y), float(z)) for x, y, z in points), tuple(float(begins[one.layer]) for one in found)


def fine_findings(part: Part, fine: FineLayers) -> list[Finding]:
    """``line-too-thin`` and ``gap-too-small``, each as one finding with its places, the narrowest first."""
    count = len(fine.lines)
    found = []
    if fine.lines:
        found.append(
            _told(
                part, fine.lines, fine.points[:count], fine.seconds[0], fine.line_limit, code="line-too-thin",
                title="too thin to draw",
                why="What is narrower is drawn in broken dots or not at all. Make the figure larger, thicken it there "
                "at Gauge, or choose a printer that draws finer.",
            )
        )  # fmt: skip
    if fine.gaps:
        found.append(
            _told(
                part, fine.gaps, fine.points[count:], fine.seconds[count], fine.gap_limit, code="gap-too-small",
                title="too narrow to stay open",
                why="Stray light or the width of a line closes it, and what should move or be a groove is one piece. "
                "Make the figure larger, widen it, or print both sides as parts of their own.",
            )
        )  # fmt: skip
    return found


def _told(
    part: Part, narrow: tuple[Narrow, ...], points: tuple[tuple[float, float, float], ...], seconds: float,
    limit: float, *, code: str, title: str, why: str,
) -> Finding:  # fmt: skip
    low, high = bounds(part.mesh)
    what = plural(len(narrow), "line" if code == "line-too-thin" else "gap")
    places = tuple(
        Place(point=point, extent=PrintMM(max(one.width, limit)))
        for one, point in zip(narrow[:MOST_PLACES], points, strict=False)
    )
    return Finding(
        code=code, station=Station.LAYERS, severity=Severity.CAUTION, part=part.name,
        title=f"{what} {title}, {location_in_words(np.array(points[0]), low, high)}",
        measured=narrow[0].width, limit=limit, unit="mm", count=len(narrow), where=places[0], places=places,
        why=f"The narrowest begins at layer {narrow[0].layer + 1:,} of the figure, {hours_and_minutes(seconds)} h "
        f"after its first. {why}",
    )  # fmt: skip
