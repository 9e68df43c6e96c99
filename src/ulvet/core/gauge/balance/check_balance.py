"""Findings about how stably a figure stands."""

from collections.abc import Sequence

import numpy as np

from ulvet.core.bench.edition import Edition
from ulvet.core.bench.setup import Setup
from ulvet.core.findings.finding import Cost, Finding, Place, Remedy, Severity, remedy_adding
from ulvet.core.gauge.balance.balance import Balance, balance_of, balance_of_solids, tip_angle_on_base
from ulvet.core.gauge.steps import GrowBase
from ulvet.core.geometry.mesh import concatenated, scaled
from ulvet.core.geometry.topology import edges_of, is_watertight
from ulvet.core.lengths import PrintMM, spoken
from ulvet.core.recipe.step import Part
from ulvet.core.stations import Station

__all__ = ["BASE_THICK", "LEAST_TIP_ANGLE", "balance_of_parts", "check_balance", "direction_in_words"]

LEAST_TIP_ANGLE = 10.0
"""Degrees that a figure can be tipped before it falls, at least (bench default: a table that is knocked)."""
BASE_THICK = PrintMM(3.0)
"""Of a round base (bench default)."""
_THICKER = 3
"""Times as thick as the usual base, for one that may then be narrower."""
_WIDEST = 200
"""Diameter (mm) of the widest base that is offered."""


def balance_of_parts(parts: Sequence[Part], densities: Sequence[float], factor: float) -> Balance | None:
    """Give the balance of all parts together at print size, each of its density (g/cm³), counted as solid except for
    voids; None where a part is not closed."""
    if not is_watertight(edges_of(concatenated(*(part.mesh for part in parts)))):
        return None
    solids = [(scaled(part.mesh, factor), density) for part, density in zip(parts, densities, strict=True)]
    if len(set(densities)) == 1:
        return balance_of(concatenated(*(mesh for mesh, _ in solids)), densities[0])
    return balance_of_solids(solids)


def check_balance(
    parts: Sequence[Part], balance: Balance | None, factor: float, setup: Setup, edition: Edition
) -> list[Finding]:
    """``tips-over`` where a figure falls by itself, or when it is tipped by little."""
    if balance is None or balance.tip_angle >= LEAST_TIP_ANGLE:
        return []
    falls = balance.tip_angle <= 0
    far = balance.support[int((balance.support @ balance.tips_to).argmax())] / factor
    way = direction_in_words(balance.tips_to)
    low = min(float(part.mesh.vertices[:, 2].min()) for part in parts)
    return [
        Finding(
            code="tips-over",
            station=Station.GAUGE,
            severity=Severity.CAUTION,
            part=parts[0].name,
            title="Falls over by itself" if falls else f"Tips over from {balance.tip_angle:.0f}°, to the {way}",
            measured=max(balance.tip_angle, 0.0),
            limit=LEAST_TIP_ANGLE,
            unit="°",
            where=Place(point=(float(far[0]), float(far[1]), low)),
            why=(
                f"It weighs {balance.mass:.1f} g printed solid, and its middle of mass is {spoken(balance.height)} mm "
                + (
                    "up and beside what it stands on."
                    if falls
                    else f"up: tipped {balance.tip_angle:.1f}° to the {way} it falls, and a knocked table asks for "
                    f"{LEAST_TIP_ANGLE:.0f}°."
                )
            ),
            remedies=tuple(_bases(balance, setup)),
        )
    ]


def _bases(balance: Balance, setup: Setup) -> list[Remedy]:
    """The narrowest base on which it stands, in whole mm by fives, and a thicker one where that may be narrower."""
    usual = _base(balance, BASE_THICK, setup.material.density)
    heavy = _base(balance, PrintMM(_THICKER * BASE_THICK), setup.material.density)
    if usual and heavy and heavy[0] < usual[0]:
        return [usual[1], heavy[1]]
    return [base[1] for base in (usual or heavy,) if base]


def _base(balance: Balance, thick: PrintMM, density: float) -> tuple[int, Remedy] | None:
    for diameter in range(5, _WIDEST + 1, 5):
        angle = tip_angle_on_base(balance, diameter, thick, density)
        if angle >= LEAST_TIP_ANGLE:
            ml = np.pi / 4 * diameter**2 * thick / 1000
            heavy = "heavier " if thick > BASE_THICK else ""
            cost = Cost(resin_ml=ml, says=f"{thick:g} mm thick; tips over from {angle:.0f}° then")
            label = f"Stand it on a {heavy}base {diameter} mm wide"
            ways = remedy_adding(label, cost, GrowBase, diameter=PrintMM(diameter), thickness=thick)
            return (diameter, ways[0]) if ways else None
    return None


def direction_in_words(way: np.ndarray[tuple[int], np.dtype[np.float64]]) -> str:
    """Name a direction on the table: front is -y, right is +x."""
    x, y = way
    sides = ["front" if y < -0.38 else "back" if y > 0.38 else "", "left" if x < -0.38 else "right" if x > 0.38 else ""]
    return " ".join(word for word in sides if word)
