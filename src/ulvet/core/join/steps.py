"""The step that joins two parts of a figure."""

from dataclasses import replace
from typing import ClassVar, Literal

from pydantic import Field

from ulvet.core.geometry.mesh import concatenated, volume
from ulvet.core.geometry.solids import CannotJoin
from ulvet.core.join.joining import join_meshes, measure_hold
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.receipt import Count, Greatest, Receipt
from ulvet.core.recipe.stance import Vector
from ulvet.core.recipe.step import Context, Number, Part, Sentence, Step, StepResult

__all__ = ["JoinParts", "JoinReceipt"]


class JoinReceipt(Receipt):
    """How the bit holds in its host (figure mm, mm², mm³): how deep, how thick its neck, what is sealed between them,
    on which grid a round was drawn, and where the neck is."""

    triangles: Count = 0
    overlap: Greatest = 0.0
    neck: Greatest = 0.0
    neck_width: Greatest = 0.0
    sealed: Greatest = 0.0
    grid: Greatest = 0.0
    middle: Vector = (0.0, 0.0, 0.0)


class JoinParts(Step):
    """Join a bit to its host: exactly, with a round whose radius stays in mm whatever the size, or left overlapping.

    Left overlapping they are one part of two bodies, which the slicing merges: nothing of either is changed, the inner
    surface stays, and what weighs, hollows or measures walls counts the overlap twice.
    """

    needs: ClassVar[tuple[str, ...]] = ("factor",)
    by_part: ClassVar[bool] = False
    seconds_a_triangle: ClassVar[float] = 8e-6
    makes: ClassVar[type[Receipt]] = JoinReceipt

    kind: Literal["join-parts"] = "join-parts"
    host: str = Field(min_length=1, max_length=120)
    """Keeps its name."""
    bit: str = Field(min_length=1, max_length=120)
    blend: PrintMM = Field(default=PrintMM(0), ge=0, le=100)
    neck: PrintMM = Field(default=PrintMM(0), ge=0, le=100)
    """Least thickness of the neck: a ball so wide is set into it."""
    fill: bool = False
    """Whether cavities that the two seal between them are filled."""
    overlapping: bool = False
    """Whether they are left overlapping."""

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        named = {part.name: part for part in parts}
        missing = next((name for name in (self.host, self.bit) if name not in named), None)
        if missing is not None or self.host == self.bit:
            why = f"there is no part {missing}" if missing else "a part cannot be joined to itself"
            return StepResult(parts, JoinReceipt(idle=True, not_done=why))
        host, bit = named[self.host], named[self.bit]
        factor = context["factor"]
        try:
            if self.overlapping:
                return self._left(parts, host, bit)
            done = join_meshes(
                host.mesh, bit.mesh, self.blend.in_figure(factor), self.neck.in_figure(factor), self.fill
            )
        except CannotJoin as refusal:
            return StepResult(parts, JoinReceipt(idle=True, not_done=str(refusal).removesuffix(".")))
        receipt = JoinReceipt(
            triangles=len(done.mesh.faces),
            overlap=done.hold.overlap,
            neck=done.hold.neck,
            neck_width=done.hold.neck_width,
            sealed=done.sealed,
            grid=done.pitch or 0.0,
            middle=done.hold.middle,
            surface_removed=done.hold.removed,
            volume_before=volume(host.mesh) + volume(bit.mesh),
            volume_after=volume(done.mesh),
        )
        whole = replace(host, mesh=done.mesh)
        return StepResult(tuple(whole if part is host else part for part in parts if part is not bit), receipt)

    def _left(self, parts: tuple[Part, ...], host: Part, bit: Part) -> StepResult:
        """Both as one part, as they are.

        Raises CannotJoin.
        """
        hold, sealed = measure_hold(host.mesh, bit.mesh)
        both = replace(host, mesh=concatenated(host.mesh, bit.mesh), overlaps_left=True)
        receipt = JoinReceipt(
            triangles=len(both.mesh.faces),
            overlap=hold.overlap,
            neck=hold.neck,
            neck_width=hold.neck_width,
            sealed=sealed,
            middle=hold.middle,
            volume_before=volume(host.mesh) + volume(bit.mesh),
            volume_after=volume(both.mesh),
        )
        return StepResult(tuple(both if part is host else part for part in parts if part is not bit), receipt)

    def sentence(self, receipt: JoinReceipt) -> Sentence:
        if self.overlapping:
            return (
                f"Left {self.bit} overlapping in {self.host}, {receipt.overlap:.2f} mm deep, the neck "
                f"{receipt.neck_width:.2f} mm thick (of the figure); slicing merges them.",
            )
        said = (
            f", {receipt.overlap:.2f} mm deep in it, the neck {receipt.neck_width:.2f} mm thick and {receipt.neck:.1f} "
            f"mm²; {receipt.volume_after:,.0f} mm³ in all, {receipt.surface_removed:,.0f} mm² of inner surface taken "
            "away"
        )
        if receipt.sealed > 0:
            said += f", {receipt.sealed:.1f} mm³ sealed in"
        grid = f", on a grid of {receipt.grid:.3f} mm" if receipt.grid else ""
        rounded = (" with a round of ", Number(field="blend", value=self.blend, unit="mm"), grid)
        thick = (", the neck made ", Number(field="neck", value=self.neck, unit="mm")) if self.neck else ()
        filled = ", what they sealed filled" if self.fill else ""
        return (f"Joined {self.bit} to {self.host}", *rounded, *thick, filled + said + " (of the figure).")
