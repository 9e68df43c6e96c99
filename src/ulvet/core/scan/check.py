"""What a scan still wants before it is an object of certain size."""

from collections.abc import Sequence

from ulvet.core.findings.finding import AddSteps, Cost, Finding, Place, Remedy, Severity, remedy_adding
from ulvet.core.geometry.mesh import bounds
from ulvet.core.lengths import FigureMM, PrintMM, spoken
from ulvet.core.recipe.receipt import Receipt
from ulvet.core.recipe.step import Part, Step, plural
from ulvet.core.scan.cleanup_steps import DropSpecks
from ulvet.core.scan.receipts import FuseReceipt, SetLengthsReceipt
from ulvet.core.scan.steps import FusePasses, SetLengths, TakeOffMount
from ulvet.core.scan.trimming import find_stem, without_specks
from ulvet.core.stations import Station

__all__ = ["LENGTHS_AGREE", "check_scan"]

LENGTHS_AGREE = 0.01
"""Lengths that disagree by more are not of one object, or one was read wrongly (bench default)."""
_PARTED = 3.0
"""Passes that agree worse than so many times the device's noise did not come together (bench default)."""


def check_scan(
    steps: Sequence[Step], receipts: Sequence[Receipt], parts: Sequence[Part], factor: float
) -> list[Finding]:
    """What a recipe that fuses passes leaves to do: ``mount-attached``, ``specks`` and ``passes-parted``; and
    ``lengths-disagree`` for any recipe. Nothing else is told of figures that were not scanned."""
    found: list[Finding] = []
    for step, receipt in zip(steps, receipts, strict=True):
        if not (isinstance(step, SetLengths) and isinstance(receipt, SetLengthsReceipt)):
            continue
        if receipt.disagreement > LENGTHS_AGREE:
            found.append(_disagree(step, receipt, parts))
    fused = next((k for k, s in enumerate(steps) if isinstance(s, FusePasses) and s.on), None)
    fuse = None if fused is None else receipts[fused]
    if not isinstance(fuse, FuseReceipt) or fuse.idle or not parts:
        return found
    if fuse.residual_mm > _PARTED * max(fuse.noise_mm, 0.01):
        found.append(_parted(fuse, parts[0]))
    off = any(isinstance(step, TakeOffMount) and step.on for step in steps)
    for part in parts:
        stem = None if off else find_stem(part.mesh)
        if stem:
            found.append(_mount(part, stem.top, stem.across, factor))
        _, specks = without_specks(part.mesh)
        if specks:
            found.append(_specks(part, specks))
    return found


def _mount(part: Part, top: FigureMM, across: FigureMM, factor: float) -> Finding:
    low = bounds(part.mesh)[0]
    middle = bounds(part.mesh).mean(axis=0)
    return Finding(
        code="mount-attached",
        station=Station.BRING_IN,
        severity=Severity.CAUTION,
        part=part.name,
        title=f"Its mount is still on, a stem {spoken(across)} mm across",
        measured=float(across),
        limit=0.0,
        unit="mm",
        where=Place(point=(float(middle[0]), float(middle[1]), float(low[2] + top)), extent=PrintMM(across * factor)),
        why=f"A slender stem holds something wider up to {spoken(top)} mm over the ground, as the stick of a turntable "
        "does. It would count into height, price and balance; where it was, the surface is closed afterwards.",
        remedies=tuple(
            remedy_adding(
                f"Take it off {spoken(top)} mm above the ground",
                Cost(says="leaves a hole where it was"),
                TakeOffMount,
                height=FigureMM(round(float(top), 2)),
            )
        ),
    )


def _specks(part: Part, specks: int) -> Finding:
    high = bounds(part.mesh)
    middle = high.mean(axis=0)
    return Finding(
        code="specks",
        station=Station.BRING_IN,
        severity=Severity.CAUTION,
        part=part.name,
        title=plural(specks, "loose speck"),
        measured=float(specks),
        limit=0.0,
        unit="specks",
        count=specks,
        where=Place(point=(float(middle[0]), float(middle[1]), float(high[1, 2]))),
        why="Bits of surface that hang together with nothing, most often strays of the scanner. "
        "Each would be an island.",
        remedies=(Remedy(label="Drop them", change=AddSteps(steps=(DropSpecks(),))),),
    )


def _parted(fuse: FuseReceipt, part: Part) -> Finding:
    low, high = bounds(part.mesh)
    middle = (low + high) / 2
    limit = _PARTED * max(fuse.noise_mm, 0.01)
    return Finding(
        code="passes-parted",
        station=Station.BRING_IN,
        severity=Severity.CAUTION,
        part=part.name,
        title=f"The passes agree only to {fuse.residual_mm:.2f} mm",
        measured=fuse.residual_mm,
        limit=limit,
        unit="mm",
        where=Place(point=(float(middle[0]), float(middle[1]), float(high[2]))),
        why=f"The device errs by {fuse.noise_mm:.2f} mm, so the passes of a thing that held still agree better. "
        "It moved on the turntable, bent, or has too little shape to tell its turn: scan it again, held fast.",
    )


def _disagree(step: SetLengths, receipt: SetLengthsReceipt, parts: Sequence[Part]) -> Finding:
    worst = receipt.disagreement
    x, y, z = map(float, step.lengths[0].a.point)
    names = ", ".join(f"{one.name} {spoken(one.real)} mm" for one in step.lengths)
    return Finding(
        code="lengths-disagree",
        station=Station.BRING_IN,
        severity=Severity.STOP,
        part=parts[0].name if parts else "figure",
        title=f"The caliper lengths disagree by {worst * 100:.1f} %",
        measured=worst * 100,
        limit=LENGTHS_AGREE * 100,
        unit="%",
        count=len(step.lengths),
        where=Place(point=(x, y, z)),
        why=f"No one size makes all of them right: {names}. One was misread, or an end was picked elsewhere than "
        "where the calipers sat. The size is set between them until that is settled.",
    )
