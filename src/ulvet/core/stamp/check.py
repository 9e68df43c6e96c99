"""What will not show of a stamp, or did not land."""

from collections.abc import Sequence

import numpy as np

from ulvet.core.bench.setup import Setup
from ulvet.core.findings.finding import Cost, Finding, Place, Remedy, SetStep, Severity
from ulvet.core.geometry.mesh import bounds
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.receipt import Receipt
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.step import Part
from ulvet.core.stamp.pressing import LANDED
from ulvet.core.stamp.steps import Stamp, StampReceipt
from ulvet.core.stations import Station

__all__ = ["check_stamps"]

_PIXELS_A_STROKE = 3.0
"""Finest steps of the printer across a stroke that still shows under primer (bench default)."""

_MOST_OF_IT = 0.5
"""Share of the figure's longest side that a stamp is offered to take at most."""


def check_stamps(
    recipe: Recipe, receipts: Sequence[Receipt], parts: Sequence[Part], factor: float, setup: Setup
) -> list[Finding]:
    """``stamp-too-fine`` for strokes narrower than the printer shows, ``stamp-beside`` where some or all of one found
    no surface."""
    found = []
    finest = float(max(setup.line, setup.pixel * _PIXELS_A_STROKE))
    for step, receipt in zip(recipe.steps, receipts, strict=True):
        if not isinstance(step, Stamp) or not isinstance(receipt, StampReceipt) or receipt.idle or not parts:
            continue
        if receipt.not_done:
            if not receipt.lost:
                found.append(_beside(step, parts, factor, 0.0, f"{receipt.not_done}."))
            continue
        landed, narrowest = receipt.landed_least, receipt.narrowest_least
        if landed is None or narrowest is None:
            continue
        if landed < LANDED:
            why = (
                f"Of the strokes of {step.name} {landed:.0%} found surface turned towards them: the rest hangs over "
                "the edge or lies behind something."
            )
            found.append(_beside(step, parts, factor, landed, why))
        if narrowest < finest:
            found.append(_too_fine(step, parts, narrowest, finest, setup))
    return found


def _finding(step: Stamp, parts: Sequence[Part], title: str, why: str, measured: float, limit: float,
             unit: str, remedies: Sequence[Remedy], *, code: str) -> Finding:  # fmt: skip
    anchor = step.places[0]
    on = next((part.name for part in parts if part.name == step.scope), parts[0].name)
    return Finding(
        code=code, station=Station.BRING_IN, severity=Severity.CAUTION, part=on, title=title, measured=measured,
        limit=limit, unit=unit, where=Place(point=anchor.point, normal=anchor.normal, extent=step.width), why=why,
        remedies=tuple(remedies),
    )  # fmt: skip


def _too_fine(step: Stamp, parts: Sequence[Part], narrowest: float, finest: float, setup: Setup) -> Finding:
    wider = round(float(step.width) * finest / max(narrowest, 1e-9) + 0.05, 1)
    return _finding(
        step,
        parts,
        f"Strokes of {step.name} are {narrowest:.2f} mm",
        f"{setup.printer.name} shows strokes from about {finest:.2f} mm on, and primer and paint fill narrower ones. "
        f"The narrowest here are {narrowest:.2f} mm wide.",
        narrowest,
        finest,
        "mm",
        [
            Remedy(
                label=f"Press it {wider:.1f} mm wide",
                change=SetStep(kind=step.kind, step=step.id, values={"width": PrintMM(wider)}),
                cost=Cost(says="takes more room on the figure"),
            )
        ]
        if wider <= 1_000
        else [],
        code="stamp-too-fine",
    )


def _beside(step: Stamp, parts: Sequence[Part], factor: float, landed: float, why: str) -> Finding:
    longest = max(float(np.ptp(bounds(part.mesh), axis=0).max()) for part in parts) * factor
    narrower = round(min(float(step.width) * max(landed, 0.3) ** 0.5 * 0.95, _MOST_OF_IT * longest), 2)
    return _finding(
        step,
        parts,
        f"{landed:.0%} of {step.name} landed" if landed else f"{step.name} was not pressed",
        why,
        landed * 100,
        100 * LANDED,
        "% of its strokes",
        [
            Remedy(
                label=f"Press it {narrower:g} mm wide",
                change=SetStep(kind=step.kind, step=step.id, values={"width": narrower}),
                cost=Cost(says="its strokes become finer"),
            ),
            Remedy(
                label="Leave it out",
                change=SetStep(kind=step.kind, step=step.id, values={"on": False}),
                cost=Cost(says="the step is switched off"),
            ),
        ],
        code="stamp-beside",
    )
