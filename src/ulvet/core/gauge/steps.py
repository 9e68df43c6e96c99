"""The steps of Gauge."""

from dataclasses import replace
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from ulvet.core.gauge.balance.balance import STEEL, balance_of, weighed
from ulvet.core.gauge.limbs.cutting import CannotCut, Cut, blunted, drilled, limb_near, on_base, without_limb
from ulvet.core.gauge.thickening.thicken import thicken_walls
from ulvet.core.gauge.walls.remeasure import REACHED, thinnest_near
from ulvet.core.geometry.mesh import Mesh, Points, area, scaled, volume
from ulvet.core.geometry.precision import with_own_vertices
from ulvet.core.lengths import FigureMM, PrintMM, spoken
from ulvet.core.recipe.anchors import Anchor, project_anchors
from ulvet.core.recipe.at_places import StepAtPlaces
from ulvet.core.recipe.receipt import Count, Greatest, Insert, LeastKnown, Receipt
from ulvet.core.recipe.step import AnchoredStep, Context, Number, Part, Sentence, Step, plural
from ulvet.core.stations import Station

__all__ = ["FADE", "Accepted", "BluntTip", "GrowBase", "Thicken", "WireForLimb"]

Accepted = Literal[
    "thin-wall", "snap-risk", "tips-over", "sealed-void", "drains-badly", "trapped-resin", "cup", "pocket-thin"
]
"""Findings that may be accepted: what they say is a risk that the maker may take."""


FADE = PrintMM(2.0)
"""Over which added wall goes over into the surface (bench default)."""


class ThickenReceipt(Receipt):
    """Vertices moved, places worked on, and the thinnest wall that was left under what was asked, print mm."""

    vertices: Count = 0
    places: Count = 0
    wall_least: LeastKnown = None


class Thicken(AnchoredStep):
    """Bring thin walls near some places to a wall that prints. The wall stays in mm whatever the size."""

    needs: ClassVar[tuple[str, ...]] = ("factor",)

    station: ClassVar[Station] = Station.GAUGE
    seconds_a_triangle: ClassVar[float] = 80e-6
    makes: ClassVar[type[Receipt]] = ThickenReceipt

    kind: Literal["thicken"] = "thicken"
    wall: PrintMM = Field(gt=0, le=20)
    fade: PrintMM = Field(default=FADE, gt=0, le=50)
    reach: FigureMM = Field(gt=0)

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        factor = context["factor"]
        places, lost = project_anchors(self.places, part.mesh, part.name, part.source)
        if not len(places):
            return part, ThickenReceipt(lost=lost)
        wall = self.wall.in_figure(factor)
        mesh, vertices, movement = thicken_walls(part.mesh, wall, self.fade.in_figure(factor), places, self.reach)
        grown = area(mesh) - area(part.mesh)
        left = thinnest_near(mesh, wall * REACHED, places, self.reach) if vertices else None
        receipt = ThickenReceipt(
            vertices=vertices,
            places=len(places),
            wall_least=None if left is None else left * factor,
            lost=lost,
            surface_added=max(grown, 0.0),
            surface_removed=max(-grown, 0.0),
            greatest_movement=movement,
            volume_before=volume(part.mesh),
            volume_after=volume(mesh),
        )
        return replace(part, mesh=mesh), receipt

    def sentence(self, receipt: ThickenReceipt) -> Sentence:
        return (
            "Thickened to ",
            Number(field="wall", value=self.wall, unit="mm"),
            f" at {plural(receipt.places, 'place')}, fading over ",
            Number(field="fade", value=self.fade, unit="mm"),
            _again(receipt.wall_least, self.wall) if receipt.vertices else "; nothing there is thinner.",
        )


class OnLimbReceipt(Receipt):
    """Limbs worked on: how long what was cut off was, how deep a hole is, and the thinnest wall left, print mm."""

    places: Count = 0
    length: Greatest = 0.0
    depth: Greatest = 0.0
    wall_least: LeastKnown = None


class _OnLimb(AnchoredStep, StepAtPlaces):
    """Work on the limb nearest to each place. What it does stays in mm whatever the size."""

    needs: ClassVar[tuple[str, ...]] = ("factor",)
    station: ClassVar[Station] = Station.GAUGE
    seconds_a_triangle: ClassVar[float] = 20e-6
    makes: ClassVar[type[Receipt]] = OnLimbReceipt

    places: tuple[Anchor, ...] = Field(min_length=1, max_length=100)

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        factor = context["factor"]
        places, lost = project_anchors(self.places, part.mesh, part.name, part.source)
        mesh = scaled(part.mesh, factor)
        refused = ""
        done: list[OnLimbReceipt] = []
        for place in places * factor:
            try:
                mesh, measured = self.worked(mesh, place)
            except CannotCut as refusal:
                refused = str(refusal)
                continue
            done.append(measured)
        if not done:
            return part, OnLimbReceipt(lost=lost, not_done=refused)
        made = with_own_vertices(part.mesh, Mesh(mesh.vertices / factor, mesh.faces))
        together = OnLimbReceipt.together(done)
        changed = {
            "lost": lost,
            "surface_removed": max(area(part.mesh) - area(made), 0.0),
            "volume_before": volume(part.mesh),
            "volume_after": volume(made),
            "not_done": refused,
            "inserts": tuple(
                one.model_copy(update={"middle": _point(np.array(one.middle) / factor)}) for one in together.inserts
            ),
        }
        return replace(part, mesh=made), together.model_copy(update=changed)

    def worked(self, mesh: Mesh, place: Points) -> tuple[Mesh, OnLimbReceipt]:
        """The figure after the work at one place, and what was measured and put into it, all in print mm.

        Raises CannotCut.
        """
        raise NotImplementedError


class BluntTip(_OnLimb):
    """Cut a tip off square where it gets thinner than it may be."""

    kind: Literal["blunt-tip"] = "blunt-tip"
    least: PrintMM = Field(gt=0, le=20)

    def worked(self, mesh: Mesh, place: Points) -> tuple[Mesh, OnLimbReceipt]:
        cut: Cut = blunted(mesh, limb_near(mesh, place), self.least)
        left = thinnest_near(cut.mesh, self.least * REACHED, cut.point[None], 3 * self.least)
        return cut.mesh, OnLimbReceipt(places=1, length=cut.length, wall_least=left)

    def sentence(self, receipt: OnLimbReceipt) -> Sentence:
        if not receipt.places:
            return (f"Blunted nothing: {receipt.not_done or 'its place is lost'}.",)
        return (
            "Blunted to ",
            Number(field="least", value=self.least, unit="mm"),
            f" at {plural(receipt.places, 'place')}, {spoken(receipt.length)} mm shorter",
            _again(receipt.wall_least, self.least),
        )


class WireForLimb(_OnLimb):
    """Take a limb off and drill a hole for a wire in its place: the wire's diameter and the fit around it."""

    kind: Literal["wire-for-limb"] = "wire-for-limb"
    wire: PrintMM = Field(gt=0, le=20)
    fit: PrintMM = Field(default=PrintMM(0.05), ge=0, le=2)
    """Gap on each side, so that glue has room (bench default)."""
    depth: PrintMM = Field(default=PrintMM(4.0), gt=0, le=100)

    def worked(self, mesh: Mesh, place: Points) -> tuple[Mesh, OnLimbReceipt]:
        cut = without_limb(mesh, limb_near(mesh, place))
        made, depth = drilled(cut.mesh, cut.point, cut.way, self.wire + 2 * self.fit, self.depth)
        length = cut.length + depth
        grams = float(np.pi / 4 * self.wire**2 * length * STEEL / 1000)
        wire = Insert(middle=_point(cut.point + cut.way * (cut.length - depth) / 2), grams=grams)
        return made, OnLimbReceipt(places=1, length=length, depth=depth, inserts=(wire,))

    def sentence(self, receipt: OnLimbReceipt) -> Sentence:
        if not receipt.places:
            return (f"Replaced nothing by wire: {receipt.not_done or 'its place is lost'}.",)
        return (
            f"Took {plural(receipt.places, 'limb')} off for a wire of ",
            Number(field="wire", value=self.wire, unit="mm"),
            ", with a gap of ",
            Number(field="fit", value=self.fit, unit="mm"),
            f" around it in a hole {spoken(receipt.depth)} mm deep; cut the wire {spoken(receipt.length)} mm long.",
        )


class GrowBaseReceipt(Receipt):
    """Degrees from which it tips over."""

    tip_angle: LeastKnown = None


class GrowBase(Step):
    """Stand a figure on a round base. It stays in mm whatever the size."""

    needs: ClassVar[tuple[str, ...]] = ("factor", "setup.material.density", "inserts")
    seconds_a_triangle: ClassVar[float] = 8e-6
    makes: ClassVar[type[Receipt]] = GrowBaseReceipt

    kind: Literal["grow-base"] = "grow-base"
    diameter: PrintMM = Field(gt=0, le=500)
    thickness: PrintMM = Field(default=PrintMM(3.0), gt=0, le=100)

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        factor = context["factor"]
        try:
            mesh = on_base(scaled(part.mesh, factor), self.diameter, self.thickness)
        except CannotCut as refusal:
            return part, GrowBaseReceipt(not_done=str(refusal))
        made = with_own_vertices(part.mesh, Mesh(mesh.vertices / factor, mesh.faces))
        stands = weighed(balance_of(mesh, context["setup"].material.density), context["inserts"], factor)
        return replace(part, mesh=made), GrowBaseReceipt(
            tip_angle=stands.tip_angle if stands else None,
            surface_added=max(area(made) - area(part.mesh), 0.0),
            volume_before=volume(part.mesh),
            volume_after=volume(made),
        )

    def sentence(self, receipt: GrowBaseReceipt) -> Sentence:
        if receipt.not_done:
            return (f"Stood on no base: {receipt.not_done}.",)
        return (
            "Stood on a base ",
            Number(field="diameter", value=self.diameter, unit="mm"),
            " wide and ",
            Number(field="thickness", value=self.thickness, unit="mm"),
            " thick."
            if receipt.tip_angle is None
            else f" thick; measured again, it tips over from {receipt.tip_angle:.0f}°.",
        )


def _point(at: Points) -> tuple[float, float, float]:
    x, y, z = map(float, at)
    return x, y, z


def _again(left: float | None, wanted: PrintMM) -> str:
    """What the walls at a place are after the work, as they were measured again; thinner by rounding is not thinner."""
    if left is None:
        return f"; measured again, nothing there is under {spoken(wanted)} mm."
    return f"; measured again, {spoken(left)} mm is left."
