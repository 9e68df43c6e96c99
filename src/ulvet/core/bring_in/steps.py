"""The step every recipe begins with."""

from typing import ClassVar, Literal

from ulvet.core.bring_in.placement import placement_of
from ulvet.core.mesh import volume
from ulvet.core.recipe.step import Context, Part, Phase, Receipt, Sentence, Step, StepResult, says
from ulvet.core.units import UNIT_NAMES, Axis, Unit

__all__ = ["BringIn"]


class BringIn(Step):
    """Stand a source on the ground, in millimetres. ``doubt`` keeps the reason of a unit that was only guessed."""

    needs: ClassVar[tuple[str, ...]] = ("sources",)
    phase: ClassVar[Phase] = Phase.SOURCE
    places_figure: ClassVar[bool] = True

    kind: Literal["bring-in"] = "bring-in"
    source: str
    """Hash of the source's mesh."""
    name: str
    """Name of the file it came from."""
    unit: Unit = "mm"
    up: Axis = "z"
    doubt: str = ""

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        source = context["sources"][self.source]
        mesh = placement_of(source, self.unit, self.up).placed(source)
        inside = volume(mesh)
        receipt = Receipt(counts={"triangles": len(mesh.faces)}, volume_before=inside, volume_after=inside)
        return StepResult((*parts, Part("figure", mesh)), receipt)

    def sentence(self, receipt: Receipt) -> Sentence:
        guessed = " (guessed)" if self.doubt else ""
        return (
            f"Brought in {self.name}: {says(receipt.counts['triangles'], 'triangle')}, "
            f"read as {UNIT_NAMES[self.unit]}{guessed}, {self.up} up.",
        )
