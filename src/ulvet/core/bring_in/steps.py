"""The step every recipe begins with, and those that make its triangles fewer or finer."""

from dataclasses import replace
from typing import ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from ulvet.core.blob_hash import BlobHash
from ulvet.core.bring_in.facets import refine_facets
from ulvet.core.bring_in.simplify import Simplified, simplify_to_count, simplify_within
from ulvet.core.geometry.mesh import Mesh, volume
from ulvet.core.geometry.placement import placement_of
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.receipt import Count, Greatest, Receipt
from ulvet.core.recipe.step import Context, Number, Part, Phase, Sentence, Step, StepResult, plural
from ulvet.core.units import UNIT_NAMES, Axis, Unit

__all__ = ["BringIn", "Refine", "Simplify", "SourcePiece"]

_STL_HEAD, _STL_FACE = 84, 50
"""Bytes of a binary STL before its faces, and of each face."""


class SourcePiece(BaseModel):
    """One of several things in a source, and the part it becomes."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    name: str = Field(max_length=80)
    mesh: BlobHash
    """Hash of its mesh."""


class BringInReceipt(Receipt):
    """How many triangles came in, in how many parts."""

    triangles: Count = 0
    parts: Count = 0


class BringIn(Step):
    """Stand a source on the ground, in millimetres. ``doubt`` keeps the reason of a unit that was only guessed."""

    needs: ClassVar[tuple[str, ...]] = ("sources",)
    phase: ClassVar[Phase] = Phase.SOURCE
    by_part: ClassVar[bool] = False
    places_figure: ClassVar[bool] = True
    makes: ClassVar[type[Receipt]] = BringInReceipt

    kind: Literal["bring-in"] = "bring-in"
    source: BlobHash
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
        receipt = BringInReceipt(triangles=triangles, parts=len(brought), volume_before=inside, volume_after=inside)
        return StepResult((*parts, *brought), receipt)

    @property
    def meshes(self) -> tuple[str, ...]:
        """Hashes of every mesh it needs."""
        return (self.source, *(piece.mesh for piece in self.pieces))

    def sentence(self, receipt: BringInReceipt) -> Sentence:
        guessed = " (guessed)" if self.doubt else ""
        parts = f" in {plural(len(self.pieces), 'part')}" if self.pieces else ""
        return (
            f"Brought in {self.name}: {plural(receipt.triangles, 'triangle')}{parts}, "
            f"read as {UNIT_NAMES[self.unit]}{guessed}, {self.up} up.",
        )


class SimplifyReceipt(Receipt):
    """Triangles before and after, and how far the surface moved, print mm."""

    before: Count = 0
    after: Count = 0
    deviation_mm: Greatest = 0.0
    deviation_mean_mm: Greatest = 0.0


class Simplify(Step):
    """Thin out triangles: to where the surface moves by at most a deviation at print size, or to about a count."""

    needs: ClassVar[tuple[str, ...]] = ("factor",)
    seconds_a_triangle: ClassVar[float] = 12e-6
    makes: ClassVar[type[Receipt]] = SimplifyReceipt

    kind: Literal["simplify"] = "simplify"
    deviation: PrintMM | None = Field(default=None, gt=0, le=10)
    triangles: int | None = Field(default=None, ge=4, le=100_000_000)

    @model_validator(mode="after")
    def _one(self) -> "Simplify":
        if (self.deviation is None) == (self.triangles is None):
            raise ValueError("Give either a deviation or a number of triangles.")
        return self

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        factor = context["factor"]
        if self.deviation is not None:
            done = simplify_within(part.mesh, self.deviation.in_figure(factor), context.progress)
        else:
            done = simplify_to_count(part.mesh, self.triangles or 4)
        return replace(part, mesh=done.mesh), _thinned(part.mesh, done, factor)

    def sentence(self, receipt: SimplifyReceipt) -> Sentence:
        if receipt.not_done:
            return (f"Not thinned out: {receipt.not_done}.",)
        size = (_STL_HEAD + _STL_FACE * receipt.after) / 1e6
        aim: Sentence = (
            ("to where nothing moves more than ", Number(field="deviation", value=self.deviation, unit="mm"))
            if self.deviation is not None
            else (f"to about {self.triangles:,}",)
        )
        return (
            "Thinned out ",
            *aim,
            f": {receipt.before:,} triangles to {receipt.after:,}, {size:.1f} MB as STL; at most "
            f"{receipt.deviation_mm:.3f} mm off, {receipt.deviation_mean_mm:.3f} mm on average.",
        )


def _thinned(before: Mesh, done: Simplified, factor: float) -> SimplifyReceipt:
    return SimplifyReceipt(
        before=len(before.faces),
        after=len(done.mesh.faces),
        deviation_mm=done.deviation.greatest * factor,
        deviation_mean_mm=done.deviation.mean * factor,
        greatest_movement=done.deviation.greatest,
        volume_before=volume(before),
        volume_after=volume(done.mesh),
        not_done=done.why,
    )


class RefineReceipt(Receipt):
    """Triangles before and after, and the chord error that is left, print mm."""

    before: Count = 0
    after: Count = 0
    chord_mm: Greatest = 0.0


class Refine(Step):
    """Make curved surface finer where its facets would show, up to a chord error at print size; folds stay sharp."""

    needs: ClassVar[tuple[str, ...]] = ("factor",)
    seconds_a_triangle: ClassVar[float] = 10e-6
    makes: ClassVar[type[Receipt]] = RefineReceipt

    kind: Literal["refine"] = "refine"
    chord: PrintMM = Field(gt=0, le=10)

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        factor = context["factor"]
        mesh, left, not_done = refine_facets(part.mesh, self.chord.in_figure(factor))
        receipt = RefineReceipt(
            before=len(part.mesh.faces),
            after=len(mesh.faces),
            chord_mm=left * factor,
            volume_before=volume(part.mesh),
            volume_after=volume(mesh),
            not_done=not_done,
        )
        return replace(part, mesh=mesh), receipt

    def sentence(self, receipt: RefineReceipt) -> Sentence:
        rest = f"; {receipt.not_done}" if receipt.not_done else ""
        return (
            "Refined curved surface to a chord error of ",
            Number(field="chord", value=self.chord, unit="mm"),
            f": {receipt.before:,} triangles to {receipt.after:,}; folds stay sharp{rest}.",
        )
