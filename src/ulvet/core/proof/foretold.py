"""Which findings had named what went wrong, and how often each check is right."""

from collections.abc import Iterable
from dataclasses import dataclass

from ulvet.core.proof.near import NEAR, is_near
from ulvet.core.proof.proof import Cause, Named, Pin, Proof

__all__ = ["FORETELLS", "HitRate", "foretold_by", "hit_rates"]

FORETELLS: dict[Cause, tuple[str, ...]] = {
    Cause.DID_NOT_STICK: ("lets-go", "base-vanishes"),
    Cause.CAME_OFF_SUPPORTS: ("weak-hold", "cup", "area-jump", "peel-high", "island"),
    Cause.ISLAND: ("island",),
    Cause.SUCTION: ("cup",),
    Cause.THIN_PART: ("thin-wall", "snap-risk", "neck-thin", "line-too-thin", "pocket-thin"),
    Cause.LAYERS_PARTED: ("peel-high", "area-jump", "cup"),
    Cause.WARP: ("flat-gives", "lets-go"),
    Cause.SAG: ("roof-sags", "flat-gives", "island"),
    Cause.TRAPPED_RESIN: ("trapped-resin", "drains-badly", "sealed-void"),
    Cause.SUPPORT_MOVED: ("weak-hold", "lets-go"),
    Cause.JOINT_MISFIT: ("gap-under", "overlap", "cannot-insert", "ways-round", "gap-too-small"),
    Cause.HANDS: ("support-trapped", "snap-risk"),
}
"""Codes of findings that, where one is near, had named a cause. Of the others nothing is foretold."""


@dataclass(frozen=True)
class HitRate:
    """How often what a check said came true, and how often what it could have said came unsaid."""

    code: str
    told: int
    """Findings of it in proofs that were looked at afterwards."""
    came_true: int
    unsaid: int
    """Pins that it could have named, and did not."""


def foretold_by(pin: Pin, proof: Proof) -> tuple[Named, ...]:
    """The findings of a proof that had named what a pin says: of its part, of a kind that names its cause, and either
    near it or of the whole part."""
    return tuple(proof.named[k] for k in _foretelling(pin, proof))


def hit_rates(proofs: Iterable[Proof]) -> tuple[HitRate, ...]:
    """How right each check was over proofs that came out, by code."""
    told: dict[str, list[int]] = {}
    for proof in proofs:
        if not proof.came.copies:
            continue
        met = [_foretelling(pin, proof) for pin in proof.came.pins]
        true = {k for numbers in met for k in numbers}
        for k, named in enumerate(proof.named):
            if _names_anything(named.code):
                row = told.setdefault(named.code, [0, 0, 0])
                row[0] += 1
                row[1] += k in true
        for pin, numbers in zip(proof.came.pins, met, strict=True):
            if not numbers and (codes := FORETELLS.get(pin.cause)):
                told.setdefault(codes[0], [0, 0, 0])[2] += 1
    return tuple(HitRate(code, *row) for code, row in sorted(told.items()))


def _foretelling(pin: Pin, proof: Proof) -> list[int]:
    """Numbers of the findings that had named what a pin says."""
    part = proof.parts[pin.part]
    factor = part.form.factor
    near = NEAR * max(part.size_mm) / factor
    codes = FORETELLS.get(pin.cause, ())
    return [
        k
        for k, named in enumerate(proof.named)
        if named.code in codes and named.part == part.part and is_near(pin.at.point, named.places, near, factor)
    ]


def _names_anything(code: str) -> bool:
    return any(code in codes for codes in FORETELLS.values())
