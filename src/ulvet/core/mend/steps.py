"""The steps of Mend. None moves the surface that is right; each says what it changed."""

from dataclasses import replace
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field
from scipy.spatial import cKDTree

from ulvet.core.geometry.degenerate_faces import drop_faces
from ulvet.core.geometry.face_orientation import orient_faces
from ulvet.core.geometry.fans import without_nonmanifold
from ulvet.core.geometry.holes import close_holes
from ulvet.core.geometry.mesh import Mesh, area, volume
from ulvet.core.geometry.topology import without_unused_vertices
from ulvet.core.geometry.welding import weld_within
from ulvet.core.lengths import FigureMM
from ulvet.core.mend.diagnosis import diagnose
from ulvet.core.mend.shells import Loose
from ulvet.core.recipe.anchors import project_anchors
from ulvet.core.recipe.at_places import StepAtPlaces
from ulvet.core.recipe.receipt import Count, Receipt
from ulvet.core.recipe.step import Context, Number, Part, Sentence, Step, plural
from ulvet.core.tolerances import BENCH_TOLERANCES

__all__ = [
    "MOVED",
    "CloseHoles",
    "DropFaces",
    "DropShells",
    "LeaveOverlaps",
    "OrientFaces",
    "TakeApart",
    "Weld",
    "area_in_words",
    "with_mended_mesh",
]

MOVED = 5e-4
"""Millimetres under which what was kept counts as not moved (rounding of receipts)."""
_LOOSE = {
    "specks": ("speck", "that hung by nothing"),
    "inner-shells": ("shell", "inside others"),
    "sealed-void": ("cavity", "that nothing leads out of"),
}


class WeldReceipt(Receipt):
    """Loose corners that were joined."""

    joined: Count = 0


class Weld(Step):
    """Join vertices no farther apart than ``distance``."""

    makes: ClassVar[type[Receipt]] = WeldReceipt

    kind: Literal["weld"] = "weld"
    distance: FigureMM = Field(default=BENCH_TOLERANCES.weld, ge=0, le=5)

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        welded, joined = weld_within(part.mesh, self.distance)
        # A joined vertex lands on another one, at most the distance away where no chains form.
        return with_mended_mesh(part, welded, WeldReceipt(joined=joined), movement=float(self.distance))

    def sentence(self, receipt: WeldReceipt) -> Sentence:
        joined = plural(receipt.joined, "loose corner")
        return (f"Joined {joined} within ", Number(field="distance", value=self.distance, unit="mm"), ".")


class DropFacesReceipt(Receipt):
    """Faces without area, and doubles, that went."""

    zero_area: Count = 0
    doubled: Count = 0


class DropFaces(Step):
    """Drop faces without area and faces that are there twice."""

    makes: ClassVar[type[Receipt]] = DropFacesReceipt

    kind: Literal["drop-faces"] = "drop-faces"
    height: FigureMM = Field(default=BENCH_TOLERANCES.zero_area_height, ge=0, le=0.1)

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        mesh, counts = drop_faces(part.mesh, self.height)
        receipt = DropFacesReceipt(zero_area=counts["zero-area"], doubled=counts["doubled"])
        return with_mended_mesh(part, mesh, receipt, float(self.height))

    def sentence(self, receipt: DropFacesReceipt) -> Sentence:
        doubles = plural(receipt.doubled, "double")
        return (f"Dropped {plural(receipt.zero_area, 'face')} without area and {doubles}.",)


class OrientFacesReceipt(Receipt):
    """Faces turned to agree, shells turned outward, and shells that cannot agree with themselves."""

    against: Count = 0
    shells_inverted: Count = 0
    shells_twisted: Count = 0


class OrientFaces(Step):
    """Make every shell agree with itself and look outward."""

    makes: ClassVar[type[Receipt]] = OrientFacesReceipt

    kind: Literal["orient-faces"] = "orient-faces"

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        mesh, turned = orient_faces(part.mesh)
        receipt = OrientFacesReceipt(**{name.replace("-", "_"): count for name, count in turned.items()})
        return with_mended_mesh(part, mesh, receipt)

    def sentence(self, receipt: OrientFacesReceipt) -> Sentence:
        shells = plural(receipt.shells_inverted, "shell")
        return (f"Turned {plural(receipt.against, 'face')} to agree and {shells} outward.",)


class CloseHolesReceipt(Receipt):
    """Holes closed, and rims left open."""

    closed: Count = 0
    left: Count = 0


class CloseHoles(StepAtPlaces):
    """Close simple holes: all of them, those no wider than ``widest``, or those whose rims pass ``places``."""

    makes: ClassVar[type[Receipt]] = CloseHolesReceipt

    kind: Literal["close-holes"] = "close-holes"
    widest: FigureMM | None = Field(default=None, gt=0)
    faired: bool = True
    """Whether patches carry on the curvature of the surface round them; else they are flat."""

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        near, lost = project_anchors(self.places, part.mesh, part.name, part.source)
        if self.places and not len(near):
            return part, CloseHolesReceipt(lost=lost)
        mesh, counts = close_holes(part.mesh, self.widest, near if self.places else None, self.faired)
        return with_mended_mesh(part, mesh, CloseHolesReceipt(closed=counts["closed"], left=counts["left"], lost=lost))

    def sentence(self, receipt: CloseHolesReceipt) -> Sentence:
        closed = plural(receipt.closed, "hole")
        left = f"; {plural(receipt.left, 'rim')} left open" if receipt.left else ""
        return (f"Closed {closed}, {area_in_words(receipt.surface_added)} mm² invented{left}; nothing else moved.",)


class TakeApartReceipt(Receipt):
    """Corners that were taken apart."""

    parted: Count = 0


class TakeApart(Step):
    """Take apart what hangs together by an edge or a corner only; nothing moves."""

    makes: ClassVar[type[Receipt]] = TakeApartReceipt

    kind: Literal["take-apart"] = "take-apart"

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        made = without_nonmanifold(part.mesh)
        return with_mended_mesh(part, made, TakeApartReceipt(parted=len(made.vertices) - len(part.mesh.vertices)))

    def sentence(self, receipt: TakeApartReceipt) -> Sentence:
        return (f"Took {plural(receipt.parted, 'corner')} apart that held surfaces together by a point.",)


class DropShellsReceipt(Receipt):
    """Shells that went."""

    dropped: Count = 0


class DropShells(StepAtPlaces):
    """Drop shells of a kind that can go without the rest being touched: all of them, or those at ``places``."""

    seconds_a_triangle: ClassVar[float] = 1e-5
    makes: ClassVar[type[Receipt]] = DropShellsReceipt

    kind: Literal["drop-shells"] = "drop-shells"
    which: Loose

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        found = diagnose(part.mesh, 0.0)
        dropped = found.shells.loose(self.which)
        if self.places and len(dropped):
            corners = found.mesh.vertices[found.mesh.faces]
            own = np.isin(found.shells.of, dropped)
            nearest = cKDTree(corners[own].reshape(-1, 3)).query([anchor.point for anchor in self.places])[1] // 3
            dropped = np.unique(found.shells.of[own][nearest])
        kept = Mesh(found.mesh.vertices, found.mesh.faces[~np.isin(found.shells.of, dropped)])
        made = without_unused_vertices(kept) if len(dropped) else part.mesh
        return with_mended_mesh(part, made, DropShellsReceipt(dropped=len(dropped)))

    def sentence(self, receipt: DropShellsReceipt) -> Sentence:
        one, said = _LOOSE[self.which]
        dropped = plural(receipt.dropped, one, "cavities" if one == "cavity" else None)
        act = "Filled" if self.which == "sealed-void" else "Dropped"
        took = area_in_words(receipt.surface_removed)
        return (f"{act} {dropped} {said}, {took} mm² of surface; nothing else moved.",)


class LeaveOverlaps(Step):
    """Leave shells that overlap as they are, instead of having them merged.

    It is the other school: nothing of a sculpt is cut, and slicing merges what overlaps.
    """

    once: ClassVar[bool] = True
    seconds_a_triangle: ClassVar[float] = 0.0

    kind: Literal["leave-overlaps"] = "leave-overlaps"

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        return replace(part, overlaps_left=True), Receipt()

    def sentence(self, receipt: Receipt) -> Sentence:
        return (
            "Shells that overlap are left so: this relies on a slicer that fills whatever lies in any of them; weight, "
            "hollowing and walls count an overlap twice, and each shell must be sound by itself.",
        )


def area_in_words(mm2: float) -> str:
    """An area (mm²) with the digits that can be believed."""
    return f"{mm2:,.0f}" if mm2 >= 10 else f"{mm2:.2g}"


def with_mended_mesh(part: Part, mesh: Mesh, receipt: Receipt, movement: float = 0.0) -> tuple[Part, Receipt]:
    """A part with its mended mesh, and the receipt with what that changed; ``movement`` where anything was counted."""
    grown = area(mesh) - area(part.mesh)
    changed = {
        "surface_added": max(grown, 0.0),
        "surface_removed": max(-grown, 0.0),
        "greatest_movement": movement if receipt.worked else 0.0,
        "volume_before": volume(part.mesh),
        "volume_after": volume(mesh),
    }
    return replace(part, mesh=mesh), receipt.model_copy(update=changed)
