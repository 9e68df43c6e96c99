"""Whether the unit of a source is certain."""

from ulvet.core.bench import Edition
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.findings import Cost, Finding, ReadSourceAs, Remedy, Severity, Where
from ulvet.core.lengths import spoken
from ulvet.core.mesh import Mesh, bounds
from ulvet.core.stations import Station
from ulvet.core.units import UNIT_NAMES, UNITS

__all__ = ["check_unit"]


def check_unit(step: BringIn, mesh: Mesh, edition: Edition) -> list[Finding]:
    """``unit-doubtful`` when the unit was guessed; only a note once a height is set, which makes it irrelevant."""
    if not step.doubt:
        return []
    low, high = bounds(mesh)
    longest = float((high - low).max())
    remedies = []
    for unit in sorted(UNITS, key=lambda name: name != step.unit):
        says = longest * UNITS[unit] / UNITS[step.unit]
        keep = "Yes, " if unit == step.unit else "No, "
        remedies.append(
            Remedy(
                label=f"{keep}{UNIT_NAMES[unit]}",
                change=ReadSourceAs(unit=unit),
                cost=Cost(says=f"{spoken(says)} mm long"),
            )
        )
    middle = (low + high) / 2
    return [
        Finding(
            code="unit-doubtful",
            station=Station.BRING_IN,
            severity=Severity.NOTE if edition.height is not None else Severity.CAUTION,
            part="figure",
            title=f"Are these {UNIT_NAMES[step.unit]}?",
            measured=longest / UNITS[step.unit],
            limit=longest,
            unit=step.unit,
            where=Where(point=(float(middle[0]), float(middle[1]), float(high[2]))),
            why=f"The file does not say its unit. It is {step.doubt}. "
            "A wrong unit makes every wall, gap and price wrong.",
            remedies=tuple(remedies),
        )
    ]
