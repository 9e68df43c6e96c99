"""Measures of the whole figure: what breaks first, how it stands, and which detail is lost."""

from collections.abc import Sequence
from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict

from ulvet.core.findings.finding import Finding, Severity
from ulvet.core.findings.location import location_in_words
from ulvet.core.gauge.balance.balance import STEEL, Balance, tip_angle_on_base, tip_angle_on_feet, tip_angles
from ulvet.core.gauge.balance.check_balance import BASE_THICK, direction_in_words
from ulvet.core.gauge.detail.detail import Detail
from ulvet.core.gauge.limbs.handling import WeakLimb
from ulvet.core.gauge.record_steps import Accept
from ulvet.core.gauge.walls.place_names import ThinPlaceRow
from ulvet.core.gauge.walls.shares import WallShares
from ulvet.core.geometry.mesh import bounds
from ulvet.core.recipe.receipt import Insert
from ulvet.core.recipe.stance import Vector
from ulvet.core.recipe.step import Part, Step

__all__ = [
    "FigureMeasures",
    "LimbRow",
    "StabilityOption",
    "TipAngle",
    "figure_measures_of",
    "ranked_with",
    "with_acceptances",
]

_LIMBS_LISTED = 8
"""Limbs that the page lists, the weakest first."""
_PLACES_LISTED = 500
"""Thin places that the page lists."""
_BASES, _FEET = (20.0, 25.0, 30.0, 40.0, 50.0), (1.0, 2.0, 5.0)
"""Diameters (mm) of bases, and lengths (mm) by which feet reach farther out, that are compared."""


class LimbRow(BaseModel):
    """A limb and the push at its tip that breaks it, print mm and newtons; an estimate."""

    model_config = ConfigDict(frozen=True)

    part: str
    name: str
    force_N: float  # noqa: N815  (newtons are written so)
    lever_mm: float
    section_mm: float
    slips: bool
    """Whether it gives way to a finger before it breaks."""
    drop: bool
    """Whether a fall from a table would likely break it, a rough guess."""
    point: Vector
    """Where it breaks, figure mm."""
    joint: bool = False
    """Whether it is a joint of two parts, which opens."""


class TipAngle(BaseModel):
    """How far a figure may be tipped one way before it falls, degrees; below zero it falls that way by itself."""

    model_config = ConfigDict(frozen=True)

    way: str
    angle_deg: float


class StabilityOption(BaseModel):
    """Something that changes how surely a figure stands, and how far it may then be tipped, degrees."""

    model_config = ConfigDict(frozen=True)

    how: Literal["base", "heavy base", "longer feet"]
    size_mm: float
    """How wide the base is, or how much farther out the feet reach."""
    tip_angle_deg: float


class FigureMeasures(BaseModel):
    """The measures of a figure that are no findings; None where they could not be told."""

    model_config = ConfigDict(frozen=True)

    limbs: tuple[LimbRow, ...]
    """The weakest first, at most eight."""
    mass_g: float | None
    """Printed solid but for what is hollow, with what is set into it."""
    inserts_g: float
    """Of that, what is set into it."""
    tip_angle_deg: float | None
    centre_mm: float | None
    """Height of the middle of mass above the table, print mm."""
    detail_lost: float | None
    """Share of the surface whose detail will not show."""
    detail_factor: float
    """How many times larger nine tenths of that would show."""
    places: tuple[ThinPlaceRow, ...] = ()
    """Thin places, the thinnest first, at most five hundred."""
    walls: WallShares | None = None
    tips: tuple[TipAngle, ...] = ()
    """How far it may be tipped eight ways."""
    surer: tuple[StabilityOption, ...] = ()
    """What would make it stand more surely."""


def figure_measures_of(
    parts: Sequence[tuple[Part, Sequence[WeakLimb] | None, Detail | None, Sequence[ThinPlaceRow]]],
    balance: Balance | None,
    inserts: Sequence[Insert],
    walls: WallShares | None,
    factor: float,
    density: float,
) -> FigureMeasures:
    """The measures of a figure, told together: of each part its limbs, its detail and its thin places; how all of them
    stand, with what is set into them, of a material of ``density`` g/cm³."""
    limbs = [_limb_row(part, limb, factor) for part, weak, _, _ in parts for limb in weak or ()]
    limbs.sort(key=lambda limb: limb.force_N)
    details = [detail for _, _, detail, _ in parts if detail is not None]
    places = sorted((place for *_, said in parts for place in said), key=lambda place: place.least_mm)
    return FigureMeasures(
        limbs=tuple(limbs[:_LIMBS_LISTED]),
        mass_g=balance.mass if balance else None,
        inserts_g=sum(insert.grams for insert in inserts),
        tip_angle_deg=balance.tip_angle if balance else None,
        centre_mm=balance.height if balance else None,
        detail_lost=max((detail.lost for detail in details), default=None),
        detail_factor=max((detail.size for detail in details), default=1.0),
        places=tuple(places[:_PLACES_LISTED]),
        walls=walls,
        tips=_tips(balance) if balance else (),
        surer=_surer(balance, density) if balance else (),
    )


def ranked_with(measures: FigureMeasures, others: Sequence[LimbRow]) -> FigureMeasures:
    """The measures with other things that break among the limbs, the weakest first."""
    ranked = sorted((*measures.limbs, *others), key=lambda row: row.force_N)
    return measures.model_copy(update={"limbs": tuple(ranked[:_LIMBS_LISTED])})


def _tips(balance: Balance) -> tuple[TipAngle, ...]:
    angles = tip_angles(balance.support, balance.centre, balance.height)
    eighths = np.arange(8) * len(angles) // 8
    ways = np.deg2rad(eighths * 360 / len(angles))
    return tuple(
        TipAngle(way=direction_in_words(np.array([np.cos(way), np.sin(way)])), angle_deg=float(angles[k]))
        for way, k in zip(ways, eighths, strict=True)
    )


def _surer(balance: Balance, density: float) -> tuple[StabilityOption, ...]:
    """Round bases of 3 mm in the same material or in steel, and feet that reach farther out."""
    ways: list[tuple[Literal["base", "heavy base", "longer feet"], float, float]] = [
        *[("base", wide, tip_angle_on_base(balance, wide, BASE_THICK, density)) for wide in _BASES],
        *[("heavy base", wide, tip_angle_on_base(balance, wide, BASE_THICK, STEEL)) for wide in _BASES],
        *[("longer feet", longer, tip_angle_on_feet(balance, longer)) for longer in _FEET],
    ]
    return tuple(StabilityOption(how=how, size_mm=size, tip_angle_deg=angle) for how, size, angle in ways)


def with_acceptances(findings: Sequence[Finding], steps: Sequence[Step]) -> list[Finding]:
    """Findings, those that the record accepts as notes with the reason."""
    reasons = [step for step in steps if isinstance(step, Accept) and step.on]
    return [_as_accepted(finding, reasons) for finding in findings]


def _as_accepted(finding: Finding, reasons: Sequence[Accept]) -> Finding:
    for step in reasons:
        if step.finding != finding.code or step.scope not in (None, finding.part):
            continue
        there = finding.where.point if finding.where else None
        if step.place is None or (
            there is not None and float(np.linalg.norm(np.subtract(there, step.place))) <= step.within
        ):
            why = f"Accepted: {step.reason.rstrip('.')}. {finding.why}"
            return finding.model_copy(update={"severity": Severity.NOTE, "why": why, "accepted": True})
    return finding


def _limb_row(part: Part, limb: WeakLimb, factor: float) -> LimbRow:
    low, high = bounds(part.mesh)
    x, y, z = map(float, limb.point / factor)
    return LimbRow(
        part=part.name,
        name=location_in_words(limb.tip / factor, low, high),
        force_N=limb.force,
        lever_mm=limb.lever,
        section_mm=limb.section,
        slips=limb.slips,
        drop=limb.drop >= 1,
        point=(x, y, z),
    )
