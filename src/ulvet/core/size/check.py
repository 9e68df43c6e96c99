"""Whether the figure fits the build volume as it stands."""

import numpy as np

from ulvet.core.bench import PRINTERS, Edition, Printer, Setup, setup_for
from ulvet.core.findings import Cost, Finding, Remedy, SetEdition, Severity, Where
from ulvet.core.lengths import PrintMM, spoken
from ulvet.core.mesh import Points, bounds
from ulvet.core.recipe.step import Part
from ulvet.core.stations import Station

__all__ = ["check_fit", "largest_height"]


def largest_height(size: Points, printer: Printer) -> PrintMM:
    """Greatest height at which a figure of these proportions, ``size`` (3,), fits standing, turned if need be.

    Rounded down to a tenth of a millimetre.
    """
    return PrintMM(np.floor(size[2] * _room(size, printer) * 10) / 10)


def check_fit(part: Part, factor: float, setup: Setup, edition: Edition) -> list[Finding]:
    """``too-large-for-printer`` when a part, standing as it does, does not fit the build volume."""
    low, high = bounds(part.mesh)
    size = (high - low) * factor
    room = _room(size, setup.printer)
    if room >= 1:
        return []
    volume = np.array(setup.printer.volume)
    turned = volume[[1, 0, 2]]
    volume = max(volume, turned, key=lambda v: float((v / np.maximum(size, 1e-9)).min()))
    tight = int((volume / np.maximum(size, 1e-9)).argmin())
    side = ("wide", "deep", "tall")[tight]
    fits = largest_height(size, setup.printer)
    remedies = []
    if fits > 0:
        smaller = edition.model_copy(update={"height": fits, "factor": None})
        remedies.append(
            Remedy(
                label=f"Print it {spoken(fits)} mm tall, the most that fits",
                change=SetEdition(edition=smaller),
                cost=Cost(says="walls and detail shrink with it"),
            )
        )
    for printer in PRINTERS:
        if printer.id != setup.printer.id and _room(size, printer) >= 1:
            material = setup_for(
                printer.id, edition.material if printer.process == setup.printer.process else None
            ).material
            moved = edition.model_copy(update={"printer": printer.id, "material": material.id})
            remedies.append(
                Remedy(
                    label=f"Print it on {printer.name}",
                    change=SetEdition(edition=moved),
                    cost=Cost(says=f"in {material.name.lower()}"),
                )
            )
    return [
        Finding(
            code="too-large-for-printer",
            station=Station.SIZE,
            severity=Severity.STOP,
            part=part.name,
            title=f"Too {side} for {setup.printer.name}",
            measured=float(size[tight]),
            limit=float(volume[tight]),
            unit="mm",
            where=Where(point=(float((low[0] + high[0]) / 2), float((low[1] + high[1]) / 2), float(high[2]))),
            why=f"Standing, the figure is {spoken(size[0])} x {spoken(size[1])} x {spoken(size[2])} mm, and "
            f"{setup.printer.name} builds {' x '.join(spoken(side) for side in setup.printer.volume)} mm. "
            "Laying it down or parting it is not surveyed yet.",
            remedies=tuple(remedies),
        )
    ]


def _room(size: Points, printer: Printer) -> float:
    """Factor by which a standing figure of ``size`` (3,) mm could still grow, in the better of two quarter turns."""
    width, depth, height = printer.volume
    size = np.maximum(size, 1e-9)
    upright = np.array([width, depth, height]) / size
    turned = np.array([depth, width, height]) / size
    return float(max(upright.min(), turned.min()))
