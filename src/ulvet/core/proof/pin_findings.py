"""What went wrong in proofs as findings, with what can be decided about it."""

from collections.abc import Container, Mapping, Sequence

import numpy as np

from ulvet.core.bench.setup import Setup
from ulvet.core.findings.finding import Because, Cost, DecidePin, Finding, Place, Remedy, Severity
from ulvet.core.findings.location import location_in_words
from ulvet.core.geometry.mesh import Points
from ulvet.core.lengths import PrintMM
from ulvet.core.proof.foretold import FORETELLS, foretold_by
from ulvet.core.proof.near import NEAR
from ulvet.core.proof.proof import Cause, Decision, Pin, PrintedPart, Proof
from ulvet.core.proof.remedies_by_cause import PartNow, remedies_by_cause
from ulvet.core.proof.words import CAUSES, DECISIONS, WHENS
from ulvet.core.stations import Station

__all__ = ["pin_findings"]

_DRAWN = 0.03
"""Share of a part's longest side that a pin's place is drawn as (bench default)."""
_REPAIR_MIN = 25.0
"""Minutes of hands to glue, fill and sand a break (bench default)."""


def pin_findings(
    proofs: Sequence[tuple[int, Proof]],
    parts: Mapping[str, PartNow],
    open_findings: Sequence[Finding],
    spacing: float | None,
    revisions: Container[int] = (),
) -> list[Finding]:
    """Findings of pins that nothing was decided about, the latest proof first.

    ``proofs`` are those of one figure in one edition with their numbers, the oldest first; ``parts`` are the parts as
    they are now by name, ``open_findings`` what is found in them, of which remedies are taken, and ``spacing`` that of
    the supports, mm, where they are held. ``revisions`` are numbers of those that the figure's head came from: a change
    that was undone since decides nothing.
    """
    found: list[Finding] = []
    for number, proof in reversed(proofs):
        for pin in proof.came.pins:
            printed = proof.parts[pin.part]
            if _is_open(pin, revisions) and printed.part in parts:
                now = parts[printed.part]
                found.append(_finding(number, proof, pin, now, open_findings, spacing, _before(number, pin, proofs)))
    return found


def _is_open(pin: Pin, revisions: Container[int]) -> bool:
    if pin.decision is Decision.REDESIGN and pin.redesigned_in is not None:
        return pin.redesigned_in not in revisions
    return pin.decision is None


def _finding(
    number: int, proof: Proof, pin: Pin, now: PartNow, open_findings: Sequence[Finding], spacing: float | None,
    before: Sequence[int],
) -> Finding:  # fmt: skip
    printed = proof.parts[pin.part]
    point = np.array(pin.at.point)
    at = location_in_words(point, now.low, now.high)
    along = next((place.along for named in foretold_by(pin, proof) for place in named.places if place.along), None)
    extent = PrintMM(max(printed.size_mm) * _DRAWN)
    where = Place(point=_vector(point), normal=pin.at.normal, along=along, extent=extent)
    because = Because(proof=number, pin=pin.id)
    changes = remedies_by_cause(pin.cause, pin.at, printed.part, max(printed.size_mm), now, open_findings, spacing)
    remedies = [one.model_copy(update={"because": because}) for one in changes]
    return Finding(
        code="proof-failed",
        station=Station.PROOF,
        severity=Severity.STOP if proof.failed else Severity.CAUTION,
        part=printed.part,
        title=f"{pin.what or printed.called} {CAUSES[pin.cause]} {WHENS[pin.when]}",
        at="" if pin.what else at,
        measured=1.0,
        limit=0.0,
        unit="",
        where=where,
        places=(where,),
        why=_why(number, pin, proof, before),
        remedies=(*remedies, *_decisions(because, printed, pin, now.setup)),
    )


def _why(number: int, pin: Pin, proof: Proof, before: Sequence[int]) -> str:
    named = foretold_by(pin, proof)
    says = f"Proof {number}, {proof.setting_name}: it {CAUSES[pin.cause]} {WHENS[pin.when]}. "
    if named:
        says += f"Foretold: “{named[0].title}” was found before the print."
    elif pin.cause in FORETELLS:
        says += "Not foretold: nothing that was found before the print named it."
    else:
        says += "No check foretells this."
    if before:
        where = f"proof {before[-1]}" if len(before) == 1 else f"{len(before)} proofs"
        says += f" The same place failed in {where} before."
        if pin.cause is Cause.UNKNOWN:
            says += " Twice at one place has a reason: look at both pieces, and say what it was."
    return says


def _decisions(because: Because, printed: PrintedPart, pin: Pin, setup: Setup) -> list[Remedy]:
    def deciding(decision: Decision, cost: Cost) -> Remedy:
        change = DecidePin(proof=because.proof, pin=because.pin, decision=decision.value)
        return Remedy(label=DECISIONS[decision], change=change, cost=cost)

    minutes = pin.minutes or _REPAIR_MIN
    normal = pin.at.normal
    seen = "not known whether it shows" if normal is None else "seen from the front" if normal[1] < 0 else "at the back"
    money = printed.ml * setup.material.price_per_litre / 1000
    again = Cost(resin_ml=printed.ml, print_seconds=printed.seconds, money=money, says="nothing of it is seen")
    return [
        deciding(Decision.REPRINT, again),
        deciding(Decision.REPAIR, Cost(says=f"about {minutes:.0f} min of hands, {seen}")),
        deciding(Decision.LEAVE, Cost(says="buyers are told")),
    ]


def _before(number: int, pin: Pin, proofs: Sequence[tuple[int, Proof]]) -> list[int]:
    """Proofs before this one in which the same place failed."""
    found = []
    for other, proof in proofs:
        if other >= number:
            continue
        for one in proof.came.pins:
            printed = proof.parts[one.part]
            near = NEAR * max(printed.size_mm) / printed.form.factor
            if np.linalg.norm(np.subtract(one.at.point, pin.at.point)) <= near:
                found.append(other)
                break
    return found


def _vector(point: Points) -> tuple[float, float, float]:
    return float(point[0]), float(point[1]), float(point[2])
