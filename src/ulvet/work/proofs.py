"""The studio's proofs: documents with revisions, each of one print."""

from collections.abc import Callable
from typing import ClassVar

from ulvet.core.proof.proof import Came, Proof
from ulvet.store.documents import ProofDocument, ProofRevision
from ulvet.work.documents import DocumentNow, Documents

__all__ = ["ProofNow", "Proofs"]

ProofNow = DocumentNow[Proof]


class Proofs(Documents[Proof]):
    """The proofs of a studio."""

    kind = Proof
    document = ProofDocument
    revision = ProofRevision
    column: ClassVar[str] = "proof"
    word: ClassVar[str] = "proof"

    def of_figure(self, figure: int, edition: str = "") -> tuple[ProofNow, ...]:
        """Proofs with a part of a figure, in one edition where one is named, the oldest first."""
        return tuple(
            one
            for one in self.all()
            if any(part.figure == figure and edition in ("", part.edition) for part in one.value.parts)
        )

    def enter(self, number: int, seen: int, says: str, change: Callable[[Proof], Came]) -> None:
        """Change what came out of a proof, as a new revision.

        Raises NotThere, Conflict, and Refused for what cannot be.
        """
        self.change(number, seen, says, lambda proof: proof.model_copy(update={"came": change(proof)}))
