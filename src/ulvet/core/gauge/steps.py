"""The steps of Gauge."""

from dataclasses import replace
from typing import ClassVar, Literal

from pydantic import Field

from ulvet.core.gauge.thicken import thicken_walls
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.mesh import area, volume
from ulvet.core.recipe.anchors import project_anchors
from ulvet.core.recipe.step import (
    AnchoredStep,
    Context,
    Number,
    Part,
    Receipt,
    Sentence,
    says,
)
from ulvet.core.stations import Station

__all__ = ["Thicken"]


class Thicken(AnchoredStep):
    """Bring thin walls near some places to a wall that prints. The wall stays in mm whatever the size."""

    needs: ClassVar[tuple[str, ...]] = ("factor",)

    station: ClassVar[Station] = Station.GAUGE
    seconds_a_triangle: ClassVar[float] = 20e-6

    kind: Literal["thicken"] = "thicken"
    wall: PrintMM = Field(gt=0, le=20)
    fade: PrintMM = Field(default=PrintMM(2.0), gt=0, le=50)
    reach: FigureMM = Field(gt=0)

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        factor = context["factor"]
        places, lost = project_anchors(self.places, part.mesh, part.name, part.source)
        if not len(places):
            return part, Receipt(counts={"vertices": 0, "places": 0}, lost=lost)
        mesh, vertices, movement = thicken_walls(
            part.mesh,
            self.wall.in_figure(factor),
            self.fade.in_figure(factor),
            places,
            self.reach,
        )
        grown = area(mesh) - area(part.mesh)
        receipt = Receipt(
            counts={"vertices": vertices, "places": len(places)},
            lost=lost,
            surface_added=max(grown, 0.0),
            surface_removed=max(-grown, 0.0),
            greatest_movement=movement,
            volume_before=volume(part.mesh),
            volume_after=volume(mesh),
        )
        return replace(part, mesh=mesh), receipt

    def sentence(self, receipt: Receipt) -> Sentence:
        return (
            "Thickened to ",
            Number(field="wall", value=self.wall, unit="mm"),
            f" at {says(receipt.counts['places'], 'place')}, fading over ",
            Number(field="fade", value=self.fade, unit="mm"),
            "." if receipt.counts["vertices"] else "; nothing there is thinner.",
        )
