"""Whether the unit of a source is certain, and whether its facets will show."""

import numpy as np

from ulvet.core.bench.edition import Edition
from ulvet.core.bench.setup import Setup
from ulvet.core.bring_in.facets import Bulge, bulge_of
from ulvet.core.bring_in.steps import BringIn, Refine
from ulvet.core.findings.finding import MOST_PLACES, Cost, Finding, Place, ReadSourceAs, Remedy, Severity, remedy_adding
from ulvet.core.findings.location import location_in_words
from ulvet.core.geometry.mesh import Mesh, bounds
from ulvet.core.geometry.topology import without_collapsed_faces
from ulvet.core.lengths import PrintMM, spoken
from ulvet.core.recipe.step import Part, plural
from ulvet.core.stations import Station
from ulvet.core.units import UNIT_NAMES, UNITS

__all__ = ["check_facets", "check_unit"]

_FINER = 0.4
"""Chord error that is offered, of the one that shows (bench default)."""


def check_unit(step: BringIn, mesh: Mesh, edition: Edition) -> list[Finding]:
    """``unit-doubtful`` when the unit was guessed; only a note once a height is set, which makes it irrelevant."""
    if not step.doubt:
        return []
    low, high = bounds(mesh)
    longest = float((high - low).max())
    remedies = []
    for unit in sorted(UNITS, key=lambda name: name != step.unit):
        length = longest * UNITS[unit] / UNITS[step.unit]
        keep = "Yes, " if unit == step.unit else "No, "
        remedies.append(
            Remedy(
                label=f"{keep}{UNIT_NAMES[unit]}",
                change=ReadSourceAs(unit=unit),
                cost=Cost(says=f"{spoken(length)} mm long"),
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
            where=Place(point=(float(middle[0]), float(middle[1]), float(high[2]))),
            why=f"The file does not say its unit. It is {step.doubt}. "
            "A wrong unit makes every wall, gap and price wrong.",
            remedies=tuple(remedies),
        )
    ]


def check_facets(part: Part, factor: float, setup: Setup, bulge: Bulge | None = None) -> list[Finding]:
    """``coarse-facets`` where curved surface bulges over its triangles by more than a layer or pixel of the printer,
    whichever is larger (bench default). A scan's triangles follow its points, and are not asked. ``bulge`` is that of
    the part without faces that repeat a vertex, where it was measured before.
    """
    if part.captured is not None:
        return []
    limit = PrintMM(max(setup.layer, setup.pixel))
    mesh = without_collapsed_faces(part.mesh)
    bulge = bulge or bulge_of(mesh)
    coarse = np.flatnonzero(bulge.errors * factor > limit)
    if not len(coarse):
        return []
    worst = coarse[np.argsort(-bulge.errors[coarse], kind="stable")[:MOST_PLACES]]
    ends = mesh.vertices[bulge.edges.ends[worst]]
    lengths = np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1) * factor
    wheres = tuple(
        Place(point=(float(x), float(y), float(z)), extent=PrintMM(length))
        for (x, y, z), length in zip(bulge.middles[worst], lengths, strict=True)
    )
    most = PrintMM(bulge.errors[worst[0]] * factor)
    chord = PrintMM(round(max(_FINER * limit, 0.005), 3))
    return [
        Finding(
            code="coarse-facets",
            station=Station.BRING_IN,
            severity=Severity.CAUTION,
            part=part.name,
            title=f"Facets {spoken(most)} mm deep will show, "
            f"{location_in_words(bulge.middles[worst[0]], *bounds(mesh))}",
            measured=most,
            limit=limit,
            unit="mm",
            count=len(coarse),
            where=wheres[0],
            places=wheres,
            why=f"The surface is curved, and over {plural(len(coarse), 'edge')} its flat triangles cut up to "
            f"{spoken(most)} mm off the curve at this size; {setup.printer.name} shows from {spoken(limit)} mm. "
            "What is meant to be faceted can stay.",
            remedies=tuple(
                remedy_adding(
                    f"Refine it to {chord:.3f} mm, folds kept sharp",
                    Cost(says="more triangles, corners stay where they are"),
                    Refine,
                    chord=chord,
                )
            ),
        )
    ]
