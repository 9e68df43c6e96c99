"""Places of a figure that no cut is to go through, such as a face."""

from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal, NamedTuple

import numpy as np
import shapely
from pydantic import Field

from ulvet.core.geometry.mesh import Points
from ulvet.core.lengths import FigureMM
from ulvet.core.part.caps import cap_in_plane
from ulvet.core.part.steps import Cut
from ulvet.core.recipe.anchors import project_anchors
from ulvet.core.recipe.receipt import Merge, Receipt
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.seams import Seam
from ulvet.core.recipe.step import AnchoredStep, Context, Number, Part, Sentence
from ulvet.core.stations import Station

__all__ = ["Crossing", "KeepWhole", "KeepWholeReceipt", "crossings"]


class KeepWholeReceipt(Receipt):
    """Where on the figure the middle of what is kept whole lies, figure mm; nowhere where its place is lost."""

    at: Annotated[tuple[tuple[float, float, float], ...], Merge.ALL] = ()


class KeepWhole(AnchoredStep):
    """Keep all within ``radius`` of a place in one piece: nothing is changed, but a cut through it is told."""

    once: ClassVar[bool] = True
    station: ClassVar[Station] = Station.PART
    seconds_a_triangle: ClassVar[float] = 1e-6
    makes: ClassVar[type[Receipt]] = KeepWholeReceipt

    kind: Literal["keep-whole"] = "keep-whole"
    name: str = Field(min_length=1, max_length=80)
    radius: FigureMM = Field(gt=0, le=1e6)

    def replaces(self, other: object) -> bool:
        return isinstance(other, KeepWhole) and other.name == self.name

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        points, lost = project_anchors(self.places[:1], part.mesh, part.name, part.source)
        if lost:
            return part, KeepWholeReceipt(lost=lost)
        x, y, z = map(float, points[0])
        return part, KeepWholeReceipt(at=((x, y, z),))

    def sentence(self, receipt: KeepWholeReceipt) -> Sentence:
        gone = "" if receipt.at else " Its place is off the figure."
        return (
            f"{self.name} stays in one piece: no cut within ",
            Number(field="radius", value=self.radius, unit="mm"),
            f" of the figure from it.{gone}",
        )


class Crossing(NamedTuple):
    """A cut that goes through what is kept: by their numbers in the recipe, at a place (3,), figure mm."""

    cut: int
    kept: int
    at: Points
    part: str
    """One that has the joint."""
    into: FigureMM
    """How far the cut would have to move to pass it by."""
    ahead: bool
    """Whether the middle of what is kept lies beyond the cut."""


def crossings(parts: Sequence[Part], recipe: Recipe, receipts: Sequence[Receipt]) -> list[Crossing]:
    """Every cut whose joint comes nearer to the middle of something kept than its radius, once each."""
    numbers = {step.id: k for k, step in enumerate(recipe.steps)}
    found: dict[tuple[int, int], Crossing] = {}
    for k, (step, said) in enumerate(zip(recipe.steps, receipts, strict=True)):
        if not isinstance(step, KeepWhole) or not isinstance(said, KeepWholeReceipt):
            continue
        for at in map(np.array, said.at):
            for part in parts:
                for seam in part.seams:
                    cut = numbers.get(seam.step)
                    if cut is not None and (cut, k) not in found and _comes_near(part, seam, at, float(step.radius)):
                        ahead = float((at - seam.point) @ np.array(seam.normal))
                        into = FigureMM(float(step.radius) - abs(ahead))
                        # A seam looks out of its part: of the part beyond the cut it looks back.
                        way = _way_of(recipe.steps[cut], seam)
                        found[cut, k] = Crossing(cut, k, at, part.name, into, ahead * way >= 0)
    return list(found.values())


def _comes_near(part: Part, seam: Seam, at: Points, radius: float) -> bool:
    normal = np.array(seam.normal)
    reach = radius**2 - float((at - seam.point) @ normal) ** 2
    if reach <= 0:
        return False
    cap = cap_in_plane(part.mesh, np.array(seam.point), normal)
    return cap is not None and shapely.distance(cap.outline, shapely.Point(cap.to_plane(at))) ** 2 < reach


def _way_of(step: object, seam: Seam) -> float:
    """1 where a seam looks the way of the cut that made it, else -1."""
    return 1.0 if not isinstance(step, Cut) or np.array(step.normal) @ seam.normal > 0 else -1.0
