"""The steps that make an object of a scan.

Those that change what belongs to it come before the edition's size is fixed; those that only better its surface shape
it like any other step.
"""

from collections.abc import Callable
from typing import ClassVar, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, field_validator

from ulvet.core.blob_hash import BlobHash
from ulvet.core.geometry.mesh import Mesh, area, bounds, volume
from ulvet.core.geometry.placement import placement_of
from ulvet.core.lengths import FigureMM, PrintMM, spoken
from ulvet.core.progress import progress_within
from ulvet.core.recipe.anchors import Anchor, project_anchors
from ulvet.core.recipe.receipt import Receipt
from ulvet.core.recipe.set_down import set_down
from ulvet.core.recipe.stance import Vector, turn_to, unit_vector
from ulvet.core.recipe.step import Context, Number, Part, Phase, Sentence, Step, StepResult, plural
from ulvet.core.scan.fusion import fuse_points, pitch_for, without_outliers
from ulvet.core.scan.receipts import (
    CutReceipt,
    FuseReceipt,
    SetLengthsReceipt,
    SetUprightReceipt,
)
from ulvet.core.scan.registration import register_passes
from ulvet.core.scan.remeshing import seat_rims, without_ears
from ulvet.core.scan.trimming import Volume, cut_by_plane, find_stem, trimmed, without_specks
from ulvet.core.sources.scan import NothingToFuse, Scan

__all__ = [
    "MOST_TRIANGLES",
    "CaliperLength",
    "FusePasses",
    "SetLengths",
    "SetUpright",
    "TakeOffMount",
    "Trim",
    "scan_steps",
]

MOST_TRIANGLES = 1e7
"""Triangles that remeshing makes at most, for memory."""
_SEATED = 0.12
"""Of the height: a rim that ends no farther above the table is one it sits on (bench default)."""

Place = tuple[FigureMM, FigureMM, FigureMM]


class FusePasses(Step):
    """Make the surface anew from the passes of a scan, each moved onto the others first."""

    needs: ClassVar[tuple[str, ...]] = ("sources", "read_as")
    phase: ClassVar[Phase] = Phase.SOURCE
    rank: ClassVar[int] = 1
    once: ClassVar[bool] = True
    by_part: ClassVar[bool] = False
    places_figure: ClassVar[bool] = True
    seconds_a_triangle: ClassVar[float] = 60e-6

    makes: ClassVar[type[Receipt]] = FuseReceipt

    kind: Literal["fuse-passes"] = "fuse-passes"
    scan: BlobHash
    """Hash of the passes."""
    pitch: FigureMM | None = Field(default=None, gt=0, le=50)
    """Grid on which the surface is drawn; None takes a 210th of the longest side."""
    refine: bool = True
    """Whether passes are moved onto each other, or the turntable's angle is believed."""

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        scan, read = context["sources"][self.scan], context["read_as"]
        placement = placement_of(context["sources"][read.source], read.unit, read.up)
        try:
            registered = register_passes(scan, self.refine, progress_within(context.progress, 0.0, 0.4))
            pitch = pitch_for(registered.points) if self.pitch is None else self.pitch / placement.unit_mm
            points, normals, dropped = without_outliers(registered.points, registered.normals, pitch)
            mesh = placement.placed(fuse_points(points, normals, pitch, progress_within(context.progress, 0.45, 0.5)))
        except NothingToFuse as refusal:
            return StepResult(parts, FuseReceipt(idle=True, not_done=str(refusal)))
        receipt = FuseReceipt(
            passes=len(scan.passes),
            points=scan.count,
            outliers=dropped,
            triangles=len(mesh.faces),
            residual_mm=registered.residual,
            by_table_mm=registered.by_table,
            pitch_mm=pitch * placement.unit_mm,
            noise_mm=scan.noise,
            greatest_movement=registered.moved,
            volume_before=sum(volume(part.mesh) for part in parts),
            volume_after=volume(mesh),
        )
        none = np.empty((0, 3), np.int32)
        captured = Mesh(placement.placed(Mesh(points, none)).vertices, none)
        return StepResult((Part("figure", mesh, source=read.source, captured=captured),), receipt)

    def sentence(self, receipt: FuseReceipt) -> Sentence:
        return (
            f"Fused {plural(receipt.passes, 'pass', 'passes')} of {receipt.points:,} points on a grid of ",
            Number(field="pitch", value=round(receipt.pitch_mm, 3), unit="mm"),
            f"; they agree to {receipt.residual_mm:.3f} mm, by the turntable alone to {receipt.by_table_mm:.3f} mm; "
            f"{plural(receipt.outliers, 'stray point')} left out.",
        )


def scan_steps(scan: Scan, fused: Mesh) -> tuple[Step, ...]:
    """What every scan wants first: its passes fused anew instead of the device's ``fused`` mesh, and the turntable put
    beneath them."""
    lift = placement_of(fused, "mm", "z").lift
    ups = tuple(map(float, scan.axis))
    table = tuple(FigureMM(v) for v in scan.table - lift)
    return (
        FusePasses(scan=scan.hash),
        SetUpright(up=(ups[0], ups[1], ups[2]), table=(table[0], table[1], table[2])),
    )


class _Placed(Step):
    """A step on what was brought in, after which the size of the edition is fixed anew."""

    phase: ClassVar[Phase] = Phase.SOURCE
    rank: ClassVar[int] = 2
    by_part: ClassVar[bool] = False
    places_figure: ClassVar[bool] = True


class SetUpright(_Placed):
    """Turn everything so that a direction points up; given as one, or as three picks of a level place.

    With a ``table``, a point of it before the turn, rims that end just above it are carried down onto it.
    """

    makes: ClassVar[type[Receipt]] = SetUprightReceipt

    kind: Literal["right-axis"] = "right-axis"
    once: ClassVar[bool] = True
    up: Vector | None = None
    picks: tuple[Anchor, ...] = Field(default=(), max_length=3)
    table: Place | None = None

    @field_validator("up")
    @classmethod
    def _unit(cls, value: Vector | None) -> Vector | None:
        return unit_vector(value)

    @field_validator("picks")
    @classmethod
    def _three(cls, value: tuple[Anchor, ...]) -> tuple[Anchor, ...]:
        if len(value) not in (0, 3):
            raise ValueError("A level place takes three picks.")
        return value

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        up = self._direction()
        if up is None:
            return StepResult(parts, SetUprightReceipt(idle=True, not_done="the three picks lie in one line"))
        turn = turn_to(up)
        meshes = [Mesh(part.mesh.vertices @ turn.T, part.mesh.faces) for part in parts]
        angle = float(np.degrees(np.arccos(np.clip(up[2], -1, 1))))
        seated, added = 0, 0.0
        if self.table is not None:
            ground = float(turn[2] @ np.array(self.table, float))
            for k, mesh in enumerate(meshes):
                reach = _SEATED * float(np.ptp(mesh.vertices[:, 2]))
                meshes[k], rims = seat_rims(without_ears(mesh), ground, reach)
                seated += rims
                added += max(area(meshes[k]) - area(mesh), 0.0)
        receipt = SetUprightReceipt(seated=seated, turned_degrees=angle, surface_added=added)
        return set_down(parts, meshes, receipt, turn)

    def _direction(self) -> np.ndarray[tuple[int], np.dtype[np.float64]] | None:
        if self.up is not None:
            return np.array(self.up)
        if not self.picks:
            return np.array([0.0, 0, 1])
        a, b, c = (np.array(pick.point, float) for pick in self.picks)
        across = np.cross(b - a, c - a)
        length = float(np.linalg.norm(across))
        if length < 1e-6 * max(float(np.linalg.norm(b - a)), float(np.linalg.norm(c - a)), 1e-9) ** 2:
            return None
        # The side that was picked looks down where it is what the figure stands on.
        looks = np.mean([pick.normal for pick in self.picks if pick.normal] or [(0.0, 0.0, -1.0)], axis=0)
        up = across / length
        return up if looks @ up <= 0 else -up

    def sentence(self, receipt: SetUprightReceipt) -> Sentence:
        whence = "by the turntable" if self.table else "by three picks" if self.picks else "as it was pointed at"
        seat = (
            f"; its underside carried down to it, {receipt.surface_added:,.0f} mm² invented" if receipt.seated else ""
        )
        return (f"Set upright {whence}: turned by {receipt.turned_degrees:.1f}°{seat}.",)


class Trim(_Placed):
    """Cut away what lies inside a plane, box or lasso, or outside it; left open there."""

    makes: ClassVar[type[Receipt]] = CutReceipt

    kind: Literal["trim"] = "trim"
    volume: Volume
    inside: bool = True

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        return _cut(parts, lambda mesh: trimmed(mesh, self.volume, self.inside))

    def sentence(self, receipt: CutReceipt) -> Sentence:
        side = "what is inside" if self.inside else "what is outside"
        removed = f"{receipt.surface_removed:,.0f} mm² taken away"
        return (f"Trimmed away {side} a {self.volume.volume}: {removed}.",)


class TakeOffMount(_Placed):
    """Cut off the stem an object was held by, at a height over the ground; found where none is given."""

    makes: ClassVar[type[Receipt]] = CutReceipt

    kind: Literal["take-off-mount"] = "take-off-mount"
    once: ClassVar[bool] = True
    height: FigureMM | None = Field(default=None, gt=0)

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        height = self.height
        if height is None:
            stems = [stem for part in parts if (stem := find_stem(part.mesh))]
            if not stems:
                return StepResult(parts, CutReceipt(idle=True, not_done="nothing looks like a stem it was held by"))
            height = max(stem.top for stem in stems)
        ground = min(bounds(part.mesh)[0, 2] for part in parts)
        plane = np.array([0, 0, ground + height])

        def above(mesh: Mesh) -> Mesh:
            return without_specks(cut_by_plane(mesh, plane, np.array([0.0, 0, 1])))[0]

        done = _cut(parts, above)
        receipt = done.receipt.model_copy(update={"height_mm": float(height)})
        return StepResult(done.parts, receipt)

    def sentence(self, receipt: CutReceipt) -> Sentence:
        return (
            "Mount taken off ",
            Number(field="height", value=round(receipt.height_mm, 2), unit="mm"),
            f" above the ground: {receipt.surface_removed:,.0f} mm² taken away.",
        )


def _cut(parts: tuple[Part, ...], cut: Callable[[Mesh], Mesh]) -> StepResult:
    meshes = [cut(part.mesh) for part in parts]
    left = [(part, mesh) for part, mesh in zip(parts, meshes, strict=True) if len(mesh.faces)]
    if not left:
        return StepResult(parts, CutReceipt(idle=True, not_done="that would leave nothing of it"))
    gone = sum(area(part.mesh) for part in parts) - sum(area(mesh) for mesh in meshes)
    receipt = CutReceipt(
        surface_removed=max(gone, 0.0),
        triangles=sum(len(mesh.faces) for mesh in meshes),
        volume_before=sum(volume(part.mesh) for part in parts),
        volume_after=sum(volume(mesh) for mesh in meshes),
    )
    return set_down(tuple(part for part, _ in left), [mesh for _, mesh in left], receipt)


class CaliperLength(BaseModel):
    """A length measured with calipers on the object itself, between two points picked on its scan."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    name: str = Field(default="a length", max_length=80)
    a: Anchor
    b: Anchor
    real: PrintMM = Field(gt=0, le=100_000)


class SetLengths(_Placed):
    """Set the true size of an object by lengths measured on it; of several the best fit, and how far they disagree."""

    rank: ClassVar[int] = 3
    once: ClassVar[bool] = True

    makes: ClassVar[type[Receipt]] = SetLengthsReceipt

    kind: Literal["set-lengths"] = "set-lengths"
    lengths: tuple[CaliperLength, ...] = Field(min_length=1, max_length=50)

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        lost = []
        has, real = [], []
        for length in self.lengths:
            ends = []
            for anchor in (length.a, length.b):
                tries = [project_anchors((anchor,), part.mesh, part.name, part.source) for part in parts]
                landed = [points[0] for points, _ in tries if len(points)]
                if landed:
                    ends.append(min(landed, key=lambda at: float(np.linalg.norm(at - np.array(anchor.point)))))
                else:
                    lost.append(tries[0][1][0])
            if len(ends) == 2 and (span := float(np.linalg.norm(ends[0] - ends[1]))) > 0:
                has.append(span)
                real.append(float(length.real))
        if not has:
            return StepResult(parts, SetLengthsReceipt(lost=tuple(lost), not_done="no length landed on it"))
        ours, theirs = np.array(has), np.array(real)
        # Least squares of the relative errors: a short length is measured as well as a long one.
        ratios = theirs / ours
        factor = float(ratios.sum() / len(ratios))
        worst = float(np.abs(ratios / factor - 1).max())
        meshes = [Mesh(part.mesh.vertices * factor, part.mesh.faces) for part in parts]
        receipt = SetLengthsReceipt(
            lengths=len(ours),
            factor=factor,
            disagreement=worst,
            lost=tuple(lost),
            volume_before=sum(volume(part.mesh) for part in parts),
            volume_after=sum(volume(mesh) for mesh in meshes),
        )
        return set_down(parts, meshes, receipt, factor=factor)

    def sentence(self, receipt: SetLengthsReceipt) -> Sentence:
        if not receipt.lengths:
            return (f"Size by calipers: {receipt.not_done}.",)
        apart = f"; they disagree by {receipt.disagreement * 100:.2f} %" if receipt.lengths > 1 else ""
        named = ", ".join(f"{length.name} {spoken(length.real)} mm" for length in self.lengths[:3])
        return (f"Size set by {named}: {(receipt.factor - 1) * 100:+.2f} %{apart}.",)
