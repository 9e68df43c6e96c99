"""Whether what is about to be printed was proofed: in exactly this form, in another, or not at all."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from math import isclose

from ulvet.core.lengths import spoken
from ulvet.core.proof.proof import PrintForm, Proof

__all__ = ["NOT_PROOFED", "EditionState", "StateKind", "differences", "state_of"]


NOT_PROOFED = "Not proofed: no test print of exactly these files is on record."


class StateKind(StrEnum):
    """What proofs say of an edition."""

    EXACT = "exact"
    """Every part came out sound or usable, from the very bytes it has now."""
    ANOTHER = "another"
    FAILED = "failed"
    """Exactly this was printed, and failed."""
    RUNNING = "running"
    """Exactly this is being printed, or nobody has said yet how it came out."""
    NOT = "not"


@dataclass(frozen=True)
class EditionState:
    """What proofs say of an edition: the proof that says it, and what that had otherwise."""

    kind: StateKind
    proof: int | None = None
    differs: tuple[str, ...] = ()

    @property
    def says(self) -> str:
        """The same for whoever is to print it, in one sentence."""
        match self.kind:
            case StateKind.EXACT:
                return f"Proofed in exactly this form: proof {self.proof}."
            case StateKind.ANOTHER:
                return f"Proofed in another form, proof {self.proof}, which had otherwise: {'; '.join(self.differs)}."
            case StateKind.FAILED:
                return f"Printed in exactly this form, and it failed: proof {self.proof}."
            case StateKind.RUNNING:
                return f"Being proofed: how proof {self.proof} came out is not on record yet."
        return NOT_PROOFED


def differences(now: Mapping[str, PrintForm], then: Mapping[str, PrintForm]) -> tuple[str, ...]:
    """In what parts, by name, differ from those of another print, in words; empty where they are the same bytes printed
    alike."""
    found: list[str] = []
    if fewer := sorted(now.keys() - then.keys()):
        found.append(f"without {len(fewer)} of its parts" if len(fewer) > 1 else "without one of its parts")
    for name in sorted(now.keys() & then.keys()):
        found += _unlike(now[name], then[name])
    return tuple(dict.fromkeys(found))


def state_of(
    now: Mapping[str, PrintForm], proofs: Sequence[tuple[int, Proof, Mapping[str, PrintForm]]]
) -> EditionState:
    """What proofs say of parts as they are now. Each proof, the oldest first, comes with its number and the parts of it
    that are of the same figure.

    What was printed in exactly this form counts before all else, its latest proof alone; then the latest of another
    form.
    """
    other: EditionState | None = None
    for number, proof, then in reversed(proofs):
        if not then:
            continue
        differs = differences(now, then)
        if not differs and now:
            kind = StateKind.FAILED if proof.failed else StateKind.EXACT if proof.held else StateKind.RUNNING
            return EditionState(kind, number)
        if other is None and proof.held:
            other = EditionState(StateKind.ANOTHER, number, differs)
    return other or EditionState(StateKind.NOT)


def _unlike(now: PrintForm, then: PrintForm) -> list[str]:
    found: list[str] = []
    if now.setting != then.setting:
        found.append(f"in the setting {then.setting}")
    if now.mirrored != then.mirrored:
        found.append("mirrored" if then.mirrored else "not mirrored")
    if not isclose(now.factor, then.factor):
        found.append(f"{spoken(100 * then.factor / now.factor)} % of this size")
    elif now.mesh != then.mesh:
        found.append("another shape")
    if (now.up, now.spin, now.lift) != (then.up, then.spin, then.lift):
        found.append("stood another way")
    elif now.supports != then.supports and now.factor == then.factor and now.mesh == then.mesh:
        found.append("other supports")
    return found
