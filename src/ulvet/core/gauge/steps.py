"""The steps of Gauge."""

from dataclasses import replace
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from ulvet.core.gauge.thicken import thicken_walls
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.mesh import area, volume
from ulvet.core.recipe.step import (
    Context,
    Number,
    Part,
    Receipt,
    Sentence,
    Step,
    says,
)

__all__ = ["Thicken"]


class Thicken(Step):
    """Bring thin walls near some places to a wall that prints. The wall stays in mm whatever the size."""

    needs: ClassVar[tuple[str, ...]] = ("factor",)

    seconds_a_triangle: ClassVar[float] = 20e-6

    kind: Literal["thicken"] = "thicken"
    wall: PrintMM = Field(gt=0, le=20)
    fade: PrintMM = Field(default=PrintMM(2.0), gt=0, le=50)
    places: tuple[tuple[FigureMM, FigureMM, FigureMM], ...] = Field(min_length=1)
    reach: FigureMM = Field(gt=0)

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        factor = context["factor"]
        mesh, vertices, movement = thicken_walls(
            part.mesh,
            self.wall.in_figure(factor),
            self.fade.in_figure(factor),
            np.array(self.places, dtype=float),
            self.reach,
        )
        grown = area(mesh) - area(part.mesh)
        receipt = Receipt(
            counts={"vertices": vertices},
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
            f" at {says(len(self.places), 'place')}, fading over ",
            Number(field="fade", value=self.fade, unit="mm"),
            "." if receipt.counts["vertices"] else "; nothing there is thinner.",
        )
