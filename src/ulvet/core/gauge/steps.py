"""The steps of Gauge."""

from dataclasses import replace
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field
from scipy.spatial import cKDTree

from ulvet.core.gauge.cutting import CannotCut, Cut, blunted, drilled, limb_near, on_base, without_limb
from ulvet.core.gauge.thicken import thicken_walls
from ulvet.core.lengths import FigureMM, PrintMM, spoken
from ulvet.core.mesh import Mesh, Points, area, scaled, volume
from ulvet.core.recipe.anchors import Anchor, project_anchors
from ulvet.core.recipe.at_places import StepAtPlaces
from ulvet.core.recipe.step import (
    AnchoredStep,
    Context,
    Number,
    Part,
    Receipt,
    Sentence,
    Step,
    says,
)
from ulvet.core.stations import Station

__all__ = ["Accept", "BluntTip", "GrowBase", "Thicken", "WireForLimb"]

Accepted = Literal["thin-wall", "snap-risk", "tips-over"]
"""Findings that may be accepted: what they say is a risk that the maker may take."""


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
            part.mesh, self.wall.in_figure(factor), self.fade.in_figure(factor), places, self.reach
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


class _OnLimb(AnchoredStep, StepAtPlaces):
    """Work on the limb nearest to each place. What it does stays in mm whatever the size."""

    needs: ClassVar[tuple[str, ...]] = ("factor",)
    station: ClassVar[Station] = Station.GAUGE
    seconds_a_triangle: ClassVar[float] = 20e-6

    places: tuple[Anchor, ...] = Field(min_length=1, max_length=100)

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        factor = context["factor"]
        places, lost = project_anchors(self.places, part.mesh, part.name, part.source)
        mesh = scaled(part.mesh, factor)
        done, measures, refused = 0, {"length": 0.0, "depth": 0.0}, ""
        for place in places * factor:
            try:
                mesh, told = self.worked(mesh, place)
            except CannotCut as refusal:
                refused = str(refusal)
                continue
            done += 1
            measures = {name: max(value, told.get(name, 0.0)) for name, value in measures.items()}
        if not done:
            return part, Receipt(counts={"places": 0}, lost=lost, not_done=refused)
        made = _as_it_was(part.mesh, Mesh(mesh.vertices / factor, mesh.faces))
        receipt = Receipt(
            counts={"places": done},
            measures=measures,
            lost=lost,
            surface_removed=max(area(part.mesh) - area(made), 0.0),
            volume_before=volume(part.mesh),
            volume_after=volume(made),
            not_done=refused,
        )
        return replace(part, mesh=made), receipt

    def worked(self, mesh: Mesh, place: Points) -> tuple[Mesh, dict[str, float]]:
        """The figure after the work at one place, print mm, and what was measured. Raises CannotCut."""
        raise NotImplementedError


class BluntTip(_OnLimb):
    """Cut a tip off square where it gets thinner than it may be."""

    kind: Literal["blunt-tip"] = "blunt-tip"
    least: PrintMM = Field(gt=0, le=20)

    def worked(self, mesh: Mesh, place: Points) -> tuple[Mesh, dict[str, float]]:
        cut: Cut = blunted(mesh, limb_near(mesh, place), self.least)
        return cut.mesh, {"length": cut.length}

    def sentence(self, receipt: Receipt) -> Sentence:
        if not receipt.counts["places"]:
            return (f"Blunted nothing: {receipt.not_done or 'its place is lost'}.",)
        return (
            "Blunted to ",
            Number(field="least", value=self.least, unit="mm"),
            f" at {says(receipt.counts['places'], 'place')}, {spoken(receipt.measures['length'])} mm shorter.",
        )


class WireForLimb(_OnLimb):
    """Take a limb off and drill a hole for a wire in its place: the wire's diameter and the fit around it."""

    kind: Literal["wire-for-limb"] = "wire-for-limb"
    wire: PrintMM = Field(gt=0, le=20)
    fit: PrintMM = Field(default=PrintMM(0.05), ge=0, le=2)
    """Gap on each side, so that glue has room (bench default)."""
    depth: PrintMM = Field(default=PrintMM(4.0), gt=0, le=100)

    def worked(self, mesh: Mesh, place: Points) -> tuple[Mesh, dict[str, float]]:
        cut = without_limb(mesh, limb_near(mesh, place))
        made, depth = drilled(cut.mesh, cut.point, cut.way, self.wire + 2 * self.fit, self.depth)
        return made, {"length": cut.length + depth, "depth": depth}

    def sentence(self, receipt: Receipt) -> Sentence:
        if not receipt.counts["places"]:
            return (f"Replaced nothing by wire: {receipt.not_done or 'its place is lost'}.",)
        return (
            f"Took {says(receipt.counts['places'], 'limb')} off for a wire of ",
            Number(field="wire", value=self.wire, unit="mm"),
            ", with a gap of ",
            Number(field="fit", value=self.fit, unit="mm"),
            f" around it in a hole {spoken(receipt.measures['depth'])} mm deep; cut the wire "
            f"{spoken(receipt.measures['length'])} mm long.",
        )


class GrowBase(Step):
    """Stand a figure on a round base. It stays in mm whatever the size."""

    needs: ClassVar[tuple[str, ...]] = ("factor",)
    seconds_a_triangle: ClassVar[float] = 8e-6

    kind: Literal["grow-base"] = "grow-base"
    diameter: PrintMM = Field(gt=0, le=500)
    thickness: PrintMM = Field(default=PrintMM(3.0), gt=0, le=100)

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        factor = context["factor"]
        try:
            mesh = on_base(scaled(part.mesh, factor), self.diameter, self.thickness)
        except CannotCut as refusal:
            return part, Receipt(not_done=str(refusal))
        made = _as_it_was(part.mesh, Mesh(mesh.vertices / factor, mesh.faces))
        return replace(part, mesh=made), Receipt(
            surface_added=max(area(made) - area(part.mesh), 0.0),
            volume_before=volume(part.mesh),
            volume_after=volume(made),
        )

    def sentence(self, receipt: Receipt) -> Sentence:
        if receipt.not_done:
            return (f"Stood on no base: {receipt.not_done}.",)
        return (
            "Stood on a base ",
            Number(field="diameter", value=self.diameter, unit="mm"),
            " wide and ",
            Number(field="thickness", value=self.thickness, unit="mm"),
            " thick.",
        )


class Accept(Step):
    """Let a finding be: it stays in the record with the reason, and stops nothing. The figure is not changed.

    With a place it is of that place alone, within ``within`` mm of it; without one of all of its kind.
    """

    kind: Literal["accept"] = "accept"
    finding: Accepted
    reason: str = Field(min_length=3, max_length=300)
    place: tuple[FigureMM, FigureMM, FigureMM] | None = None
    within: FigureMM = Field(default=FigureMM(1.0), gt=0)

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        return part, Receipt()

    def sentence(self, receipt: Receipt) -> Sentence:
        where = "" if self.place else " everywhere"
        return (f"Accepted {self.finding.replace('-', ' ')}{where}: {self.reason.rstrip('.')}.",)


def _as_it_was(before: Mesh, after: Mesh) -> Mesh:
    """Vertices that only went to print size and back get their own coordinates again, to the last bit."""
    size = float(np.abs(before.vertices).max()) + 1
    away, which = cKDTree(before.vertices).query(after.vertices, distance_upper_bound=size * 1e-12)
    vertices = after.vertices.copy()
    same = np.isfinite(away)
    vertices[same] = before.vertices[which[same]]
    return Mesh(vertices, after.faces)
