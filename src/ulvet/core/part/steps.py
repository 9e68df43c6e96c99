"""The steps of Part that take parts apart."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
import shapely
from pydantic import Field, field_validator, model_validator
from scipy.spatial import cKDTree

from ulvet.core.geometry.mesh import Mesh, Points, bounds, concatenated, volume
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.part.caps import cap_in_plane, widths_of
from ulvet.core.part.cutting import CannotPart, PassesBy, parted_at_plane, shells_apart
from ulvet.core.recipe.anchors import Anchor, project_anchors
from ulvet.core.recipe.receipt import Count, LeastKnown, Receipt, Total
from ulvet.core.recipe.seams import Seam
from ulvet.core.recipe.stance import Vector, unit_vector
from ulvet.core.recipe.step import Context, Number, Part, Phase, Sentence, Step, plural

__all__ = ["SLIVER_MM3", "Cut", "CutBoxes", "CutReceipt", "SplitShells", "side_words"]

SLIVER_MM3 = 1.0
"""Cubic mm of print under which a piece is a sliver (bench default)."""
_MOST_BOXES = 4_000
"""Cells that a figure may be cut into."""


class CutReceipt(Receipt):
    """Pieces a cut made, of them slivers; the area of its joints and their narrowest place, print mm² and mm; and the
    spaces it opened at the joint."""

    pieces: Count = 0
    slivers: Count = 0
    missed: Count = 0
    joint_mm2: Total = 0.0
    narrowest: LeastKnown = None
    opened: Count = 0


class _Parting(Step):
    """A step that makes several parts of one."""

    needs: ClassVar[tuple[str, ...]] = ("factor",)
    phase: ClassVar[Phase] = Phase.MAKE
    divides: ClassVar[bool] = True
    makes_parts: ClassVar[bool] = True
    seconds_a_triangle: ClassVar[float] = 2e-6
    makes: ClassVar[type[Receipt]] = CutReceipt


class Cut(_Parting):
    """Cut parts by a plane: ``offset`` along ``normal`` from the figure's origin.

    With ``near`` only what hangs together beyond the plane at that place is cut off, as one limb of several.
    """

    kind: Literal["cut"] = "cut"
    normal: Vector = (0.0, 0.0, 1.0)
    """Out of what is left, into what is cut off; of length one."""
    offset: FigureMM = Field(ge=-1e6, le=1e6)
    near: Anchor | None = None
    sides: tuple[Annotated[str, Field(max_length=40)], Annotated[str, Field(max_length=40)]] = ("", "")
    """What the pieces beyond the plane and before it are called; from the plane's direction where it is not said."""

    @field_validator("normal")
    @classmethod
    def _unit(cls, value: Vector) -> Vector:
        return unit_vector(value) or (0.0, 0.0, 1.0)

    @model_validator(mode="after")
    def _call_sides(self) -> "Cut":
        if not all(self.sides):
            object.__setattr__(self, "sides", side_words(self.normal))
        return self

    def divide(self, part: Part, context: Context) -> tuple[tuple[Part, ...], CutReceipt]:
        factor, normal = context["factor"], np.array(self.normal)
        at: Points | None = None
        if self.near is not None:
            points, lost = project_anchors((self.near,), part.mesh, part.name, part.source)
            if lost:
                return (part,), CutReceipt(lost=lost, not_done="its place is lost", missed=1)
            at = points[0]
        try:
            made = parted_at_plane(part.mesh, normal * self.offset, normal, at)
        except PassesBy as refusal:
            # What one part of several is missed by is no news.
            return (part,), CutReceipt(missed=1, not_done=str(refusal) if self.scope else "")
        except CannotPart as refusal:
            return (part,), CutReceipt(missed=1, not_done=str(refusal))
        seams = [_seam(self.id, made.point, sign * normal) for sign in (-1, 1)]
        sides = ((made.beyond, seams[0], self.sides[0]), (made.rest, seams[1], self.sides[1]))
        pieces = [piece for meshes, seam, side in sides for piece in _numbered(meshes, (seam,), side)]
        parts = _pieces(part, [(mesh, seam, self.piece_name(part, word)) for mesh, seam, word in pieces])
        caps = [cap_in_plane(mesh, made.point, normal) for mesh in made.rest]
        outlines = [cap.outline for cap in caps if cap is not None]
        return parts, CutReceipt(
            pieces=len(parts),
            slivers=_slivers([mesh for mesh, _, _ in pieces], factor),
            joint_mm2=sum(one.area for one in outlines) * factor**2,
            narrowest=min((widths_of(one)[1] * factor for one in outlines), default=None),
            opened=sum(int(shapely.get_num_interior_rings(shapely.get_parts(one)).sum()) for one in outlines),
            volume_before=volume(part.mesh),
            volume_after=sum(volume(mesh) for mesh, _, _ in pieces),
        )

    def sentence(self, receipt: CutReceipt) -> Sentence:
        x, y, z = self.normal
        level = abs(z) > 1 - 1e-9
        how = "level" if level else f"along {x:.2f}, {y:.2f}, {z:.2f}"
        where = " of the figure up" if level else " of the figure from its origin"
        if not receipt.pieces:
            why = receipt.not_done or "The cut passes it by: move it until it goes through"
            return ("Cut nothing at ", Number(field="offset", value=self.offset, unit="mm"), f"{where}, {how}: {why}.")
        limb = ", one limb" if self.near else ""
        sliver = f", {plural(receipt.slivers, 'sliver')} among them" if receipt.slivers else ""
        narrow = "" if receipt.narrowest is None else f", {receipt.narrowest:.1f} mm at its narrowest"
        opened = f"; {plural(receipt.opened, 'hollow')} left open there" if receipt.opened else ""
        return (
            "Cut at ",
            Number(field="offset", value=self.offset, unit="mm"),
            f"{where}, {how}{limb}: {plural(receipt.pieces, 'part')}{sliver}, joint {receipt.joint_mm2:.0f} mm²"
            f"{narrow}{opened}.",
        )


class CutBoxes(_Parting):
    """Cut parts by the sides of boxes that stand in rows, each as large as a printer's room; ``offset`` moves them."""

    kind: Literal["cut-boxes"] = "cut-boxes"
    size: tuple[PrintMM, PrintMM, PrintMM]
    offset: tuple[PrintMM, PrintMM, PrintMM] = (PrintMM(0), PrintMM(0), PrintMM(0))
    """Of the first box's corner from the lowest corner of the part."""

    @field_validator("size")
    @classmethod
    def _are_boxes(cls, value: tuple[PrintMM, PrintMM, PrintMM]) -> tuple[PrintMM, PrintMM, PrintMM]:
        if min(value) < 5:
            raise ValueError("a box has sides of at least 5 mm")
        return value

    def divide(self, part: Part, context: Context) -> tuple[tuple[Part, ...], CutReceipt]:
        factor = context["factor"]
        low, high = bounds(part.mesh)
        cells = np.ceil(np.ptp([low, high], axis=0) * factor / np.array(self.size)) + 1
        if np.prod(cells) > _MOST_BOXES:
            return (part,), CutReceipt(missed=1, not_done="the boxes are too small for it: give larger ones")
        held: list[tuple[Mesh, tuple[Seam, ...], str]] = [(part.mesh, (), "box")]
        area, refused = 0.0, ""
        for axis, name in enumerate("xyz"):
            normal = np.eye(3)[axis]
            step, begin = self.size[axis] / factor, low[axis] + self.offset[axis] / factor
            begin -= np.ceil((begin - low[axis]) / step) * step
            planes = np.arange(begin + step, high[axis], step)
            cut: list[tuple[Mesh, tuple[Seam, ...], str]] = []
            for mesh, seams, word in held:
                left = (mesh, seams)
                for number, plane in enumerate(planes, 1):
                    try:
                        made = parted_at_plane(left[0], normal * plane, normal)
                    except PassesBy:
                        continue
                    except CannotPart as refusal:
                        refused = str(refusal)
                        continue
                    below, above = _seam(self.id, made.point, normal), _seam(self.id, made.point, -normal)
                    cut += _numbered(made.rest, (*left[1], below), f"{word}-{name}{number}")
                    area += sum(one.outline.area for m in made.rest if (one := cap_in_plane(m, made.point, normal)))
                    left = (concatenated(*made.beyond), (*left[1], above))
                cut += _numbered(shells_apart(left[0]), left[1], f"{word}-{name}{len(planes) + 1}")
            held = cut
        if len(held) == 1:
            return (part,), CutReceipt(missed=1, not_done=refused or "it fits one box as it is")
        parts = _pieces(part, [(mesh, seams, self.piece_name(part, word)) for mesh, seams, word in held])
        return parts, CutReceipt(
            pieces=len(parts),
            slivers=_slivers([one.mesh for one in parts], factor),
            joint_mm2=area * factor**2,
            not_done=refused,
            volume_before=volume(part.mesh),
            volume_after=sum(volume(one.mesh) for one in parts),
        )

    def sentence(self, receipt: CutReceipt) -> Sentence:
        wide, deep, tall = self.size
        boxes = f"boxes of {wide:g} x {deep:g} x {tall:g} mm"
        if not receipt.pieces:
            return (f"Cut nothing by {boxes}: {receipt.not_done or 'it fits one'}.",)
        return (f"Cut by {boxes}: {plural(receipt.pieces, 'part')}, joints {receipt.joint_mm2:.0f} mm².",)


class SplitShells(_Parting):
    """Make every shell that is separate already a part of its own; a cavity stays with what it lies in."""

    kind: Literal["split-shells"] = "split-shells"

    def divide(self, part: Part, context: Context) -> tuple[tuple[Part, ...], CutReceipt]:
        shells = shells_apart(part.mesh)
        if len(shells) < 2:
            return (part,), CutReceipt(missed=1, not_done="it is one shell")
        named = [(mesh, (), self.piece_name(part, f"shell-{k}")) for k, mesh in enumerate(shells, 1)]
        return _pieces(part, named), CutReceipt(pieces=len(shells), slivers=_slivers(shells, context["factor"]))

    def sentence(self, receipt: CutReceipt) -> Sentence:
        if not receipt.pieces:
            return (f"Took no shells apart: {receipt.not_done or 'there is one'}.",)
        return (f"Every shell a part of its own: {plural(receipt.pieces, 'part')}.",)


def side_words(normal: Sequence[float]) -> tuple[str, str]:
    """What lies beyond a plane and before it, in words, by the axis that the plane is most square to.

    >>> side_words((0, 0.2, -1))
    ('lower', 'upper')
    """
    axis = int(np.argmax(np.abs(normal)))
    high, low = (("right", "left"), ("back", "front"), ("upper", "lower"))[axis]
    return (high, low) if normal[axis] > 0 else (low, high)


def _seam(step: int, point: Points, normal: Points) -> Seam:
    x, y, z = (FigureMM(float(value)) for value in point)
    a, b, c = map(float, normal)
    return Seam(step=step, point=(x, y, z), normal=(a, b, c))


def _numbered(meshes: Sequence[Mesh], seams: tuple[Seam, ...], word: str) -> list[tuple[Mesh, tuple[Seam, ...], str]]:
    return [(mesh, seams, f"{word}-{k}" if k > 1 else word) for k, mesh in enumerate(meshes, 1)]


def _slivers(meshes: Sequence[Mesh], factor: float) -> int:
    return sum(volume(mesh) * factor**3 < SLIVER_MM3 for mesh in meshes)


def _pieces(part: Part, made: Sequence[tuple[Mesh, tuple[Seam, ...], str]]) -> tuple[Part, ...]:
    """Pieces of a part: each with those of its seams, keys and openings that came to lie on it."""
    openings = _shared(part.openings, [mesh for mesh, _, _ in made])
    keys = _shared(part.keys, [mesh for mesh, _, _ in made])
    found = []
    for number, (mesh, seams, name) in enumerate(made):
        kept = tuple(s for s in part.seams if cap_in_plane(mesh, np.array(s.point), np.array(s.normal)) is not None)
        piece = replace(
            part,
            name=name,
            mesh=mesh,
            supports=None,
            captured=None,
            frame=None,
            openings=openings[number],
            seams=(*kept, *seams),
            keys=keys[number],
            title="",
        )
        found.append(piece)
    return tuple(found)


def _shared(things: Sequence[Any], meshes: Sequence[Mesh]) -> list[tuple[Any, ...]]:
    """Each of some things that have a point with the mesh it is nearest to."""
    shared: list[list[Any]] = [[] for _ in meshes]
    trees = [cKDTree(mesh.vertices) for mesh in meshes] if things else []
    for thing in things:
        shared[int(np.argmin([tree.query(thing.point)[0] for tree in trees]))].append(thing)
    return [tuple(some) for some in shared]
