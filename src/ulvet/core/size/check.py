"""Whether the figure fits the build volume as it stands."""

import numpy as np

from ulvet.core.bench.bench import Bench
from ulvet.core.bench.edition import Edition
from ulvet.core.bench.printers import Printer
from ulvet.core.bench.setup import Setup
from ulvet.core.findings.finding import AddSteps, Cost, Finding, Place, Remedy, SetEdition, Severity
from ulvet.core.geometry.mesh import Mesh, Points, bounds, scaled
from ulvet.core.lengths import PrintMM, spoken
from ulvet.core.recipe.step import Part
from ulvet.core.size.build_volume import fits_standing, room_for
from ulvet.core.stand.orientation import fits_some_way
from ulvet.core.stand.steps import Orient, Support
from ulvet.core.stations import Station

__all__ = ["check_fit", "fits_printer", "largest_height"]

_UPRIGHT = 0.999
"""Cosine from which a part stands as it was drawn, 2.6°."""


def largest_height(size: Points, printer: Printer) -> PrintMM:
    """Greatest height at which a figure of these proportions, ``size`` (3,), fits standing, turned if need be.

    Rounded down to a tenth of a millimetre.
    """
    return PrintMM(np.floor(size[2] * room_for(size, np.array(printer.room)) * 10) / 10)


def fits_printer(mesh: Mesh, printer: Printer) -> bool:
    """Whether a mesh, in print mm as it stands, fits the build volume, in the better of two quarter turns."""
    low, high = bounds(mesh)
    return fits_standing(high - low, printer)


def check_fit(part: Part, factor: float, setup: Setup, edition: Edition, bench: Bench) -> list[Finding]:
    """``too-large-for-printer`` when a part, standing as it does with its supports, does not fit the build volume."""
    low, high = bounds(part.mesh)
    size = np.ptp(bounds(part.whole(factor)), axis=0)
    if fits_standing(size, setup.printer):
        return []
    stands = np.ptp(bounds(part.stance.in_print(part.mesh, factor)), axis=0)
    # Lift and supports do not grow with the figure.
    room = room_for(stands, np.array(setup.printer.room) - (size - stands))
    fits = PrintMM(np.floor((high[2] - low[2]) * factor * room * 10) / 10)
    volume = np.array(setup.printer.room)
    turned = volume[[1, 0, 2]]
    volume = max(volume, turned, key=lambda v: float((v / np.maximum(size, 1e-9)).min()))
    tight = int((volume / np.maximum(size, 1e-9)).argmin())
    side = ("wide", "deep", "tall")[tight]
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
    if part.stance.up[2] > _UPRIGHT and fits_some_way(scaled(part.mesh, factor), setup):
        remedies.insert(
            0,
            Remedy(
                label="Turn it so that it fits, and hold it",
                change=AddSteps(steps=(Orient(), Support())),
                cost=Cost(says="each contact leaves a mark to clean"),
            ),
        )
    remedies += [
        Remedy(
            label=f"Print it on {other.printer.name}",
            change=SetEdition(edition=edition.with_setting(part.name, other.setting.id)),
            cost=Cost(says=f"in {other.material.name.lower()}"),
        )
        for other in bench.setups_elsewhere(setup)
        if fits_standing(size, other.printer)
    ]
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
            where=Place(point=(float((low[0] + high[0]) / 2), float((low[1] + high[1]) / 2), float(high[2]))),
            why=f"As it stands, the figure is {spoken(size[0])} x {spoken(size[1])} x {spoken(size[2])} mm, and "
            f"{setup.printer.name} builds {' x '.join(spoken(side) for side in setup.printer.room)} mm. "
            "Parting it is not surveyed yet.",
            remedies=tuple(remedies),
        )
    ]
