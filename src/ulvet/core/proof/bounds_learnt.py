"""What proofs tell as at least or at most: the pull that a plate holds, and the strength of limbs."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from ulvet.core.bench.setup import Setup
from ulvet.core.proof.learnt import Learnt
from ulvet.core.proof.near import NEAR
from ulvet.core.proof.proof import Cause, LimbTold, Outcome, Pin, Proof, When

__all__ = ["bounds_learnt"]

_HANDLED = (When.SUPPORTS_OFF, When.SANDING, When.GLUING, When.MASKING, When.PAINTING, When.CARRIED, When.IN_USE)
"""When a limb that broke was pushed by hands, and not torn off while it was printed."""


@dataclass(frozen=True)
class _Bound:
    value: float
    proof: int


def bounds_learnt(setup: Setup, proofs: Sequence[tuple[int, Proof]]) -> tuple[Learnt, ...]:
    """What proofs of one setting, with their numbers, tell as at least or at most."""
    stayed = [_Bound(peak, number) for number, proof in proofs if (peak := proof.told.peak_N) and proof.held]
    let_go = [
        _Bound(peak, number)
        for number, proof in proofs
        if (peak := proof.told.peak_N) and any(pin.cause is Cause.DID_NOT_STICK for pin in proof.came.pins)
    ]
    held, broke = list[_Bound](), list[_Bound]()
    for number, proof in proofs:
        for limb, broken in _limbs(proof):
            # It breaks at force_N if the material is as strong as the bench has it, and the push was as its use asks.
            bound = _Bound(limb.push_N / limb.force_N, number)
            (broke if broken else held).append(bound)
    return tuple(
        Learnt(
            thing=setup.setting.id, path="", title=title, unit=unit, value=edge.value, low=None, high=None, kind=kind,
            count=len(told), proofs=(edge.proof,), now=None, says=says,
        )
        for title, unit, says, at_least, at_most in (
            ("pull that the plate holds", "N", "", stayed, let_go),
            ("strength of limbs, of what the material's is", "times", "pushed as its use asks", held, broke),
        )
        for kind, told, pick in (("at least", at_least, max), ("at most", at_most, min))
        if told
        for edge in [pick(told, key=lambda one: one.value)]
    )  # fmt: skip


def _limbs(proof: Proof) -> Iterator[tuple[LimbTold, bool]]:
    """Limbs of a proof that hands have pushed, and whether each broke. What was never pushed tells nothing."""
    broken = [pin for pin in proof.came.pins if pin.cause in (Cause.THIN_PART, Cause.HANDS) and pin.when in _HANDLED]
    sound = {
        part
        for part in range(len(proof.parts))
        if (mine := [copy.outcome for copy in proof.came.copies if copy.part == part])
        and all(outcome in (Outcome.SOUND, Outcome.USABLE) for outcome in mine)
    }
    for limb in proof.told.limbs:
        if any(pin.part == limb.part and _is_at(pin, limb, proof) for pin in broken):
            yield limb, True
        elif limb.part in sound:
            yield limb, False


def _is_at(pin: Pin, limb: LimbTold, proof: Proof) -> bool:
    printed = proof.parts[limb.part]
    near = NEAR * max(printed.size_mm) / printed.form.factor
    return float(np.linalg.norm(np.subtract(pin.at.point, limb.point))) <= near
