"""The steps of Hollow that let resin out of spaces, or leave no space there."""

from dataclasses import replace
from typing import Annotated, ClassVar, Literal

import manifold3d
import numpy as np
from pydantic import Field

from ulvet.core.geometry.mesh import Mesh, area, concatenated, flipped, scaled, volume
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.solids import CannotJoin, Solid, mesh_of, shells_of, solids_of
from ulvet.core.hollow.cut_cleanup import cleaned_cut
from ulvet.core.hollow.landing import landed
from ulvet.core.hollow.opening_cuts import CannotOpen, Drill, mouth_at, plug_for
from ulvet.core.hollow.opening_proposals import FRONT, LEAST_DIAMETER, propose_openings
from ulvet.core.hollow.spaces import Mouth, Space, lies_in, mouths_of, spaces_of
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.at_places import StepAtPlaces
from ulvet.core.recipe.openings import Opening
from ulvet.core.recipe.receipt import Count, Merge, Receipt, Total
from ulvet.core.recipe.step import AnchoredStep, Context, Number, Part, Phase, Sentence, plural
from ulvet.core.stations import Station

__all__ = ["FILLED_ML", "PLUG_GAP", "Drain", "FillSpaces", "Vent"]

PLUG_GAP = PrintMM(0.1)
"""Air per side of a plug that is pushed in (bench default)."""
FILLED_ML = 0.05
"""Millilitres up to which a space is filled rather than opened (bench default)."""


class DrainReceipt(Receipt):
    """Openings cut, plugs made for them, places at which none could be cut, and all places that were tried."""

    openings: Count = 0
    plugs: Count = 0
    refused: Count = 0
    found: Annotated[tuple[Anchor, ...], Merge.ALL] = ()


class _Drilling(AnchoredStep, StepAtPlaces):
    """A step that drills from places of the skin straight through the wall, along each place's own direction. Diameters
    stay in mm whatever the size."""

    needs: ClassVar[tuple[str, ...]] = ("factor",)
    station: ClassVar[Station] = Station.HOLLOW
    phase: ClassVar[Phase] = Phase.MAKE
    divides: ClassVar[bool] = True
    seconds_a_triangle: ClassVar[float] = 4e-6
    makes: ClassVar[type[Receipt]] = DrainReceipt

    places: tuple[Anchor, ...] = Field(default=(), max_length=100)
    diameter: PrintMM = Field(default=PrintMM(LEAST_DIAMETER), ge=0.5, le=50)
    plug: bool = False
    """Whether each opening gets a plug, a part of its own."""

    def spaces(self, mesh: Mesh, mouths: list[Mouth]) -> list[Space] | None:
        """The spaces it may lead into, of a mesh in print mm with these openings; None for whatever is there."""
        raise NotImplementedError

    def sought(
        self, part: Part, mesh: Mesh, spaces: list[Space], mouths: list[Mouth], context: Context
    ) -> tuple[Anchor, ...]:
        """Places for a step that was given none."""
        return ()

    def divide(self, part: Part, context: Context) -> tuple[tuple[Part, ...], Receipt]:
        factor = context["factor"]
        mesh = scaled(part.mesh, factor)
        mouths = mouths_of(part.openings, factor)
        spaces = self.spaces(mesh, mouths)
        places = self.places or self.sought(part, mesh, spaces or [], mouths, context)
        anchors, points, lost = landed(places, part)
        if spaces == []:
            return (part,), DrainReceipt(lost=lost, not_done="there is no space in it", refused=len(anchors))
        try:
            (solid,) = solids_of(mesh)
        except CannotJoin:
            return (part,), DrainReceipt(lost=lost, not_done="it does not close: mend it first", refused=len(anchors))
        rays, drills, refusals = Rays(mesh), list[Drill](), dict[str, int]()
        for anchor, point in zip(anchors, points, strict=True):
            try:
                drills.append(mouth_at(rays, spaces, point * factor, np.array(anchor.normal), self.diameter)[0])
            except CannotOpen as refusal:
                refusals[str(refusal)] = refusals.get(str(refusal), 0) + 1
        told = DrainReceipt(refused=sum(refusals.values()), not_done=" ".join(refusals), lost=lost, found=places)
        if not drills:
            return (part,), told
        made = _drilled(part.mesh, solid, drills, factor)
        openings = tuple(self._opening(drill.mouth, factor) for drill in drills)
        opened = replace(part, mesh=made, openings=(*part.openings, *openings))
        plugs = self._plugs(part, drills, mesh, factor) if self.plug else ()
        changed = {
            "openings": len(drills),
            "plugs": len(plugs),
            "surface_added": max(area(made) - area(part.mesh), 0.0),
            "volume_before": volume(part.mesh),
            "volume_after": volume(made),
        }
        return (opened, *plugs), told.model_copy(update=changed)

    def _opening(self, mouth: Mouth, factor: float) -> Opening:
        x, y, z = (FigureMM(float(value) / factor) for value in mouth.point)
        a, b, c = map(float, mouth.way)
        return Opening(
            point=(x, y, z), way=(a, b, c), diameter=PrintMM(mouth.diameter), wall=PrintMM(mouth.wall), step=self.id,
            plugged=self.plug,
        )  # fmt: skip

    def _plugs(self, part: Part, drills: list[Drill], mesh: Mesh, factor: float) -> tuple[Part, ...]:
        found = []
        for number, drill in enumerate(drills, 1):
            plug = plug_for(drill.mouth, PLUG_GAP, mesh)
            if len(plug.faces):
                named = self.piece_name(part, f"plug-{number}")
                found.append(Part(named, Mesh(plug.vertices / factor, plug.faces), source=part.source))
        return tuple(found)

    def sentence(self, receipt: DrainReceipt) -> Sentence:
        act = {"drain": "Opened", "vent": "Vented"}[self.kind]
        wide = Number(field="diameter", value=self.diameter, unit="mm")
        if not receipt.openings:
            return (f"{act} nothing, ", wide, f" wide: {receipt.not_done or 'its place is lost'}.")
        plugs = f", with {plural(receipt.plugs, 'plug')}" if receipt.plugs else ""
        refused = f" At {plural(receipt.refused, 'place')} none: {receipt.not_done}." if receipt.refused else ""
        return (f"{act} at {plural(receipt.openings, 'place')}, ", wide, f" wide{plugs}.{refused}")


class Drain(_Drilling):
    """Open a space, so that resin runs out of it and the wash gets in.

    Without places it seeks them, at the plate end and the film end of every sealed space as the figure stands upright,
    and writes down what it found.
    """

    needs: ClassVar[tuple[str, ...]] = ("factor", "show_side")
    makes_hollow: ClassVar[bool] = True

    kind: Literal["drain"] = "drain"

    def sought(
        self, part: Part, mesh: Mesh, spaces: list[Space], mouths: list[Mouth], context: Context
    ) -> tuple[Anchor, ...]:
        lacking = {number: (True, False) for number, space in enumerate(spaces) if space.sealed}
        show = np.array(context["show_side"] or FRONT)
        found = propose_openings(Rays(mesh), mesh, spaces, mouths, lacking, part.stance, show, self.diameter)
        mouths_found = [one.drill.mouth for one in found]
        return tuple(Anchor.at(one.point / context["factor"], one.way, part.source) for one in mouths_found)

    def written_down(self, receipt: DrainReceipt) -> "Drain":
        return self if self.places or not receipt.found else self.model_copy(update={"places": receipt.found})

    def spaces(self, mesh: Mesh, mouths: list[Mouth]) -> list[Space]:
        return spaces_of(mesh, mouths)


class Vent(_Drilling):
    """Let air through a wall at the plate end of a cup, so that it does not suck."""

    places: tuple[Anchor, ...] = Field(min_length=1, max_length=100)

    kind: Literal["vent"] = "vent"

    def spaces(self, mesh: Mesh, mouths: list[Mouth]) -> None:
        return None


class FillSpacesReceipt(Receipt):
    """Spaces filled, and the resin that takes, ml of print."""

    filled: Count = 0
    added_ml: Total = 0.0


class FillSpaces(StepAtPlaces):
    """Fill sealed spaces: those at ``places``, or without any all of at most ``most_ml``."""

    needs: ClassVar[tuple[str, ...]] = ("factor",)
    phase: ClassVar[Phase] = Phase.MAKE
    seconds_a_triangle: ClassVar[float] = 1e-6
    makes: ClassVar[type[Receipt]] = FillSpacesReceipt

    kind: Literal["fill-spaces"] = "fill-spaces"
    most_ml: float = Field(default=FILLED_ML, gt=0, le=10_000)

    def change(self, part: Part, context: Context) -> tuple[Part, FillSpacesReceipt]:
        factor = context["factor"]
        shells = shells_of(part.mesh)
        inner = [number for number, shell in enumerate(shells) if volume(shell) < 0]
        if self.places:
            filled = [n for n in inner if self._names(shells[n])]
        else:
            filled = [n for n in inner if -volume(shells[n]) * factor**3 <= 1000 * self.most_ml]
        if not filled:
            return part, FillSpacesReceipt(not_done="there is no such sealed space")
        made = concatenated(*(shell for number, shell in enumerate(shells) if number not in filled))
        return replace(part, mesh=made), FillSpacesReceipt(
            filled=len(filled),
            added_ml=-sum(volume(shells[n]) for n in filled) * factor**3 / 1000,
            surface_removed=area(part.mesh) - area(made),
            volume_before=volume(part.mesh),
            volume_after=volume(made),
        )

    def _names(self, shell: Mesh) -> bool:
        """Whether a place lies in a space, or nearest to it of all its own size away."""
        points = np.array([anchor.point for anchor in self.places], dtype=float)
        away = np.sqrt(((shell.vertices[:, None] - points[None]) ** 2).sum(axis=2)).min()
        reach = float(np.ptp(shell.vertices, axis=0).max())
        return bool(lies_in(flipped(shell), points).any() or away < 0.05 * reach)

    def sentence(self, receipt: FillSpacesReceipt) -> Sentence:
        if not receipt.filled:
            return (f"Filled nothing: {receipt.not_done}.",)
        return (f"Filled {plural(receipt.filled, 'sealed space')} with {receipt.added_ml:.2f} ml.",)


def _drilled(before: Mesh, solid: Solid, drills: list[Drill], factor: float) -> Mesh:
    """A mesh after drilling, in figure mm; vertices that stay keep their coordinates to the last bit."""
    tool = manifold3d.Manifold.batch_boolean([drill.body() for drill in drills], manifold3d.OpType.Add)
    made = mesh_of(solid.body - tool)[0]
    return cleaned_cut(before, made, factor)
