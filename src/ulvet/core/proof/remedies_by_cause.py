"""What can be changed in a recipe because something went wrong, by its cause."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ulvet.core.bench.setup import Setup
from ulvet.core.findings.finding import AddSteps, Cost, Finding, Remedy, SetStep, places_of, remedy_adding
from ulvet.core.gauge.steps import Thicken
from ulvet.core.geometry.mesh import Points
from ulvet.core.lengths import FigureMM, PrintMM, spoken
from ulvet.core.proof.foretold import FORETELLS
from ulvet.core.proof.near import NEAR, is_near
from ulvet.core.proof.proof import Cause
from ulvet.core.recipe.anchors import Anchor

__all__ = ["PartNow", "remedies_by_cause"]

_MOST_REMEDIES = 4
"""Changes of the recipe that are offered for one thing (bench default)."""
_CLOSER = 0.75
"""Share to which supports are set closer after one that gave way (bench default)."""
_STRONGER = 1.3
"""Times the wall that broke (bench default)."""


@dataclass(frozen=True)
class PartNow:
    """A part as it is built now: the lowest and highest corner of its mesh, figure mm, its factor and its setup."""

    low: Points
    high: Points
    factor: float
    setup: Setup


def remedies_by_cause(
    cause: Cause, at: Anchor, part: str, longest: float, now: PartNow, open_findings: Sequence[Finding],
    spacing: float | None,
) -> list[Remedy]:  # fmt: skip
    """Changes of the recipe for what went wrong ``at`` a place of a part: what the checks offer near it now, then what
    helps in general. ``longest`` is the part's longest side, print mm, and ``spacing`` that of the supports, mm, where
    they are held."""
    codes = FORETELLS.get(cause, ())
    near = NEAR * longest / now.factor
    mine = [one for one in open_findings if one.code in codes and one.part in ("", part)]
    offered = [
        remedy
        for finding in mine
        if is_near(at.point, places_of(finding), near, now.factor)
        for remedy in finding.remedies
        if not _accepts(remedy)
    ][: _MOST_REMEDIES - 1]
    if cause in (Cause.THIN_PART, Cause.LAYERS_PARTED, Cause.HANDS) and not any(map(_thickens, offered)):
        wall = PrintMM(np.ceil(now.setup.walls.pin.caution * _STRONGER * 100) / 100)
        offered += remedy_adding(
            f"Thicken it there to {spoken(wall)} mm",
            Cost(says="softens detail; the limit of a pin and a third"),
            Thicken,
            wall=wall,
            places=(at,),
            reach=FigureMM(max(near, 2 * wall / now.factor)),
        )
    if cause in (Cause.CAME_OFF_SUPPORTS, Cause.SUPPORT_MOVED, Cause.ISLAND) and spacing is not None:
        closer = round(spacing * _CLOSER, 2)
        change = SetStep(kind="support", values={"spacing": closer})
        offered.append(Remedy(label=f"Set contacts {spoken(closer)} mm apart", change=change,
                              cost=Cost(says="more scars, supports made anew")))  # fmt: skip
    return offered[:_MOST_REMEDIES]


def _accepts(remedy: Remedy) -> bool:
    change = remedy.change
    return isinstance(change, AddSteps) and any(step.kind == "accept" for step in change.steps)


def _thickens(remedy: Remedy) -> bool:
    return isinstance(remedy.change, AddSteps) and any(isinstance(step, Thicken) for step in remedy.change.steps)
