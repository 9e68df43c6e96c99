"""The steps of Mend. None moves the surface that is right; each says what it changed."""

from collections.abc import Callable
from dataclasses import replace
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field
from scipy.spatial import cKDTree

from ulvet.core.lengths import FigureMM
from ulvet.core.mend.diagnosis import diagnose
from ulvet.core.mend.faces import drop_faces
from ulvet.core.mend.holes import close_holes
from ulvet.core.mend.mending import CannotMend, Method, grid_of, mend
from ulvet.core.mend.methods import TANGLE
from ulvet.core.mend.parting import parted
from ulvet.core.mend.shells import Loose
from ulvet.core.mend.spots import mend_spot
from ulvet.core.mend.untangling import TooWide
from ulvet.core.mend.winding import orient_faces
from ulvet.core.mesh import Mesh, area, volume
from ulvet.core.recipe.anchors import Anchor, project_anchors
from ulvet.core.recipe.at_places import StepAtPlaces
from ulvet.core.recipe.step import (
    Context,
    Number,
    Part,
    Receipt,
    Sentence,
    Step,
    says,
)
from ulvet.core.solids import CannotJoin
from ulvet.core.tolerances import BENCH_TOLERANCES
from ulvet.core.topology import without_loose
from ulvet.core.welding import weld_within

__all__ = [
    "CloseHoles",
    "DropFaces",
    "DropShells",
    "LeaveOverlaps",
    "MendPlace",
    "MendWhole",
    "OrientFaces",
    "TakeApart",
    "Weld",
]

_MOVED = 5e-4
_LOOSE = {
    "specks": ("speck", "that hung by nothing"),
    "inner-shells": ("shell", "inside others"),
    "sealed-void": ("cavity", "that nothing leads out of"),
}


class Weld(Step):
    """Join vertices no farther apart than ``distance``."""

    kind: Literal["weld"] = "weld"
    distance: FigureMM = Field(default=BENCH_TOLERANCES.weld, ge=0, le=5)

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        def weld(mesh: Mesh) -> tuple[Mesh, dict[str, int]]:
            welded, joined = weld_within(mesh, self.distance)
            return welded, {"joined": joined}

        # A joined vertex lands on another one, at most the distance away where no chains form.
        return _mended(part, weld, movement=float(self.distance))

    def sentence(self, receipt: Receipt) -> Sentence:
        joined = says(receipt.counts["joined"], "loose corner")
        return (f"Joined {joined} within ", Number(field="distance", value=self.distance, unit="mm"), ".")


class DropFaces(Step):
    """Drop faces without area and faces that are there twice."""

    kind: Literal["drop-faces"] = "drop-faces"
    height: FigureMM = Field(default=BENCH_TOLERANCES.zero_area_height, ge=0, le=0.1)

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        return _mended(part, lambda mesh: drop_faces(mesh, self.height), float(self.height))

    def sentence(self, receipt: Receipt) -> Sentence:
        flat, twice = receipt.counts["zero-area"], receipt.counts["doubled"]
        return (f"Dropped {says(flat, 'face')} without area and {says(twice, 'double')}.",)


class OrientFaces(Step):
    """Make every shell agree with itself and look outward."""

    kind: Literal["orient-faces"] = "orient-faces"

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        return _mended(part, orient_faces)

    def sentence(self, receipt: Receipt) -> Sentence:
        against, shells = receipt.counts["against"], receipt.counts["shells-inverted"]
        return (f"Turned {says(against, 'face')} to agree and {says(shells, 'shell')} outward.",)


class CloseHoles(StepAtPlaces):
    """Close simple holes: all of them, those no wider than ``widest``, or those whose rims pass ``places``."""

    kind: Literal["close-holes"] = "close-holes"
    widest: FigureMM | None = Field(default=None, gt=0)
    faired: bool = True
    """Whether patches carry on the curvature of the surface round them; else they are flat."""

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        if not self.places:
            return _mended(part, lambda mesh: close_holes(mesh, self.widest, faired=self.faired))
        near, lost = project_anchors(self.places, part.mesh, part.name, part.source)
        if not len(near):
            return part, Receipt(counts={"closed": 0, "left": 0}, lost=lost)
        changed, receipt = _mended(part, lambda mesh: close_holes(mesh, self.widest, near, self.faired))
        return changed, receipt.model_copy(update={"lost": lost})

    def sentence(self, receipt: Receipt) -> Sentence:
        closed = says(receipt.counts["closed"], "hole")
        left = f"; {says(receipt.counts['left'], 'rim')} left open" if receipt.counts["left"] else ""
        return (f"Closed {closed}, {_square(receipt.surface_added)} mm² invented{left}; nothing else moved.",)


class TakeApart(Step):
    """Take apart what hangs together by an edge or a corner only; nothing moves."""

    kind: Literal["take-apart"] = "take-apart"

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        def apart(mesh: Mesh) -> tuple[Mesh, dict[str, int]]:
            made = parted(mesh)
            return made, {"parted": len(made.vertices) - len(mesh.vertices)}

        return _mended(part, apart)

    def sentence(self, receipt: Receipt) -> Sentence:
        return (f"Took {says(receipt.counts['parted'], 'corner')} apart that held surfaces together by a point.",)


class DropShells(StepAtPlaces):
    """Drop shells of a kind that can go without the rest being touched: all of them, or those at ``places``."""

    seconds_a_triangle: ClassVar[float] = 1e-5

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
        return _mended(part, lambda mesh: (without_loose(kept) if len(dropped) else mesh, {"dropped": len(dropped)}))

    def sentence(self, receipt: Receipt) -> Sentence:
        one, said = _LOOSE[self.which]
        dropped = says(receipt.counts["dropped"], one, "cavities" if one == "cavity" else None)
        act = "Filled" if self.which == "sealed-void" else "Dropped"
        return (f"{act} {dropped} {said}, {_square(receipt.surface_removed)} mm² of surface; nothing else moved.",)


class MendWhole(Step):
    """Make the mesh sound by one method, or by the mildest that ends well; see ``mend``."""

    seconds_a_triangle: ClassVar[float] = 6e-5

    kind: Literal["mend-whole"] = "mend-whole"
    method: Method = "auto"
    pitch: FigureMM | None = Field(default=None, gt=0, le=100)
    """Grid of what is remade; without one a 300th of the longest side."""

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        try:
            done = mend(part.mesh, self.method, self.pitch, part.overlaps_left)
        except CannotMend as refusal:
            return part, Receipt(idle=True, not_done=str(refusal).removesuffix("."))
        receipt = Receipt(
            counts={
                "holes": done.holes_closed,
                "shells-before": done.before.shells.count,
                "shells-after": done.after.shells.count,
                "faces-added": done.faces_added,
                "faces-removed": done.faces_removed,
                done.method: 1,
            },
            measures={"mean-move": done.mean_move, "grid": done.pitch or 0.0},
            surface_added=done.area_added,
            surface_removed=done.area_removed,
            greatest_movement=done.max_move,
            volume_before=done.volume_before,
            volume_after=done.volume_after,
        )
        return replace(part, mesh=done.mesh), receipt

    def sentence(self, receipt: Receipt) -> Sentence:
        counts = receipt.counts
        way = {
            "exact": "exactly",
            "local": f"where it crosses itself, remade there on a grid of {receipt.measures.get('grid', 0):.3f} mm",
            "volume": f"by volume, remade on a grid of {receipt.measures.get('grid', 0):.3f} mm",
        }
        how = " and ".join(said for name, said in way.items() if counts.get(name))
        shells = f"{says(counts['shells-before'], 'shell')} to {counts['shells-after']:,}"
        moved = receipt.greatest_movement
        kept = f"moved at most {moved:.3f} mm (of the figure)" if moved >= _MOVED else "did not move"
        return (
            f"Mended {how}: {says(counts['holes'], 'hole')} closed with {_square(receipt.surface_added)} mm², "
            f"{_square(receipt.surface_removed)} mm² taken away, {shells}; what remains {kept}.",
        )


class MendPlace(StepAtPlaces):
    """Mend only where faces cross nearest to ``places``: two shells become one, a small tangle is cut out."""

    seconds_a_triangle: ClassVar[float] = 3e-5

    kind: Literal["mend-place"] = "mend-place"
    places: tuple[Anchor, ...] = Field(min_length=1, max_length=100)

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        near, lost = project_anchors(self.places, part.mesh, part.name, part.source)
        mesh, counts = part.mesh, {"united": 0, "cut": 0}
        widest = TANGLE * grid_of(part.mesh)
        try:
            for point in near:
                if (done := mend_spot(mesh, point, widest)) is not None:
                    mesh = done.mesh
                    counts["united" if done.united else "cut"] += 1
        except TooWide as refusal:
            why = f"{refusal}, too much to cut out: remake it where it crosses instead"
            return part, Receipt(idle=True, not_done=why, lost=lost)
        except CannotJoin as refusal:
            return part, Receipt(idle=True, not_done=str(refusal).removesuffix("."), lost=lost)
        changed, receipt = _mended(part, lambda _: (mesh, counts))
        return changed, receipt.model_copy(update={"lost": lost})

    def sentence(self, receipt: Receipt) -> Sentence:
        acts = {"united": "where two shells overlap by making them one", "cut": "by cutting a tangle out"}
        done = [f"{says(receipt.counts[code], 'place')} {act}" for code, act in acts.items() if receipt.counts[code]]
        return (
            f"Mended {' and '.join(done) or 'no place: nothing crosses there'}, "
            f"{_square(receipt.surface_removed)} mm² taken away; nothing else moved.",
        )


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


def _square(area: float) -> str:
    return f"{area:,.0f}" if area >= 10 else f"{area:.2g}"


def _mended(
    part: Part, mend: Callable[[Mesh], tuple[Mesh, dict[str, int]]], movement: float = 0.0
) -> tuple[Part, Receipt]:
    mended, counts = mend(part.mesh)
    grown = area(mended) - area(part.mesh)
    receipt = Receipt(
        counts=counts,
        surface_added=max(grown, 0.0),
        surface_removed=max(-grown, 0.0),
        greatest_movement=movement if any(counts.values()) else 0.0,
        volume_before=volume(part.mesh),
        volume_after=volume(mended),
    )
    return replace(part, mesh=mended), receipt
