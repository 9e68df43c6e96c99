"""The step that replays a stroke."""

from dataclasses import replace
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ulvet.core.geometry.mesh import Points, volume
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.receipt import Count, Receipt
from ulvet.core.recipe.step import AnchoredStep, Context, Number, Part, Sentence, plural
from ulvet.core.stations import Station
from ulvet.core.strokes.brush import Brush, StrokedMesh, Tool
from ulvet.core.strokes.landing import StrokeSurface

__all__ = ["Stroke"]

_MOST_SAMPLES = 2_000
"""Samples of one stroke (bench default)."""
_SAID = {
    "raise": "Raised", "lower": "Lowered", "smooth": "Smoothed", "flatten": "Flattened", "crease": "Creased",
    "thicken": "Thickened",
}  # fmt: skip


class StrokeReceipt(Receipt):
    """Vertices that moved, and samples that landed."""

    vertices: Count = 0
    samples: Count = 0


class Stroke(AnchoredStep):
    """Apply a brush along the samples of a stroke, on both sides of the middle when ``mirrored``.

    Radius and amount stay in mm whatever the size; ``share`` stands for the amount of smooth and flatten.
    """

    needs: ClassVar[tuple[str, ...]] = ("factor",)
    station: ClassVar[Station] = Station.BRING_IN
    seconds_a_triangle: ClassVar[float] = 5e-6
    makes: ClassVar[type[Receipt]] = StrokeReceipt

    kind: Literal["stroke"] = "stroke"
    tool: Tool
    places: tuple[Anchor, ...] = Field(min_length=1, max_length=_MOST_SAMPLES)
    radius: PrintMM = Field(gt=0, le=500)
    amount: PrintMM = Field(default=PrintMM(0.1), gt=0, le=50)
    share: float = Field(default=0.5, gt=0, le=1)
    mirrored: bool = False

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        worked = StrokedMesh(part.mesh)
        samples, normals, lost = StrokeSurface(part, worked).of(self.places)
        if not len(samples):
            return part, StrokeReceipt(lost=lost, not_done="it is not on this part")
        touched = np.zeros(len(part.mesh.vertices), bool)
        for point, normal in zip(samples, normals, strict=True):
            touched[self.press(worked, context["factor"], point, normal)] = True
        if not touched.any():
            coarse = "the triangles under it are larger than the brush"
            return part, StrokeReceipt(samples=len(samples), lost=lost, not_done=coarse)
        mesh = worked.mesh
        receipt = StrokeReceipt(
            vertices=int(touched.sum()),
            samples=len(samples),
            lost=lost,
            greatest_movement=float(np.linalg.norm(mesh.vertices - part.mesh.vertices, axis=1).max()),
            volume_before=volume(part.mesh),
            volume_after=volume(mesh),
        )
        return replace(part, mesh=mesh), receipt

    def press(self, worked: StrokedMesh, factor: float, point: Points, normal: Points) -> NDArray[np.int64]:
        """Apply the brush at one sample (3,) that looks along ``normal`` (3,), and the vertices it moved, in order."""
        brush = self.brush(factor)
        moved = worked.sample(brush, point, normal).vertices
        if not self.mirrored:
            return moved
        across = np.array([-1.0, 1, 1])
        return np.union1d(moved, worked.sample(brush, point * across, normal * across).vertices)

    def brush(self, factor: float) -> Brush:
        """The brush in figure mm."""
        by_share = self.tool in {"smooth", "flatten"}
        return Brush(
            self.tool, self.radius.in_figure(factor), self.share if by_share else self.amount.in_figure(factor)
        )

    def sentence(self, receipt: StrokeReceipt) -> Sentence:
        if receipt.not_done:
            return (f"A stroke to {self.tool} did nothing: {receipt.not_done}.",)
        said: Sentence = (f"{_SAID[self.tool]} by a brush of ", Number(field="radius", value=self.radius, unit="mm"))
        if self.tool == "thicken":
            said = (*said, " to ", Number(field="amount", value=self.amount, unit="mm"))
        elif self.tool not in {"smooth", "flatten"}:
            said = (*said, ", ", Number(field="amount", value=self.amount, unit="mm"), " at a time")
        both = " on both sides" if self.mirrored else ""
        moved = f": {plural(receipt.samples, 'sample')}, at most {receipt.greatest_movement:.2f} mm moved."
        return (*said, both + moved)
