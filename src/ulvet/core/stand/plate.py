"""Whether what lies on the plate holds, and what becomes of what stands there."""

import numpy as np

from ulvet.core.bench.setup import Setup
from ulvet.core.findings.finding import Cost, Finding, Place, Remedy, SetStep, Severity
from ulvet.core.geometry.mesh import bounds
from ulvet.core.layers.clock import hours_and_minutes, layer_seconds
from ulvet.core.layers.forces import footprint_of, strain_on_plate
from ulvet.core.layers.raster import LayerStack
from ulvet.core.lengths import PrintMM, spoken
from ulvet.core.recipe.step import Part
from ulvet.core.stations import Station

__all__ = ["base_thickness", "plate_findings"]

_BASE_SHARE = 0.6
"""Share of the first layer's area down to which a base goes on (bench default)."""
_BASE_LOSSES = 6.0
"""Times the height lost on the plate that a base wants to be thick (bench default)."""


def plate_findings(part: Part, stack: LayerStack, factor: float, setup: Setup) -> list[Finding]:
    """``lets-go`` where the greatest strain passes what the plate holds, and ``base-vanishes`` for a thin base that
    stands on the plate itself."""
    foot = footprint_of(stack)
    if foot is None:
        return []
    found = []
    holding, resin = setup.supports, setup.process == "resin"
    strain = strain_on_plate(stack, foot, holding, resin)
    worst = int(strain.argmax())
    if strain[worst] > holding.stick:
        what = "its supports' feet" if part.supports is not None and part.stance.lift > 0 else "its footprint"
        how = "torn off" if resin else "dragged at"
        closer = round(0.75 * holding.spacing, 1)
        found.append(
            Finding(
                code="lets-go", station=Station.STAND, severity=Severity.CAUTION, part=part.name,
                title=f"It may come off the plate at layer {worst + 1:,}",
                measured=float(strain[worst]), limit=float(holding.stick), unit="N/mm²", where=_underside(part),
                why=f"While that layer is {how}, {hours_and_minutes(layer_seconds(stack, setup)[worst])} h after the "
                f"start, {what} of {foot.area:.0f} mm² is strained most at its rim. What comes off is lost with all "
                "that hangs on it. (An estimate: pull and lever on the first layer, as on a stiff figure.)",
                remedies=(
                    Remedy(label=f"Set contacts {spoken(PrintMM(closer))} mm apart",
                           change=SetStep(kind="support", values={"spacing": closer}),
                           cost=Cost(says="more feet on the plate, more marks to clean")),
                    Remedy(label="Seek the best way to stand anew",
                           change=SetStep(kind="orient", values={"up": None, "taken": []}),
                           cost=Cost(says="supports are made anew; scars move")),
                ),
            )
        )  # fmt: skip
    if part.stance.lift <= 0:
        found += _base(part, stack, setup)
    return found


def base_thickness(stack: LayerStack) -> float:
    """How thick the base of something that stands on the plate is, mm: up to the first layer that has clearly less
    area than the first."""
    areas = stack.areas
    if not len(areas) or areas[0] <= 0:
        return 0.0
    smaller = np.flatnonzero(areas < _BASE_SHARE * areas[0])
    return float((smaller[0] if len(smaller) else len(areas)) * stack.layer)


def _base(part: Part, stack: LayerStack, setup: Setup) -> list[Finding]:
    thick, lost = base_thickness(stack), float(setup.setting.height_lost)
    # What is one straight piece has no base of its own.
    if not 0 < thick < min(_BASE_LOSSES * lost, 0.5 * stack.count * stack.layer):
        return []
    return [
        Finding(
            code="base-vanishes", station=Station.STAND, severity=Severity.CAUTION, part=part.name,
            title=f"Its base of {spoken(PrintMM(thick))} mm is pressed flat on the plate",
            measured=thick, limit=_BASE_LOSSES * lost, unit="mm", where=_underside(part),
            why=f"What stands on the plate itself loses about {lost:.2f} mm of height there and spreads by "
            f"{float(setup.setting.first_growth):.2f} mm a side, as this setting has it. A base so thin comes out "
            "thinner still, with a rim.",
            remedies=(
                Remedy(label=f"Raise it {spoken(setup.supports.lift or PrintMM(5.0))} mm on supports",
                       change=SetStep(kind="support", values={"lift": setup.supports.lift or 5.0}),
                       cost=Cost(says="contacts on its underside, to sand")),
            ),
        )
    ]  # fmt: skip


def _underside(part: Part) -> Place:
    low, high = bounds(part.mesh)
    way = -part.stance.turn[2]
    lowest = part.mesh.vertices[int((part.mesh.vertices @ way).argmax())]
    middle = (low + high) / 2
    x, y, z = middle + way * float((lowest - middle) @ way)
    return Place(point=(float(x), float(y), float(z)), normal=(float(way[0]), float(way[1]), float(way[2])))
