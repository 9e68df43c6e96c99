"""Lengths by calipers from attempt to attempt: what the same one was before."""

from collections.abc import Sequence

from pydantic import BaseModel, ConfigDict

from ulvet.core.proof.proof import Length, Proof

__all__ = ["LengthBefore", "lengths_before", "lengths_to_take"]


class LengthBefore(BaseModel):
    """A length of an earlier proof, print mm."""

    model_config = ConfigDict(frozen=True)

    proof: int
    drawn: float
    measured: float


def lengths_before(proof: Proof, earlier: Sequence[tuple[int, Proof]]) -> dict[int, LengthBefore]:
    """By the place of a length in a proof, what the same one was in the latest of the ``earlier`` proofs that has it,
    the oldest first. Lengths are the same that have one name, on one part of one figure."""
    found: dict[int, LengthBefore] = {}
    for place, length in enumerate(proof.came.lengths):
        for number, other in reversed(earlier):
            same = [one for one in other.came.lengths if _name(one, other) == _name(length, proof) and length.name]
            if same:
                found[place] = LengthBefore(proof=number, drawn=same[-1].drawn, measured=same[-1].measured)
                break
    return found


def lengths_to_take(proof: Proof, earlier: Sequence[tuple[int, Proof]]) -> tuple[Length, ...]:
    """Lengths of the latest earlier proof of the same parts that this one has not yet, each with the place its part has
    here, to be taken again; what they measure is what was measured then."""
    parts = {(part.figure, part.part): place for place, part in enumerate(proof.parts)}
    have = {_name(one, proof) for one in proof.came.lengths}
    for _, other in reversed(earlier):
        mine = [
            one.model_copy(update={"part": parts[key]})
            for one in other.came.lengths
            if (key := (other.parts[one.part].figure, other.parts[one.part].part)) in parts
            and one.name
            and _name(one, other) not in have
        ]
        if mine:
            return tuple(mine)
    return ()


def _name(length: Length, proof: Proof) -> tuple[int, str, str]:
    part = proof.parts[length.part]
    return part.figure, part.part, length.name.casefold()
