"""What is to be said of cuts and keys as they were made."""

from collections.abc import Sequence
from typing import Any

from ulvet.core.findings.finding import Cost, Finding, Place, Remedy, SetStep, Severity
from ulvet.core.lengths import PrintMM
from ulvet.core.part.keep_steps import Crossing, KeepWhole, crossings
from ulvet.core.part.key_steps import Key, KeyReceipt
from ulvet.core.part.steps import SLIVER_MM3, Cut, CutReceipt
from ulvet.core.recipe.receipt import Receipt
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.step import Part, plural
from ulvet.core.stations import Station

__all__ = ["check_cuts"]

_SNAPS = 0.5
"""Mm of width that keys are not made thinner than (bench default)."""
_CLEAR = 1.02
"""Times as far as it must that a cut is moved past what is kept (bench default)."""
_SMALLER = 1.3
"""Times as wide as it is a key that did not fit was (bench default)."""


def check_cuts(parts: Sequence[Part], recipe: Recipe, receipts: Sequence[Receipt], factor: float) -> list[Finding]:
    """``sliver`` for cuts that left one, and ``key-too-near`` for keys that were asked for and could not be set."""
    found = []
    for step, receipt in zip(recipe.steps, receipts, strict=True):
        if isinstance(receipt, CutReceipt) and receipt.slivers:
            found.append(_sliver(step, receipt, parts, factor))
        if isinstance(step, Key) and isinstance(receipt, KeyReceipt) and receipt.refused:
            found.append(_refused(step, receipt, parts))
    found += [_crosses(one, recipe, factor) for one in crossings(parts, recipe, receipts)]
    return found


def _crosses(one: Crossing, recipe: Recipe, factor: float) -> Finding:
    cut, kept = recipe.steps[one.cut], recipe.steps[one.kept]
    assert isinstance(kept, KeepWhole)
    remedies = []
    if isinstance(cut, Cut):
        # The short way is past the side that its middle is not on, the long one past the whole of it.
        near, far = one.into * _CLEAR, (2 * float(kept.radius) - one.into) * _CLEAR
        for by, way in ((near, -1.0 if one.ahead else 1.0), (far, 1.0 if one.ahead else -1.0)):
            remedies.append(
                Remedy(label=f"Move the cut {by * factor:.1f} mm {'on' if way > 0 else 'back'}",
                       change=SetStep(kind="cut", step=cut.id, values={"offset": float(cut.offset) + way * by}),
                       cost=Cost(says="the seam moves by as much"))
            )  # fmt: skip
    x, y, z = map(float, one.at)
    return Finding(
        code="crosses-kept",
        station=Station.PART,
        severity=Severity.CAUTION,
        part=one.part,
        title=f"A cut goes through {kept.name}",
        measured=float(kept.radius - one.into) * factor,
        limit=float(kept.radius) * factor,
        unit="mm",
        where=Place(point=(x, y, z), extent=PrintMM(2 * float(kept.radius) * factor)),
        why=f"{kept.name} was to stay in one piece, and a seam there is seen. Move the cut past it, or say that less "
        "of it has to stay whole.",
        remedies=tuple(remedies),
    )


def _sliver(step: object, receipt: CutReceipt, parts: Sequence[Part], factor: float) -> Finding:
    remedies = []
    if isinstance(step, Cut):
        for by in (1.0, -1.0):
            offset = float(step.offset) + by / factor
            remedies.append(
                Remedy(label=f"Move the cut {abs(by):g} mm {'on' if by > 0 else 'back'}",
                       change=SetStep(kind="cut", step=step.id, values={"offset": offset}),
                       cost=Cost(says="the seam moves by as much"))
            )  # fmt: skip
    part = parts[0].name if parts else ""
    return Finding(
        code="sliver",
        station=Station.PART,
        severity=Severity.CAUTION,
        part=part,
        title=f"A cut left {plural(receipt.slivers, 'sliver')}",
        measured=float(receipt.slivers),
        limit=0.0,
        unit="pieces",
        count=receipt.slivers,
        where=None,
        why=f"A piece of less than {SLIVER_MM3:g} mm³ is lost in the wash and cannot be held to glue it. Move the cut "
        "until it takes more, or nothing, of what is there.",
        remedies=tuple(remedies),
    )


def _refused(step: Key, receipt: KeyReceipt, parts: Sequence[Part]) -> Finding:
    limit = receipt.limit or 0.0
    remedies = []
    if step.size is not None and not step.buys and float(step.size) / _SMALLER >= _SNAPS:
        smaller = round(float(step.size) / _SMALLER, 1)
        remedies.append(_with(step, f"Make them {smaller:.1f} mm wide", "weaker keys", size=smaller))
    if not step.buys:
        free: dict[str, Any] = {"size": None, "places": [], "number": None}
        remedies.append(_with(step, "Let the joint choose size and place", "your places are left", **free))
    remedies.append(_with(step, "Leave that joint to its glue", "no keys at this cut", on=False))
    return Finding(
        code="key-too-near",
        station=Station.PART,
        severity=Severity.CAUTION,
        part=parts[0].name if parts else "",
        title=f"{plural(receipt.refused, 'key')} of cut {step.cut} could not be set",
        measured=receipt.wall or 0.0,
        limit=limit,
        unit="mm",
        count=receipt.refused,
        where=None,
        why=f"{receipt.not_done[:1].upper()}{receipt.not_done[1:]}. Every key keeps {limit:.2f} mm of wall about its "
        "hole, as held walls want in this setting; nothing else was changed.",
        remedies=tuple(remedies),
    )


def _with(step: Key, label: str, says: str, **values: Any) -> Remedy:
    """A remedy that sets fields of the keys."""
    return Remedy(label=label, change=SetStep(kind="key", step=step.id, values=values), cost=Cost(says=says))
