"""The steps that better the surface of a scan; they shape it like any other step."""

from dataclasses import replace
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from ulvet.core.geometry.mesh import area, volume
from ulvet.core.lengths import FigureMM, spoken
from ulvet.core.recipe.anchors import Anchor, project_anchors
from ulvet.core.recipe.receipt import Receipt
from ulvet.core.recipe.step import Context, Number, Part, Sentence, Step, plural
from ulvet.core.scan.receipts import (
    DropSpecksReceipt,
    RemeshReceipt,
    SmoothReceipt,
)
from ulvet.core.scan.remeshing import CannotRemesh, remesh, remesh_edge, smooth_rims
from ulvet.core.scan.steps import MOST_TRIANGLES
from ulvet.core.scan.trimming import without_specks

__all__ = ["DropSpecks", "Remesh", "SmoothRims"]


class DropSpecks(Step):
    """Drop loose bits; shorter than ``least``, or than 4 % of the longest where it is not given."""

    seconds_a_triangle: ClassVar[float] = 1e-6

    makes: ClassVar[type[Receipt]] = DropSpecksReceipt

    kind: Literal["drop-specks"] = "drop-specks"
    least: FigureMM | None = Field(default=None, gt=0)

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        mesh, dropped = without_specks(part.mesh, self.least)
        receipt = DropSpecksReceipt(
            dropped=dropped,
            surface_removed=area(part.mesh) - area(mesh),
            volume_before=volume(part.mesh),
            volume_after=volume(mesh),
        )
        return replace(part, mesh=mesh), receipt

    def sentence(self, receipt: DropSpecksReceipt) -> Sentence:
        dropped = plural(receipt.dropped, "loose speck")
        return (f"Dropped {dropped}, {spoken(receipt.surface_removed)} mm² of surface.",)


class SmoothRims(Step):
    """Smooth the rims that scanning or trimming left, all or those near some places, without shrinking them."""

    seconds_a_triangle: ClassVar[float] = 4e-6

    makes: ClassVar[type[Receipt]] = SmoothReceipt

    kind: Literal["smooth-rims"] = "smooth-rims"
    places: tuple[Anchor, ...] = Field(default=(), max_length=100)
    reach: FigureMM = Field(default=FigureMM(5.0), gt=0)

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        near, lost = project_anchors(self.places, part.mesh, part.name, part.source)
        if self.places and not len(near):
            return part, SmoothReceipt(lost=lost)
        mesh, moved, greatest = smooth_rims(part.mesh, near if len(near) else None, self.reach)
        receipt = SmoothReceipt(
            vertices=moved,
            greatest_movement=greatest,
            lost=lost,
            volume_before=volume(part.mesh),
            volume_after=volume(mesh),
        )
        return replace(part, mesh=mesh), receipt

    def sentence(self, receipt: Receipt) -> Sentence:
        rims = f"rims at {plural(len(self.places), 'place')}" if self.places else "all rims"
        return (f"Smoothed {rims}: at most {receipt.greatest_movement:.2f} mm moved, without shrinking.",)


class Remesh(Step):
    """Remake the triangles to edges of one length, laid back onto the surface; rims and sharp folds stay."""

    seconds_a_triangle: ClassVar[float] = 40e-6
    once: ClassVar[bool] = True

    makes: ClassVar[type[Receipt]] = RemeshReceipt

    kind: Literal["even"] = "even"
    edge: FigureMM | None = Field(default=None, gt=0)
    """None keeps about as many triangles as there are."""

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        edge = self.edge or FigureMM(remesh_edge(part.mesh))
        wanted = 4 / np.sqrt(3) * area(part.mesh) / max(edge, 1e-12) ** 2
        same = RemeshReceipt(before=len(part.mesh.faces), after=len(part.mesh.faces), edge_mm=float(edge))
        if wanted > MOST_TRIANGLES:
            return part, same.model_copy(update={"not_done": "that would take more than ten million triangles"})
        try:
            mesh = remesh(part.mesh, edge)
        except CannotRemesh as refusal:
            return part, same.model_copy(update={"not_done": str(refusal)})
        receipt = RemeshReceipt(
            before=len(part.mesh.faces),
            after=len(mesh.faces),
            edge_mm=float(edge),
            volume_before=volume(part.mesh),
            volume_after=volume(mesh),
        )
        return replace(part, mesh=mesh), receipt

    def sentence(self, receipt: RemeshReceipt) -> Sentence:
        if receipt.not_done:
            return (f"Triangles not evened out: {receipt.not_done}.",)
        return (
            f"Evened {receipt.before:,} triangles out to {receipt.after:,} with edges of ",
            Number(field="edge", value=round(receipt.edge_mm, 3), unit="mm"),
            ".",
        )
