"""The step that puts a bit from the shelf into a figure."""

from typing import ClassVar, Literal

from ulvet.core.bits.placement import PlacedReceipt, PlacedStep
from ulvet.core.blob_hash import BlobHash
from ulvet.core.geometry.placement import placement_of
from ulvet.core.recipe.step import Context, Number, Part, Sentence, StepResult, plural

__all__ = ["AddBit"]


class AddBit(PlacedStep):
    """Stand a bit in a figure as a part of its own."""

    needs: ClassVar[tuple[str, ...]] = ("sources",)

    kind: Literal["add-bit"] = "add-bit"
    source: BlobHash
    """Hash of its mesh, in mm as it stands."""

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        mesh = context["sources"][self.source]
        return self.stood(parts, placement_of(mesh, "mm", "z").placed(mesh), self.source)

    def sentence(self, receipt: PlacedReceipt) -> Sentence:
        return (
            f"Added {self.name}, {plural(receipt.triangles, 'triangle')}, at ",
            *self.where(),
            ", grown by ",
            Number(field="grow", value=self.grow, unit="times"),
            ".",
        )
