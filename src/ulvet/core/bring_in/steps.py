"""The step every recipe begins with."""

from typing import ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field

from ulvet.core.bring_in.placement import placement_of
from ulvet.core.mesh import volume
from ulvet.core.recipe.step import Context, Part, Phase, Receipt, Sentence, Step, StepResult, says
from ulvet.core.units import UNIT_NAMES, Axis, Unit

__all__ = ["BringIn", "SourcePiece"]


class SourcePiece(BaseModel):
    """One of several things in a source, and the part it becomes."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    name: str = Field(max_length=80)
    mesh: str
    """Hash of its mesh."""


class BringIn(Step):
    """Stand a source on the ground, in millimetres. ``doubt`` keeps the reason of a unit that was only guessed."""

    needs: ClassVar[tuple[str, ...]] = ("sources",)
    phase: ClassVar[Phase] = Phase.SOURCE
    by_part: ClassVar[bool] = False
    places_figure: ClassVar[bool] = True

    kind: Literal["bring-in"] = "bring-in"
    source: str
    """Hash of the mesh of all that is in the source."""
    name: str
    """Name of the file it came from."""
    unit: Unit = "mm"
    up: Axis = "z"
    doubt: str = ""
    pieces: tuple[SourcePiece, ...] = ()
    """What becomes a part of its own; all of it is one part where there are none."""

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        sources = context["sources"]
        # All pieces stand as they lie to each other.
        placement = placement_of(sources[self.source], self.unit, self.up)
        pieces = self.pieces or (SourcePiece(name="figure", mesh=self.source),)
        brought = tuple(Part(piece.name, placement.placed(sources[piece.mesh]), source=self.source) for piece in pieces)
        inside = sum(volume(part.mesh) for part in brought)
        triangles = sum(len(part.mesh.faces) for part in brought)
        receipt = Receipt(
            counts={"triangles": triangles, "parts": len(brought)}, volume_before=inside, volume_after=inside
        )
        return StepResult((*parts, *brought), receipt)

    @property
    def meshes(self) -> tuple[str, ...]:
        """Hashes of every mesh it needs."""
        return (self.source, *(piece.mesh for piece in self.pieces))

    def sentence(self, receipt: Receipt) -> Sentence:
        guessed = " (guessed)" if self.doubt else ""
        parts = f" in {says(len(self.pieces), 'part')}" if self.pieces else ""
        return (
            f"Brought in {self.name}: {says(receipt.counts['triangles'], 'triangle')}{parts}, "
            f"read as {UNIT_NAMES[self.unit]}{guessed}, {self.up} up.",
        )
