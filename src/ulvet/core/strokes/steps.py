"""The step that replays a stroke."""

from dataclasses import replace
from typing import ClassVar, Literal

import igl  # its module under a copyleft licence is never imported
import numpy as np
from pydantic import Field

from ulvet.core.lengths import PrintMM
from ulvet.core.mesh import Mesh, Points, bounds, face_normals, volume
from ulvet.core.recipe.anchors import STRAYS, Anchor, LostAnchor, project_anchors
from ulvet.core.recipe.step import AnchoredStep, Context, Number, Part, Receipt, Sentence, says
from ulvet.core.stations import Station
from ulvet.core.strokes.brush import Brush, Tool, Worked

__all__ = ["Stroke", "landed_samples"]

_MOST_SAMPLES = 2_000
_SAID = {
    "raise": "Raised", "lower": "Lowered", "smooth": "Smoothed", "flatten": "Flattened", "crease": "Creased",
    "thicken": "Thickened",
}  # fmt: skip


class Stroke(AnchoredStep):
    """Apply a brush along the samples of a stroke, on both sides of the middle when ``mirrored``.

    Radius and amount stay in mm whatever the size; ``share`` stands for the amount of smooth and flatten.
    """

    needs: ClassVar[tuple[str, ...]] = ("factor",)
    station: ClassVar[Station] = Station.BRING_IN
    seconds_a_triangle: ClassVar[float] = 5e-6

    kind: Literal["stroke"] = "stroke"
    tool: Tool
    places: tuple[Anchor, ...] = Field(min_length=1, max_length=_MOST_SAMPLES)
    radius: PrintMM = Field(gt=0, le=500)
    amount: PrintMM = Field(default=PrintMM(0.1), gt=0, le=50)
    share: float = Field(default=0.5, gt=0, le=1)
    mirrored: bool = False

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        samples, normals, lost = landed_samples(self.places, part)
        if not len(samples):
            return part, Receipt(counts={"vertices": 0, "samples": 0}, lost=lost, not_done="it is not on this part")
        brush = self.brush(context["factor"])
        worked = Worked(part.mesh)
        touched = np.zeros(len(part.mesh.vertices), bool)
        for point, normal in zip(samples, normals, strict=True):
            touched[worked.sample(brush, point, normal).vertices] = True
            if self.mirrored:
                touched[worked.sample(brush, point * [-1, 1, 1], normal * [-1, 1, 1]).vertices] = True
        mesh = worked.mesh
        receipt = Receipt(
            counts={"vertices": int(touched.sum()), "samples": len(samples)},
            lost=lost,
            greatest_movement=float(np.linalg.norm(mesh.vertices - part.mesh.vertices, axis=1).max()),
            volume_before=volume(part.mesh),
            volume_after=volume(mesh),
        )
        return replace(part, mesh=mesh), receipt

    def brush(self, factor: float) -> Brush:
        """The brush in figure mm."""
        by_share = self.tool in {"smooth", "flatten"}
        return Brush(
            self.tool, self.radius.in_figure(factor), self.share if by_share else self.amount.in_figure(factor)
        )

    def sentence(self, receipt: Receipt) -> Sentence:
        if receipt.not_done:
            return (f"A stroke to {self.tool} did nothing: {receipt.not_done}.",)
        said: Sentence = (f"{_SAID[self.tool]} by a brush of ", Number(field="radius", value=self.radius, unit="mm"))
        if self.tool == "thicken":
            said = (*said, " to ", Number(field="amount", value=self.amount, unit="mm"))
        elif self.tool not in {"smooth", "flatten"}:
            said = (*said, ", ", Number(field="amount", value=self.amount, unit="mm"), " at a time")
        both = " on both sides" if self.mirrored else ""
        moved = f": {says(receipt.counts['samples'], 'sample')}, at most {receipt.greatest_movement:.2f} mm moved."
        return (*said, both + moved)


def landed_samples(places: tuple[Anchor, ...], part: Part) -> tuple[Points, Points, tuple[LostAnchor, ...]]:
    """Samples of a stroke on the surface of a part: points and normals (k, 3) of those that landed, and those lost.

    As ``project_anchors``, but all at once where the nearest surface looks the right way, as it nearly always does.
    """
    mesh: Mesh = part.mesh
    if not len(mesh.faces):
        return np.empty((0, 3)), np.empty((0, 3)), ()
    at = np.array([place.point for place in places], float)
    square, face, nearest = igl.point_mesh_squared_distance(at, mesh.vertices, mesh.faces.astype(np.int64))
    looks = face_normals(mesh)[face]
    asked = np.array([place.normal or look for place, look in zip(places, looks, strict=True)], float)
    limit = STRAYS * float(np.ptp(bounds(mesh), axis=0).max())
    good = (np.sqrt(np.maximum(square, 0)) <= limit) & (np.einsum("ij,ij->i", looks, asked) > 0)
    points, kept, lost = np.asarray(nearest), good.copy(), []
    for k in np.flatnonzero(~good):
        landed, gone = project_anchors((places[k],), mesh, part.name, part.source)
        if len(landed):
            points[k], kept[k] = landed[0], True
        lost += [one.model_copy(update={"number": int(k)}) for one in gone]
    return points[kept], asked[kept], tuple(lost)
