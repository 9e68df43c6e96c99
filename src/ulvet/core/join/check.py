"""How bits hold in a figure: what touches nothing, what barely does, what would seal a cavity."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ulvet.core.bench.setup import Setup
from ulvet.core.bits.placement import PlacedStep
from ulvet.core.findings.finding import Cost, Finding, Place, Remedy, SetStep, Severity, remedy_adding
from ulvet.core.geometry.deviation import nearest_between
from ulvet.core.geometry.mesh import Mesh, bounds
from ulvet.core.geometry.solids import CannotJoin, TooFarApart
from ulvet.core.join.joining import measure_hold
from ulvet.core.join.steps import JoinParts, JoinReceipt
from ulvet.core.lengths import FigureMM, PrintMM, spoken
from ulvet.core.recipe.measured import measured_once
from ulvet.core.recipe.receipt import Receipt
from ulvet.core.recipe.runner import Memory, Recipe, measured_key
from ulvet.core.recipe.step import Part
from ulvet.core.stations import Station

__all__ = ["Meeting", "check_kit", "meetings_of"]

_SHALLOW = PrintMM(0.3)
"""Least depth of an overlap (bench default): less is lost to the tolerance of sculpting programs and of the process."""
_ROUND = np.sqrt(2) - 1
"""How far a round of radius one stands out from the corner it fills."""


@dataclass(frozen=True)
class Meeting:
    """How a bit that is only there would hold to a part it meets, figure mm: how deep they reach into each other, the
    neck between them (mm²) and how thick it is, and what they would seal (mm³), in the middle of where they cross."""

    bit: str
    host: str
    overlap: float
    neck: float
    neck_width: float
    sealed: float
    middle: tuple[float, float, float]


@dataclass(frozen=True)
class _Held(Meeting):
    """How a bit holds, figure mm, and what would be changed to hold it better."""

    blend: float = 0.0
    made: float = 0.0
    """Thickness the neck was made, print mm."""
    filled: bool = False
    joined: JoinParts | None = None
    """The step that joined it; None while it only overlaps."""
    placed: PlacedStep | None = None
    """The step that placed it."""


def meetings_of(placed: Sequence[str], parts: Sequence[Part], memory: Memory) -> dict[str, list[Meeting] | None]:
    """Where every bit and form that is a part of its own, by the names of ``placed``, meets others; None for one that
    cannot be told, since it or what it meets does not close."""
    found: dict[str, list[Meeting] | None] = {}
    for part in parts:
        if len(parts) > 1 and (part.name in placed or part.name.rpartition(" ")[0] in placed):
            found[part.name] = _meetings(part, [other for other in parts if other is not part], memory)
    return found


def _meetings(part: Part, others: Sequence[Part], memory: Memory) -> list[Meeting] | None:
    found = []
    low, high = bounds(part.mesh)
    for other in others:
        there = bounds(other.mesh)
        if (low > there[1]).any() or (high < there[0]).any():
            continue
        if (hold := _known_hold(other.mesh, part.mesh, memory)) is not None:
            if not hold:
                return None
            middle = (hold["x"], hold["y"], hold["z"])
            overlap, neck, sealed = hold["overlap"], hold["neck"], hold["sealed"]
            found.append(Meeting(part.name, other.name, overlap, neck, hold["neck_width"], sealed, middle))
    return found


def check_kit(
    recipe: Recipe,
    receipts: Sequence[Receipt],
    parts: Sequence[Part],
    meetings: Mapping[str, list[Meeting] | None],
    factor: float,
    setup: Setup,
) -> list[Finding]:
    """``neck-thin``, ``overlap-shallow``, ``seals-cavity`` and ``floats-free``, of bits that were joined and of those
    that are only there, whose ``meetings`` are given."""
    placed = _placed(recipe)
    joined_to = {step.bit: step.host for step in recipe.steps if isinstance(step, JoinParts) and step.on}
    found: list[Finding] = []
    for step, receipt in zip(recipe.steps, receipts, strict=True):
        if isinstance(step, JoinParts) and isinstance(receipt, JoinReceipt) and not receipt.idle:
            held = _Held(
                step.bit, _part_now(step.host, parts, joined_to),
                receipt.overlap, receipt.neck, receipt.neck_width, receipt.sealed,
                receipt.middle, float(step.blend), float(step.neck), step.fill, step,
                _placing(step.bit, placed),
            )  # fmt: skip
            found += _judged(held, factor, setup)
    for part in parts:
        met, placing = meetings.get(part.name), _placing(part.name, placed)
        if met is None or placing is None:
            continue  # no bit, or one that does not close: Mend comes first
        if not met:
            found.append(_floats(part, placing, [other for other in parts if other is not part], factor))
            continue
        best = max(met, key=lambda one: one.neck)
        together = _Held(
            best.bit, best.host, best.overlap, best.neck, best.neck_width, best.sealed, best.middle, placed=placing
        )
        found += _judged(together, factor, setup)
    return found


def _placed(recipe: Recipe) -> dict[str, PlacedStep]:
    """What places the bits and forms that are switched on, by their names."""
    return {step.name: step for step in recipe.steps if isinstance(step, PlacedStep) and step.on}


def _part_now(name: str, parts: Sequence[Part], joined_to: dict[str, str]) -> str:
    """The part that a part is in at the end, when it was joined on in its turn."""
    names = {part.name for part in parts}
    for _ in joined_to:
        name = name if name in names else joined_to.get(name, name)
    return name


def _placing(name: str, placed: dict[str, PlacedStep]) -> PlacedStep | None:
    return placed.get(name) or placed.get(name.rpartition(" ")[0])


def _known_hold(host: Mesh, bit: Mesh, memory: Memory) -> dict[str, float] | None:
    """Measured once for every two meshes; None where they do not meet, nothing where they cannot be joined."""
    return measured_once(memory, measured_key("hold", host.hash, bit.hash), lambda: _hold_of(host, bit))


def _hold_of(host: Mesh, bit: Mesh) -> dict[str, float] | None:
    try:
        hold, sealed = measure_hold(host, bit)
    except TooFarApart:
        return None
    except CannotJoin:
        return {}
    x, y, z = hold.middle
    sizes = {"overlap": hold.overlap, "neck": hold.neck, "neck_width": hold.neck_width, "sealed": sealed}
    return {**sizes, "x": x, "y": y, "z": z}


def _judged(held: _Held, factor: float, setup: Setup) -> list[Finding]:
    found = []
    width = max(held.neck_width * factor + 2 * _ROUND * held.blend, held.made)
    if 0 < width < setup.walls.pin.caution:
        found.append(_thin(held, width, factor, setup))
    overlap = held.overlap * factor
    if overlap < _SHALLOW:
        found.append(_shallow(held, overlap, factor))
    if held.sealed > 0 and not held.filled:
        found.append(_seals(held, factor))
    return found


def _finding(severity: Severity, held: _Held, title: str, why: str, measured: float, limit: float, unit: str,
             remedies: Sequence[Remedy], extent: float | None = None, *, code: str) -> Finding:  # fmt: skip
    x, y, z = map(FigureMM, held.middle)
    return Finding(
        code=code, station=Station.BRING_IN, severity=severity,
        part=held.host if held.joined is not None else held.bit,
        title=title, measured=measured, limit=limit, unit=unit,
        where=Place(point=(x, y, z), extent=None if extent is None else PrintMM(extent)), why=why,
        remedies=tuple(remedies),
    )  # fmt: skip


def _thin(held: _Held, width: float, factor: float, setup: Setup) -> Finding:
    material = setup.material
    stops = width < setup.walls.pin.stop
    radius = round(float((setup.walls.pin.caution - held.neck_width * factor) / (2 * _ROUND)) + 0.05, 1)
    thick = round(float(setup.walls.pin.caution) + 0.05, 1)
    rounded = "thickens the neck, not a bit that is thin beyond it (estimate)"
    ball = "a ball in the neck, which shows where it is wider than both"
    remedies = [
        *_joining(f"Join it with a round of {radius:.1f} mm", Cost(says=rounded), held, blend=radius),
        *_joining(f"Thicken the neck to {thick:.1f} mm", Cost(says=ball), held, neck=thick),
    ]
    return _finding(
        Severity.STOP if stops else Severity.CAUTION,
        held,
        f"{held.bit} hangs by {width:.2f} mm",
        f"Where {held.bit} meets {held.host} the neck is {width:.2f} mm thick and {held.neck * factor**2:.2f} mm² at "
        f"print size, and {material.name.lower()} wants {setup.walls.pin.caution:.2f} mm. It breaks there first.",
        width,
        float(setup.walls.pin.stop if stops else setup.walls.pin.caution),
        "mm",
        remedies,
        width,
        code="neck-thin",
    )


def _joining(label: str, cost: Cost, held: _Held, **values: float | bool) -> list[Remedy]:
    """The joining of a bit with these fields: set where it is joined, else added; none where it cannot be so."""
    fields: dict[str, Any] = {"host": held.host, "bit": held.bit, **values}
    ways = remedy_adding(label, cost, JoinParts, **fields)
    if not ways or held.joined is None:
        return ways
    change = SetStep(kind="join-parts", step=held.joined.id, values={"overlapping": False, **values})
    return [Remedy(label=label, change=change, cost=cost)]


def _shallow(held: _Held, overlap: float, factor: float) -> Finding:
    missing = float(_SHALLOW) - overlap + 0.05
    remedies = []
    step = held.placed
    if step is not None:
        if step.rests_on is not None:
            values: dict[str, float] = {"sunk": float(step.sunk) + missing / factor}
        else:
            values = {"z": float(step.z) - missing / factor}
        remedies.append(
            Remedy(
                label=f"Sink it {missing:.2f} mm deeper",
                change=SetStep(kind=step.kind, step=step.id, values=dict(values)),
                cost=Cost(says="moves the bit; see it first"),
            )
        )
    return _finding(
        Severity.CAUTION,
        held,
        f"{held.bit} is only {spoken(overlap)} mm deep in {held.host}",
        f"They reach {overlap:.2f} mm into each other at print size, and less than {_SHALLOW:.1f} mm may part again "
        "when the mesh is rounded or the layers are drawn.",
        overlap,
        float(_SHALLOW),
        "mm",
        remedies,
        code="overlap-shallow",
    )


def _seals(held: _Held, factor: float) -> Finding:
    volume = held.sealed * factor**3
    return _finding(
        Severity.CAUTION,
        held,
        f"{held.bit} seals {volume:.1f} mm³ in",
        f"With {held.bit} on {held.host} a room of {volume:.1f} mm³ is shut on all sides. Resin stays in it uncured "
        "and may burst the wall later; uncured resin harms skin: keep it off, and follow its safety sheet.",
        volume,
        0.0,
        "mm³ sealed",
        _joining(
            f"Join them and fill the {volume:.1f} mm³",
            Cost(resin_ml=volume / 1000, says="solid there; no drain needed"),
            held,
            fill=True,
        ),
        code="seals-cavity",
    )


def _floats(part: Part, step: PlacedStep, others: Sequence[Part], factor: float) -> Finding:
    ours, theirs, gap = min(
        (nearest_between(part.mesh, other.mesh) for other in others if len(other.mesh.faces)), key=lambda one: one[2]
    )
    way = theirs - ours
    push = way * (1 + (float(_SHALLOW) + 0.1) / factor / max(gap, 1e-9)) if gap > 0 else way
    values = {axis: float(getattr(step, axis)) + float(push[k]) for k, axis in enumerate("xyz")}
    remedies = [
        Remedy(
            label=f"Move it {gap * factor:.2f} mm, into what is nearest",
            change=SetStep(kind=step.kind, step=step.id, values=dict(values)),
            cost=Cost(says="moves the bit; see it first"),
        )
    ]
    held = _Held(part.name, "", 0.0, 0.0, 0.0, 0.0, (float(ours[0]), float(ours[1]), float(ours[2])))
    return _finding(
        Severity.CAUTION,
        held,
        f"{part.name} touches nothing",
        f"The nearest of the figure is {gap * factor:.2f} mm away at print size. That is right for a part printed by "
        "itself, and wrong for one that should hold to another.",
        gap * factor,
        0.0,
        "mm from the nearest",
        remedies,
        code="floats-free",
    )
