"""The steps of Hollow: making spaces, and saying that a part stays solid."""

from dataclasses import replace
from typing import ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field

from ulvet.core.geometry.mesh import area, scaled, volume
from ulvet.core.hollow.cut_cleanup import cleaned_cut
from ulvet.core.hollow.hollow_mesh import hollow_mesh
from ulvet.core.hollow.hollowing import CannotHollow, HollowRegion
from ulvet.core.lengths import FigureMM, PrintMM, spoken
from ulvet.core.recipe.anchors import Anchor, LostAnchor, project_anchors
from ulvet.core.recipe.receipt import Count, Greatest, Receipt, Total
from ulvet.core.recipe.step import Context, Number, Part, Phase, Sentence, Step, plural

__all__ = ["NARROWEST", "WALL", "Hollow", "HollowReceipt", "LeaveSolid", "RegionInside"]

WALL = PrintMM(2.0)
"""Wall of a shell in resin: 1.5 to 2.5 mm are usual (bench default)."""
NARROWEST = PrintMM(2.0)
"""Inside diameter under which a limb stays solid: resin hardly leaves a narrower one (bench default)."""


class RegionInside(BaseModel):
    """A ball about a place in which the inside is another: thicker, or solid where no wall is given. The ball grows
    with the figure, the wall stays in mm."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    place: Anchor
    radius: FigureMM = Field(gt=0)
    wall: PrintMM | None = Field(default=None, gt=0, le=20)


class HollowReceipt(Receipt):
    """Spaces made and what they save, ml of print; the pitch of their grid, print mm; whether that is coarser than a
    tenth of the wall, and how many parts were mended before."""

    spaces: Count = 0
    saved_ml: Total = 0.0
    pitch: Greatest = 0.0
    coarse: Count = 0
    mended: Count = 0


class Hollow(Step):
    """Make a part hollow. The wall stays in mm whatever the size, and the inside is made anew for it."""

    needs: ClassVar[tuple[str, ...]] = ("factor",)
    phase: ClassVar[Phase] = Phase.MAKE
    once: ClassVar[bool] = True
    makes_hollow: ClassVar[bool] = True
    seconds_a_triangle: ClassVar[float] = 8e-6
    makes: ClassVar[type[Receipt]] = HollowReceipt

    kind: Literal["hollow"] = "hollow"
    wall: PrintMM = Field(default=WALL, ge=0.3, le=20)
    narrowest: PrintMM = Field(default=NARROWEST, ge=0.5, le=50)
    regions: tuple[RegionInside, ...] = Field(default=(), max_length=100)

    def change(self, part: Part, context: Context) -> tuple[Part, HollowReceipt]:
        factor = context["factor"]
        regions, lost = self._regions(part, factor)
        try:
            made = hollow_mesh(scaled(part.mesh, factor), self.wall, self.narrowest, regions, context.progress)
        except CannotHollow as refusal:
            return part, HollowReceipt(lost=lost, not_done=f"{refusal}; nothing was changed")
        mesh = cleaned_cut(part.mesh, made.mesh, factor)
        return replace(part, mesh=mesh), HollowReceipt(
            spaces=len(made.spaces),
            saved_ml=made.saved / 1000,
            pitch=made.pitch,
            coarse=int(made.pitch > self.wall / 10 * (1 + 1e-9)),
            mended=int(made.mended),
            lost=lost,
            surface_added=area(mesh) - area(part.mesh),
            volume_before=volume(part.mesh),
            volume_after=volume(mesh),
        )

    def _regions(self, part: Part, factor: float) -> tuple[list[HollowRegion], tuple[LostAnchor, ...]]:
        found, lost = [], []
        for number, region in enumerate(self.regions):
            at, missing = project_anchors((region.place,), part.mesh, part.name, part.source)
            lost += [one.model_copy(update={"number": number}) for one in missing]
            found += [HollowRegion(point * factor, region.radius.printed(factor), region.wall) for point in at]
        return found, tuple(lost)

    def sentence(self, receipt: HollowReceipt) -> Sentence:
        if not receipt.spaces:
            return ("Stays solid with a wall of ", Number(field="wall", value=self.wall, unit="mm"),
                    f": {receipt.not_done}.")  # fmt: skip
        said = f"; {plural(receipt.spaces, 'space')}, saves {receipt.saved_ml:.1f} ml."
        if receipt.coarse:
            said += f" Drawn on a grid of {spoken(receipt.pitch)} mm, coarser than a tenth of the wall, for memory."
        if receipt.mended:
            said += " What crossed itself was mended first."
        if receipt.not_done:
            said += f" Not all of it: {receipt.not_done}."
        return (
            "Hollowed to ",
            Number(field="wall", value=self.wall, unit="mm"),
            ", nowhere narrower inside than ",
            Number(field="narrowest", value=self.narrowest, unit="mm"),
            self._regions_said() + said,
        )

    def _regions_said(self) -> str:
        solid = sum(region.wall is None for region in self.regions)
        thicker = len(self.regions) - solid
        said = f", solid at {plural(solid, 'place')}" if solid else ""
        return said + (f", thicker at {plural(thicker, 'place')}" if thicker else "")


class LeaveSolid(Step):
    """Say of a part that it is meant to be solid, so that nothing asks any more."""

    phase: ClassVar[Phase] = Phase.MAKE
    once: ClassVar[bool] = True

    kind: Literal["leave-solid"] = "leave-solid"

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        return part, Receipt()

    def sentence(self, receipt: Receipt) -> Sentence:
        return ("Stays solid, as was decided.",)
