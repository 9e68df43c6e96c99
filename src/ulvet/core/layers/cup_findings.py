"""What a cup does to a print in resin, and what cures it."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ulvet.core.bench.settings import Setting
from ulvet.core.bench.support_limits import SupportLimits
from ulvet.core.findings.finding import AddSteps, Cost, Finding, Place, Remedy, Severity
from ulvet.core.findings.location import location_in_words
from ulvet.core.geometry.mesh import Mesh, bounds, flipped, volume
from ulvet.core.geometry.solids import shells_of
from ulvet.core.layers.clock import hours_and_minutes
from ulvet.core.layers.cup_vents import Vent, vent_for
from ulvet.core.layers.cups import Cup, find_cups
from ulvet.core.layers.placing import in_figure
from ulvet.core.layers.raster import LayerStack
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.stance import AS_IT_STANDS
from ulvet.core.recipe.step import Part
from ulvet.core.stations import Station

__all__ = ["CUP_PRESSURE", "VentedCup", "cup_findings", "cup_in_words", "cups_of", "is_stood"]

CUP_PRESSURE = 0.03
"""N/mm² that a lift can pull at a shut mouth, an estimate: resin flows in long before the 0.1 N/mm² of the atmosphere
are reached (bench default)."""
_TEARS = 3.0
"""Newtons from which a cup stops a print: what a tip of 0.7 mm bears (bench default)."""


@dataclass(frozen=True)
class VentedCup:
    """A cup, the vent that cures it, and whether it is a space of the mesh that nothing leads out of."""

    cup: Cup
    point: tuple[float, float, float]
    """A place in its first layer, figure mm."""
    vent: Vent | None
    """In figure mm and axes, but for its diameter."""
    is_sealed_space: bool

    @property
    def newtons(self) -> float:
        """The pull at it, an estimate: the area its rim encloses at the film times a bounded pressure."""
        return self.cup.mouth * CUP_PRESSURE


def cups_of(part: Part, stack: LayerStack, factor: float, supports: SupportLimits) -> tuple[VentedCup, ...]:
    """The cups of a part as it stands, with its supports."""
    raft = 0 if part.supports is None else int(np.ceil(supports.raft / stack.layer))
    cups = find_cups(stack, raft)
    spaces = [flipped(shell) for shell in shells_of(part.mesh) if volume(shell) < 0] if cups else []
    return tuple(_placed(part, stack, factor, cup, spaces) for cup in cups)


def _placed(part: Part, stack: LayerStack, factor: float, cup: Cup, spaces: Sequence[Mesh]) -> VentedCup:
    x, y, z = map(float, in_figure(part, factor, [(cup.x, cup.y, (cup.first + 0.5) * stack.layer)])[0])
    point, vent = np.array([x, y, z]), vent_for(stack, cup)
    if vent is not None:
        (at,) = in_figure(part, factor, [(float(vent.point[0]), float(vent.point[1]), float(vent.point[2]))])
        vent = Vent(at, np.asarray(vent.way @ part.stance.turn), vent.diameter)
    boxes = map(bounds, spaces)
    within = cup.sealed and any(bool(((point >= low) & (point <= high)).all()) for low, high in boxes)
    return VentedCup(cup, (x, y, z), vent, within)


def is_stood(part: Part) -> bool:
    """Whether somebody has turned a part for the printer, or held it."""
    return part.supports is not None or part.stance.up != AS_IT_STANDS.up


def seconds_at(setting: Setting, layer: int) -> float:
    """When a layer begins, in seconds from the start of a print in resin."""
    times = setting.times
    first = min(times.first_layers, layer)
    return first * times.seconds_per_first_layer + (layer - first) * times.seconds_per_layer


def cup_findings(part: Part, cups: Sequence[VentedCup], setting: Setting) -> list[Finding]:
    """``cup`` for every cup that is no sealed space, which is told with its space."""
    low, high = bounds(part.mesh)
    # What nobody has stood yet may still be turned.
    stood = is_stood(part)
    found = []
    for one in cups:
        if one.is_sealed_space:
            continue
        cup, point = one.cup, np.array(one.point)
        found.append(
            Finding(
                code="cup",
                station=Station.LAYERS,
                severity=Severity.STOP if stood and one.newtons >= _TEARS else Severity.CAUTION,
                part=part.name,
                title=f"A cup that sucks at the film, {cup.millilitres:.2f} ml, {location_in_words(point, low, high)}",
                measured=one.newtons,
                limit=_TEARS,
                unit="N",
                where=Place(point=one.point, extent=PrintMM(float(np.sqrt(cup.mouth)))),
                why=f"{cup_in_words(one, setting)} The pull is an estimate: {cup.mouth:.0f} mm² within its rim "
                f"times {CUP_PRESSURE * 1000:.0f} kPa.",
                remedies=tuple(_remedies(part, one, setting.supports.lift)),
            )
        )
    return found


def cup_in_words(one: VentedCup, setting: Setting) -> str:
    """From which layer to which a cup sucks, and when."""
    begins, ends = (hours_and_minutes(seconds_at(setting, layer)) for layer in (one.cup.first, one.cup.last + 1))
    return (
        f"From layer {one.cup.first + 1:,} to {one.cup.last + 1:,} ({begins} to {ends} h) it is open to the film only, "
        f"and every lift pulls at it with about {one.newtons:.0f} N."
    )


def _remedies(part: Part, one: VentedCup, lift: PrintMM) -> list[Remedy]:
    """Ways out; ``lift`` is how far the setting raises what hangs, for what lies flat would else stay on the plate."""
    remedies = []
    if one.vent is not None:
        place = {"point": one.vent.point.tolist(), "normal": one.vent.way.tolist(), "source": part.source}
        step = {"kind": "vent", "scope": part.name, "places": [place], "diameter": one.vent.diameter}
        remedies.append(
            Remedy(
                label=f"Vent it at its plate end, {one.vent.diameter:.1f} mm wide",
                change=AddSteps.model_validate({"steps": [step]}),
                cost=Cost(says="a hole to fill or to turn away from view"),
            )
        )
    if part.supports is None and one.cup.first == 0:
        remedies.append(
            Remedy(
                label="Raise it clear of the plate",
                change=AddSteps.model_validate({"steps": [{"kind": "support", "scope": part.name, "lift": lift}]}),
                cost=Cost(says="it breathes from below; supports leave marks"),
            )
        )
    remedies.append(
        Remedy(
            label="Turn it the best way and hold it",
            change=AddSteps.model_validate(
                {"steps": [{"kind": "orient", "scope": part.name}, {"kind": "support", "scope": part.name}]}
            ),
            cost=Cost(says="supports are made anew; whether it still sucks is seen then"),
        )
    )
    return remedies
