"""The step that presses a picture or a text into a figure."""

from dataclasses import replace
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field, field_validator, model_validator

from ulvet.core.blob_hash import BlobHash
from ulvet.core.geometry.mesh import area, volume
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.anchors import project_anchors
from ulvet.core.recipe.receipt import Count, Greatest, LeastKnown, Receipt
from ulvet.core.recipe.stance import Vector, unit_vector
from ulvet.core.recipe.step import AnchoredStep, Context, Number, Part, Sentence, plural
from ulvet.core.sources.picture import (
    Font,
    Picture,
    UnusablePicture,
    narrowest_stroke,
    picture_of_text,
    shipped_font,
    softened,
)
from ulvet.core.stamp.pressing import CannotPress, StampPlacement, press_picture
from ulvet.core.stations import Station

__all__ = ["Stamp", "StampReceipt"]


class StampReceipt(Receipt):
    """Triangles there are now; the least depth that was pressed and the narrowest stroke, print mm; the share of its
    strokes that landed."""

    triangles: Count = 0
    depth_least: LeastKnown = None
    depth: Greatest = 0.0
    landed_least: LeastKnown = None
    narrowest_least: LeastKnown = None


class Stamp(AnchoredStep):
    """Press a picture, or a text, at a place: raised or sunk by a depth that stays in mm whatever the size.

    Seen from ``view``, or along the skin's normal where that is not given.
    """

    needs: ClassVar[tuple[str, ...]] = ("factor", "sources", "mirrored")
    station: ClassVar[Station] = Station.BRING_IN
    seconds_a_triangle: ClassVar[float] = 8e-6
    makes: ClassVar[type[Receipt]] = StampReceipt

    kind: Literal["stamp"] = "stamp"
    name: str = Field(min_length=1, max_length=80)
    picture: BlobHash | None = None
    """Hash of a PNG or SVG."""
    text: str = Field(default="", max_length=200)
    font: Font = "bold"
    view: Vector | None = None
    width: PrintMM = Field(gt=0, le=1_000)
    depth: PrintMM = Field(gt=0, le=100)
    sunk: bool = False
    inverted: bool = False
    turn: float = Field(default=0.0, ge=-360, le=360)
    soften: PrintMM = Field(default=PrintMM(0.05), ge=0, le=10)

    @field_validator("view")
    @classmethod
    def _unit(cls, value: Vector | None) -> Vector | None:
        return unit_vector(value)

    @model_validator(mode="after")
    def _one_of_them(self) -> "Stamp":
        if (self.picture is None) == (not self.text.strip()):
            raise ValueError("A stamp presses either a picture or a text.")
        return self

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        factor = context["factor"]
        places, lost = project_anchors(self.places, part.mesh, part.name, part.source)
        if not len(places):
            return part, StampReceipt(lost=lost, not_done="its place is not on this part")
        try:
            drawn = self._drawn(context)
            width = self.width.in_figure(factor)
            pixel = width / drawn.strength.shape[1]
            soft, _ = softened(drawn, self.soften.in_figure(factor) / pixel)
            mesh, done = part.mesh, []
            for place, anchor in zip(places, self.places, strict=False):
                view = np.array(self.view or anchor.normal or (0, 0, 1), float)
                stamping = StampPlacement(place, view, width, self.depth.in_figure(factor), self.sunk, self.turn)
                done.append(press_picture(mesh, soft, stamping))
                mesh = done[-1].mesh
        except (UnusablePicture, CannotPress) as refusal:
            return part, StampReceipt(lost=lost, not_done=str(refusal).removesuffix("."))
        grown = area(mesh) - area(part.mesh)
        receipt = StampReceipt(
            triangles=len(mesh.faces),
            depth_least=min(one.depth_min for one in done) * factor,
            depth=max(one.depth_max for one in done) * factor,
            landed_least=min(one.landed for one in done),
            narrowest_least=narrowest_stroke(drawn) * pixel * factor,
            lost=lost,
            surface_added=max(grown, 0.0),
            surface_removed=max(-grown, 0.0),
            greatest_movement=max(one.depth_max for one in done),
            volume_before=volume(part.mesh),
            volume_after=volume(mesh),
        )
        return replace(part, mesh=mesh), receipt

    def _drawn(self, context: Context) -> Picture:
        if self.picture is None:
            picture = picture_of_text(self.text, shipped_font(self.font))
        else:
            picture = context["sources"][self.picture]
            picture = Picture(1 - picture.strength) if self.inverted else picture
        # Mirrored with the figure it reads as it was drawn.
        return Picture(picture.strength[:, ::-1].copy()) if context["mirrored"] else picture

    def sentence(self, receipt: StampReceipt) -> Sentence:
        if receipt.not_done:
            return (f"{self.name} was not pressed: {receipt.not_done}.",)
        return (
            f"{self.name} pressed ",
            Number(field="width", value=self.width, unit="mm"),
            f" wide, {'sunk' if self.sunk else 'raised'} by ",
            Number(field="depth", value=self.depth, unit="mm"),
            ", turned ",
            Number(field="turn", value=self.turn, unit="°"),
            f": {receipt.landed_least or 0:.0%} of its strokes landed; {plural(receipt.triangles, 'triangle')} now.",
        )
