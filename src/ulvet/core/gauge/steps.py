"""The steps of Gauge."""

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
    StepResult,
    says,
)

__all__ = ["Thicken"]


class Thicken(Step):
    """Bring thin walls near some places to a wall that prints. The wall stays in mm whatever the size."""

    needs: ClassVar[tuple[str, ...]] = ("factor",)

    kind: Literal["thicken"] = "thicken"
    wall: PrintMM = Field(gt=0, le=20)
    fade: PrintMM = Field(default=PrintMM(2.0), gt=0, le=50)
    places: tuple[tuple[FigureMM, FigureMM, FigureMM], ...] = Field(min_length=1)
    reach: FigureMM = Field(gt=0)

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        factor = context["factor"]
        before = after = grown = movement = 0.0
        vertices = 0
        done = []
        for part in parts:
            mesh = part.mesh
            if self.scope in (None, part.name):
                mesh, count, moved = thicken_walls(
                    mesh,
                    self.wall.in_figure(factor),
                    self.fade.in_figure(factor),
                    np.array(self.places, dtype=float),
                    self.reach,
                )
                vertices, movement = vertices + count, max(movement, moved)
            before, after = before + volume(part.mesh), after + volume(mesh)
            grown += area(mesh) - area(part.mesh)
            done.append(Part(part.name, mesh))
        receipt = Receipt(
            counts={"vertices": vertices, "places": len(self.places)},
            surface_added=max(grown, 0.0),
            surface_removed=max(-grown, 0.0),
            greatest_movement=movement,
            volume_before=before,
            volume_after=after,
            not_done="" if vertices else "No wall near the places is thinner than asked for.",
        )
        return StepResult(tuple(done), receipt)

    def sentence(self, receipt: Receipt) -> Sentence:
        return (
            "Thickened to ",
            Number(field="wall", value=self.wall, unit="mm"),
            f" at {says(receipt.counts['places'], 'place')}, fading over ",
            Number(field="fade", value=self.fade, unit="mm"),
            "." if receipt.counts["vertices"] else "; nothing there is thinner.",
        )
