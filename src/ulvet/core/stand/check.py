"""What is left to decide about how a part stands."""

import numpy as np

from ulvet.core.bench.setup import Setup
from ulvet.core.findings.finding import MOST_PLACES, Cost, Finding, Place, Remedy, SetStep, Severity
from ulvet.core.lengths import PrintMM, spoken
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.stance import Contact
from ulvet.core.recipe.step import Part, plural
from ulvet.core.stand.by_hand import HandAct
from ulvet.core.stand.contacts import load_borne
from ulvet.core.stand.reach import CUTTERS
from ulvet.core.stand.steps import MOST_ACTS, Support
from ulvet.core.stations import Station

__all__ = ["check_stand"]

_CLOSER = 0.6
"""Spacing that is offered, of the process's (bench default)."""
_OVER = 1.001
"""Times what a tip bears from which on it is told to tear: loads and tips are rounded."""
_LEAST_SPACING = 1.0
"""Spacing (mm) of contacts at least: closer ones grow together (bench default)."""


def check_stand(part: Part, factor: float, setup: Setup, held: Support | None = None) -> list[Finding]:
    """``supports-show``, ``struts-on-figure``, ``support-trapped`` and ``weak-hold`` for a part that is held, by the
    step ``held`` where that is known."""
    holding = setup.supports
    contacts = part.stance.contacts
    shown = [contact for contact in contacts if contact.shows]
    struts = [contact for contact in contacts if contact.on_figure]
    torn = sorted(
        (c for c in contacts if c.load_N > load_borne(c.tip_mm, holding) * _OVER),
        key=lambda c: load_borne(c.tip_mm, holding) - c.load_N,
    )
    findings = []
    if shown:
        findings.append(
            _finding(
                part, factor, shown, code="supports-show", severity=Severity.CAUTION,
                title=f"{plural(len(shown), 'contact')} on the side that shows",
                measured=len(shown), limit=0, unit="contacts",
                why="Islands begin there, and an island without a hold is lost. Each leaves a mark to sand; "
                "leaning the figure another way may move them out of sight.",
            )
        )  # fmt: skip
    if struts:
        findings.append(
            _finding(
                part, factor, struts, code="struts-on-figure", severity=Severity.NOTE,
                title=f"{plural(len(struts), 'support')} standing on the figure",
                measured=len(struts), limit=0, unit="supports",
                why="No way leads from there down to the plate, so each stands on the figure below and marks it at "
                "both ends. Make sure that cutters reach in before you print.",
            )
        )  # fmt: skip
    trapped = [contact for contact in contacts if not contact.reachable]
    if trapped:
        findings.append(
            _finding(
                part, factor, trapped, code="support-trapped", severity=Severity.CAUTION,
                title=f"{plural(len(trapped), 'support')} that no cutters reach",
                measured=len(trapped), limit=0, unit="supports",
                why=f"No straight line leads to its tip for cutters {CUTTERS.width:.0f} mm wide and "
                f"{CUTTERS.length:.0f} mm long, so it stays in or is torn out. Forbid supports there, lean the figure "
                "another way, or part it so that it opens.",
                remedies=(
                    *_taken_away(part, factor, trapped, held),
                    Remedy(
                        label="Seek the best way to stand anew",
                        change=SetStep(kind="orient", values={"up": None, "taken": []}),
                        cost=Cost(says="supports are made anew; scars move"),
                    ),
                ),
            )
        )  # fmt: skip
    if torn:
        worst = torn[0]
        bears = load_borne(worst.tip_mm, holding)
        closer = PrintMM(max(holding.spacing * _CLOSER, _LEAST_SPACING))
        findings.append(
            _finding(
                part, factor, torn, code="weak-hold", severity=Severity.CAUTION,
                title=f"{plural(len(torn), 'contact')} may tear off",
                measured=worst.load_N, limit=bears, unit="N",
                why=f"The layers above pull with an estimated {worst.load_N:.2g} N at most, and a tip of "
                f"{spoken(worst.tip_mm)} mm bears {bears:.2g} N. (Layer area times {holding.pull * 1000:.0f} kPa, "
                "shared by the contacts below it.)",
                remedies=(
                    Remedy(
                        label=f"Set contacts {spoken(closer)} mm apart",
                        change=SetStep(kind="support", values={"spacing": closer}),
                        cost=Cost(says="more marks to clean"),
                    ),
                ),
            )
        )  # fmt: skip
    return findings


def _taken_away(part: Part, factor: float, trapped: list[Contact], held: Support | None) -> list[Remedy]:
    """Contacts taken away by hand; what they held is told where it is left without a hold."""
    if held is None:
        return []
    points = part.stance.in_figure(np.array([contact.point for contact in trapped]), part.mesh, factor)
    places = [*held.places, *(Anchor.at(point, None, part.source) for point in points)]
    first = len(held.places)
    acts = [*held.acts, *(HandAct(does="take", place=first + k) for k in range(len(trapped)))]
    if len(acts) > MOST_ACTS:
        return []
    values = {
        "places": [place.model_dump(mode="json") for place in places],
        "acts": [act.model_dump(mode="json") for act in acts],
    }
    return [
        Remedy(
            label=f"Take {'it' if len(trapped) == 1 else 'them'} away",
            change=SetStep(kind="support", step=held.id, values=values),
            cost=Cost(says="an island they held is told"),
        )
    ]


def _finding(
    part: Part, factor: float, contacts: list[Contact], *, code: str, severity: Severity,
    title: str, measured: float, limit: float, unit: str, why: str, remedies: tuple[Remedy, ...] = (),
) -> Finding:  # fmt: skip
    points = part.stance.in_figure(np.array([contact.point for contact in contacts]), part.mesh, factor)
    x, y, z = (-part.stance.turn[2]).tolist()
    places = tuple(
        Place(point=(float(a), float(b), float(c)), normal=(x, y, z), extent=contact.tip_mm)
        for (a, b, c), contact in zip(points[:MOST_PLACES], contacts, strict=False)
    )
    return Finding(
        code=code, station=Station.STAND, severity=severity, part=part.name, title=title, measured=float(measured),
        limit=float(limit), unit=unit, count=len(contacts), where=places[0], places=places, why=why, remedies=remedies,
    )  # fmt: skip
