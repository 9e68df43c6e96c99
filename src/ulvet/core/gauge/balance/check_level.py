"""Faces that are meant to be level."""

from collections.abc import Sequence

from ulvet.core.findings.finding import Cost, Finding, Place, Remedy, SetStep, Severity
from ulvet.core.gauge.record_steps import MeantLevel, MeantLevelReceipt
from ulvet.core.recipe.receipt import Receipt
from ulvet.core.recipe.step import Part, Step
from ulvet.core.stations import Station

__all__ = ["LEVEL", "check_level"]

LEVEL = 0.5
"""Degrees off level that are not seen (bench default)."""


def check_level(steps: Sequence[Step], receipts: Sequence[Receipt], parts: Sequence[Part]) -> list[Finding]:
    """``not-level`` for faces that the record says are meant to be level and are not."""
    return [
        _finding(step, receipt.off_level_degrees, parts[0].name)
        for step, receipt in zip(steps, receipts, strict=True)
        if isinstance(step, MeantLevel)
        and isinstance(receipt, MeantLevelReceipt)
        and parts
        and not step.turned
        and receipt.off_level_degrees is not None
        and receipt.off_level_degrees > LEVEL
    ]


def _finding(step: MeantLevel, degrees: float, part: str) -> Finding:
    anchor = step.places[0]
    return Finding(
        code="not-level",
        station=Station.GAUGE,
        severity=Severity.CAUTION,
        part=part,
        title=f"Not level by {degrees:.1f}°",
        measured=degrees,
        limit=LEVEL,
        unit="°",
        where=Place(point=anchor.point, normal=anchor.normal),
        why=(
            f"The face picked here is meant to be level, and leans {degrees:.1f}° as the figure stands on a table. "
            "From half a degree on it is seen, and what is set on it slides."
        ),
        remedies=(
            Remedy(
                label="Turn the figure until it is level",
                change=SetStep(kind=step.kind, step=step.id, values={"turned": True}),
                cost=Cost(says="turns the whole figure; its underside may no longer lie flat"),
            ),
            Remedy(
                label="It need not be level",
                change=SetStep(kind=step.kind, step=step.id, values={"on": False}),
                cost=Cost(says="the sentence stays in the record, switched off"),
            ),
        ),
    )
