"""The step of Hollow that makes room for a bought part."""

from dataclasses import replace
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from ulvet.core.geometry.mesh import scaled, volume
from ulvet.core.hollow.cut_cleanup import cleaned_cut
from ulvet.core.hollow.landing import landed
from ulvet.core.hollow.pockets import CannotPocket, Pole, cut_pocket
from ulvet.core.lengths import PrintMM, spoken
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.at_places import StepAtPlaces
from ulvet.core.recipe.receipt import Count, Insert, LeastKnown, Receipt
from ulvet.core.recipe.step import AnchoredStep, Context, Number, Part, Phase, Sentence, plural
from ulvet.core.stations import Station

__all__ = ["Pocket", "PocketReceipt"]


class PocketReceipt(Receipt):
    """Pockets cut, and the thinnest wall left beside and below them, print mm."""

    pockets: Count = 0
    refused: Count = 0
    beside: LeastKnown = None
    below: LeastKnown = None


class Pocket(AnchoredStep, StepAtPlaces):
    """Make room for a bought part: a round pocket from the skin inward. Its sizes stay in mm whatever the figure's.

    What the part is, is written down with the step, so that a recipe can be made where the bench is another.
    """

    needs: ClassVar[tuple[str, ...]] = ("factor",)
    station: ClassVar[Station] = Station.HOLLOW
    phase: ClassVar[Phase] = Phase.MAKE
    makes_pockets: ClassVar[bool] = True
    seconds_a_triangle: ClassVar[float] = 3e-6
    makes: ClassVar[type[Receipt]] = PocketReceipt

    kind: Literal["pocket"] = "pocket"
    places: tuple[Anchor, ...] = Field(min_length=1, max_length=100)
    item: str = Field(max_length=60)
    """Id of the bought part on the bench."""
    name: str = Field(min_length=1, max_length=100)
    diameter: PrintMM = Field(gt=0, le=100)
    """Of the bought part, as measured."""
    depth: PrintMM = Field(gt=0, le=500)
    fit: PrintMM = Field(default=PrintMM(0.1), ge=-1, le=5)
    """Air per side (bench default)."""
    length: PrintMM | None = Field(default=None, gt=0, le=10_000)
    """As long as it is cut; None for what is set in whole, as deep as its pocket."""
    density: float = Field(default=0.0, ge=0, le=25)
    """Of the bought part, g/cm³."""
    pole: Pole | None = None
    """Of a magnet, which pole looks outward."""

    def change(self, part: Part, context: Context) -> tuple[Part, PocketReceipt]:
        factor = context["factor"]
        anchors, points, lost = landed(self.places, part)
        mesh, refusals, walls, inserts = scaled(part.mesh, factor), list[str](), [], list[Insert]()
        for anchor, point in zip(anchors, points, strict=True):
            way = np.array(anchor.normal)
            try:
                cut = cut_pocket(mesh, point * factor, way, self.diameter + 2 * self.fit, self.depth, self.pole)
            except CannotPocket as refusal:
                refusals.append(str(refusal))
                continue
            mesh = cut.mesh
            walls.append((cut.beside, cut.below))
            x, y, z = map(float, point - way * self.depth / 2 / factor)
            inserts.append(
                Insert(middle=(x, y, z), grams=self._grams, item=self.item, name=self.name, length=self.length)
            )
        told = PocketReceipt(refused=len(refusals), not_done=" ".join(dict.fromkeys(refusals)), lost=lost)
        if not walls:
            return part, told
        made = cleaned_cut(part.mesh, mesh, factor)
        changed = {
            "pockets": len(walls),
            "beside": min(beside for beside, _ in walls),
            "below": min(below for _, below in walls),
            "inserts": tuple(inserts),
            "volume_before": volume(part.mesh),
            "volume_after": volume(made),
        }
        return replace(part, mesh=made), told.model_copy(update=changed)

    @property
    def _grams(self) -> float:
        """What one of them weighs."""
        return float(np.pi / 4 * self.diameter**2 * (self.length or self.depth) * self.density / 1000)

    def sentence(self, receipt: PocketReceipt) -> Sentence:
        wide = Number(field="fit", value=self.fit, unit="mm")
        if not receipt.pockets:
            return (f"No pocket for {self.name}, fit ", wide, f" a side: {receipt.not_done or 'its place is lost'}.")
        refused = f" At {plural(receipt.refused, 'place')} none: {receipt.not_done}." if receipt.refused else ""
        outward = f", {self.pole} pole outward" if self.pole else ""
        left = min(value for value in (receipt.beside, receipt.below) if value is not None)
        return (
            f"Pocket for {self.name} at {plural(receipt.pockets, 'place')}, ",
            Number(field="depth", value=self.depth, unit="mm"),
            " deep, fit ",
            wide,
            f" a side{outward}; {spoken(PrintMM(left))} mm of wall left.{refused}",
        )
