"""What is told of layers that pull hard."""

import numpy as np

from ulvet.core.bench.setup import Setup
from ulvet.core.findings.finding import Cost, Finding, Place, Remedy, SetStep, Severity
from ulvet.core.layers.clock import hours_and_minutes, layer_seconds
from ulvet.core.layers.forces import jumps_of, layer_middles
from ulvet.core.layers.placing import in_figure
from ulvet.core.layers.raster import LayerStack
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.step import Part, plural
from ulvet.core.stations import Station

__all__ = ["force_findings"]

_LEAN = Remedy(
    label="Seek the best way to stand anew",
    change=SetStep(kind="orient", values={"up": None, "taken": []}),
    cost=Cost(says="supports are made anew; scars move"),
)


def force_findings(part: Part, stack: LayerStack, factor: float, setup: Setup) -> list[Finding]:
    """``area-jump`` and ``peel-high`` for a part as it stands, in resin, where layers are torn off a film."""
    if setup.process != "resin" or not stack.count:
        return []
    found = []
    areas, seconds = stack.areas, layer_seconds(stack, setup)
    jumps = jumps_of(stack)
    if jumps:
        first = jumps[0]
        found.append(
            _told(
                part, _place(part, stack, first.layer, factor), code="area-jump", count=len(jumps),
                title=f"{plural(len(jumps), 'layer')} at once much larger than the one before",
                measured=first.by, limit=float(areas[first.layer - 1]), unit="mm²",
                why=f"Layer {first.layer + 1:,}, {hours_and_minutes(seconds[first.layer])} h after the start, adds "
                f"{first.by:.0f} mm² to {areas[first.layer - 1]:.0f}: the pull grows at once and what holds it there "
                "is still thin. Leaning it spreads a level side over many layers.",
            )
        )  # fmt: skip
    most = int(areas.argmax())
    pull = float(areas[most] * setup.supports.pull)
    if pull > setup.supports.peel_most:
        found.append(
            _told(
                part, _place(part, stack, most, factor), code="peel-high", count=1,
                title=f"The largest layer is torn off with {pull:.1f} N",
                measured=pull, limit=float(setup.supports.peel_most), unit="N",
                why=f"Layer {most + 1:,} of {areas[most]:.0f} mm², {hours_and_minutes(seconds[most])} h after the "
                "start (an estimate: area times the setting's pull). Lean it, hollow it or part it, so that less "
                "is torn at once.",
            )
        )  # fmt: skip
    return found


def _place(part: Part, stack: LayerStack, layer: int, factor: float) -> Place:
    x, y = layer_middles(stack)[layer]
    at = in_figure(part, factor, [(float(x), float(y), (layer + 0.5) * stack.layer)])[0]
    return Place(point=(float(at[0]), float(at[1]), float(at[2])), extent=PrintMM(float(np.sqrt(stack.areas[layer]))))


def _told(
    part: Part, where: Place, *, code: str, count: int, title: str, measured: float, limit: float, unit: str, why: str
) -> Finding:
    return Finding(
        code=code, station=Station.LAYERS, severity=Severity.CAUTION, part=part.name, title=title, measured=measured,
        limit=limit, unit=unit, count=count, where=where, why=why, remedies=(_LEAN,),
    )  # fmt: skip
