"""Findings about limbs that may break in use."""

from collections.abc import Sequence

import numpy as np

from ulvet.core.bench.bench import Bench
from ulvet.core.bench.edition import Edition
from ulvet.core.bench.materials import Material
from ulvet.core.bench.setup import Setup
from ulvet.core.findings.finding import Cost, Finding, Place, Remedy, SetEdition, Severity, remedy_adding
from ulvet.core.findings.location import location_in_words
from ulvet.core.gauge.limbs.handling import WeakLimb, weakest_of
from ulvet.core.gauge.limbs.limbs import Limb
from ulvet.core.gauge.steps import FADE, BluntTip, Thicken, WireForLimb
from ulvet.core.geometry.mesh import bounds
from ulvet.core.lengths import FigureMM, PrintMM, spoken
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.stance import AS_IT_STANDS
from ulvet.core.recipe.step import Part
from ulvet.core.stations import Station

__all__ = ["check_handling", "weak_limbs", "wire_for"]

_MOST_WIRE = 2.4
"""Limb (mm) up to which wire is offered in its place (bench default)."""
_MARGIN = 1.05
"""Times the section that just bears the push (bench default)."""
_PLACES = 40
"""Places along a limb at which it is thickened."""
_WORST = 12
"""Limbs that findings are raised for, the weakest first."""


def weak_limbs(part: Part, limbs: Sequence[Limb], material: Material) -> list[WeakLimb]:
    """The limbs of a part at print size, the weakest first, with its layers where it was turned for the printer."""
    return weakest_of(limbs, material, None if part.stance == AS_IT_STANDS else part.stance.turn[2])


def check_handling(
    part: Part, limbs: list[WeakLimb], factor: float, setup: Setup, edition: Edition, bench: Bench
) -> list[Finding]:
    """``snap-risk`` for limbs that break under less than the figure's use asks for, brittle materials under more, and
    that do not give way to a finger first."""
    limit = edition.use.push * setup.material.brittleness
    weak = [limb for limb in limbs if limb.force < limit and not limb.slips]
    return [_finding(part, limb, limit, factor, setup, edition, bench) for limb in weak[:_WORST]]


def _finding(
    part: Part, limb: WeakLimb, limit: float, factor: float, setup: Setup, edition: Edition, bench: Bench
) -> Finding:
    low, high = bounds(part.mesh)
    material = setup.material
    at = location_in_words(limb.tip / factor, low, high)
    skin = (limb.point + limb.aside * limb.section / 2) / factor
    falls = " A fall from a table would likely break it too (a rough guess)." if limb.drop >= 1 else ""
    knocks = f", {material.brittleness:g} times as much since {material.name.lower()} is brittle"
    return Finding(
        code="snap-risk",
        station=Station.GAUGE,
        severity=Severity.CAUTION,
        part=part.name,
        title=f"Snaps at {spoken(limb.force)} N, {at}",
        at=at,
        measured=limb.force,
        limit=limit,
        unit="N",
        where=Place(
            point=_vector(skin), normal=_vector(limb.aside), along=_vector(limb.normal), extent=PrintMM(limb.lever)
        ),
        why=(
            f"Pushed sideways at its tip, {spoken(limb.lever)} mm from here, it breaks where it is "
            f"{spoken(limb.section)} mm thick, at {spoken(limb.force)} N; {_USED[edition.use]} asks for "
            f"{edition.use.push:g} N{knocks if material.brittleness > 1 else ''}. An estimate: a beam clamped here."
            f"{falls}"
        ),
        remedies=tuple(_remedies(part, limb, limit, factor, setup, edition, bench)),
    )


_USED = {"tabletop": "moving about on a table", "display": "standing in a cabinet", "play": "play"}


def _remedies(
    part: Part, limb: WeakLimb, limit: float, factor: float, setup: Setup, edition: Edition, bench: Bench
) -> list[Remedy]:
    found = _thicker(part, limb, limit, factor)
    place = (Anchor.at(limb.point / factor, None, part.source),)
    if (wire := wire_for(limb.section, bench)) is not None:
        found += wire_remedy(wire, place)
    stub = limb.section if limb.lever < 6 * limb.section else None
    if stub:
        least = PrintMM(np.ceil(limb.section * _MARGIN * 100) / 100)
        cost = Cost(says=f"{spoken(limb.lever)} mm shorter")
        found += remedy_adding(f"Blunt its tip to {spoken(least)} mm", cost, BluntTip, least=least, places=place)
    for other in bench.setups_like(setup):
        material = other.material
        bears = limb.force * (material.strength or 0) / (setup.material.strength or np.inf)
        if bears >= edition.use.push * material.brittleness:
            found.append(
                Remedy(
                    label=f"Print it in {material.name.lower()}",
                    change=SetEdition(edition=edition.with_setting(part.name, other.setting.id)),
                    cost=Cost(says=f"{material.price_per_litre:.0f} a litre"),
                )
            )
    return found


def wire_for(thick: float, bench: Bench) -> PrintMM | None:
    """The next thicker wire on the bench; None where there is none, or the limb is too thick for wire."""
    wires = sorted(one.real_diameter for one in bench.bought_parts if one.kind == "wire" and not one.retired)
    return next((wire for wire in wires if wire >= thick), None) if thick <= _MOST_WIRE else None


def wire_remedy(wire: PrintMM, place: tuple[Anchor, ...]) -> list[Remedy]:
    """The limb off and a hole for wire in its place."""
    cost = Cost(says="cut, drilled where there is room, glued by hand")
    return remedy_adding(
        f"Replace it by wire of {spoken(wire)} mm", cost, WireForLimb, here=True, wire=wire, places=place
    )


def _thicker(part: Part, limb: WeakLimb, limit: float, factor: float) -> list[Remedy]:
    """As thick as bears the push wherever it now does not: a round bar bears by the third power of its diameter."""
    weak = limb.forces < limit
    wanted = limb.thick[weak] * (limit / limb.forces[weak]) ** (1 / 3)
    wall = PrintMM(np.ceil(float(wanted.max()) * _MARGIN * 100) / 100)
    thin = limb.line[limb.thick < wall][:: max(1, len(limb.line) // _PLACES)]
    apart = np.linalg.norm(np.diff(thin, axis=0), axis=1).max() if len(thin) > 1 else 0.0
    return remedy_adding(
        f"Thicken it to {spoken(wall)} mm along its length",
        Cost(says=f"fades over {spoken(FADE)} mm, softens detail"),
        Thicken,
        wall=wall,
        places=tuple(Anchor.at(point / factor, None, part.source) for point in thin),
        reach=FigureMM((float(apart) + wall) / factor),
    )


def _vector(values: np.ndarray[tuple[int], np.dtype[np.float64]]) -> tuple[float, float, float]:
    x, y, z = map(float, values)
    return x, y, z
