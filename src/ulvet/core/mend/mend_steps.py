"""The steps of Mend that make a whole mesh, or one place of it, sound."""

from dataclasses import replace
from typing import ClassVar, Literal

from pydantic import Field

from ulvet.core.geometry.solids import CannotJoin
from ulvet.core.geometry.untangling import TangleTooWide
from ulvet.core.lengths import FigureMM
from ulvet.core.mend.mend_mesh import CannotMend, Method, mend_mesh, mend_pitch
from ulvet.core.mend.mend_methods import TANGLE
from ulvet.core.mend.mend_place import mend_place
from ulvet.core.mend.steps import MOVED, area_in_words, with_mended_mesh
from ulvet.core.recipe.anchors import Anchor, project_anchors
from ulvet.core.recipe.at_places import StepAtPlaces
from ulvet.core.recipe.receipt import Count, Greatest, Receipt
from ulvet.core.recipe.step import Context, Part, Sentence, Step, plural

__all__ = ["MendPlace", "MendWhole"]


class MendWholeReceipt(Receipt):
    """What mending took: methods by how many parts they mended, holes, shells, faces, and the grid, figure mm."""

    exact: Count = 0
    local: Count = 0
    volume: Count = 0
    holes: Count = 0
    shells_before: Count = 0
    shells_after: Count = 0
    faces_added: Count = 0
    faces_removed: Count = 0
    mean_move: Greatest = 0.0
    grid: Greatest = 0.0


class MendWhole(Step):
    """Make the mesh sound by one method, or by the mildest that ends well; see ``mend_mesh``."""

    seconds_a_triangle: ClassVar[float] = 6e-5
    makes: ClassVar[type[Receipt]] = MendWholeReceipt

    kind: Literal["mend-whole"] = "mend-whole"
    method: Method = "auto"
    pitch: FigureMM | None = Field(default=None, gt=0, le=100)
    """Grid of what is remade; without one a 300th of the longest side."""

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        try:
            done = mend_mesh(part.mesh, self.method, self.pitch, part.overlaps_left)
        except CannotMend as refusal:
            return part, MendWholeReceipt(idle=True, not_done=str(refusal).removesuffix("."))
        receipt = MendWholeReceipt(
            exact=done.method == "exact",
            local=done.method == "local",
            volume=done.method == "volume",
            holes=done.holes_closed,
            shells_before=done.before.shells.count,
            shells_after=done.after.shells.count,
            faces_added=done.faces_added,
            faces_removed=done.faces_removed,
            mean_move=done.mean_move,
            grid=done.pitch or 0.0,
            surface_added=done.area_added,
            surface_removed=done.area_removed,
            greatest_movement=done.max_move,
            volume_before=done.volume_before,
            volume_after=done.volume_after,
        )
        return replace(part, mesh=done.mesh), receipt

    def sentence(self, receipt: MendWholeReceipt) -> Sentence:
        way = {
            "exactly": receipt.exact,
            f"where it crosses itself, remade there on a grid of {receipt.grid:.3f} mm": receipt.local,
            f"by volume, remade on a grid of {receipt.grid:.3f} mm": receipt.volume,
        }
        how = " and ".join(said for said, parts in way.items() if parts)
        shells = f"{plural(receipt.shells_before, 'shell')} to {receipt.shells_after:,}"
        moved = receipt.greatest_movement
        kept = f"moved at most {moved:.3f} mm (of the figure)" if moved >= MOVED else "did not move"
        return (
            f"Mended {how}: {plural(receipt.holes, 'hole')} closed with {area_in_words(receipt.surface_added)} mm², "
            f"{area_in_words(receipt.surface_removed)} mm² taken away, {shells}; what remains {kept}.",
        )


class MendPlaceReceipt(Receipt):
    """Places where two shells were made one, and where a tangle was cut out."""

    united: Count = 0
    cut: Count = 0


class MendPlace(StepAtPlaces):
    """Mend only where faces cross nearest to ``places``: two shells become one, a small tangle is cut out."""

    seconds_a_triangle: ClassVar[float] = 3e-5
    makes: ClassVar[type[Receipt]] = MendPlaceReceipt

    kind: Literal["mend-place"] = "mend-place"
    places: tuple[Anchor, ...] = Field(min_length=1, max_length=100)

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        near, lost = project_anchors(self.places, part.mesh, part.name, part.source)
        mesh, counts = part.mesh, {"united": 0, "cut": 0}
        widest = TANGLE * mend_pitch(part.mesh)
        try:
            for point in near:
                if (done := mend_place(mesh, point, widest)) is not None:
                    mesh = done.mesh
                    counts["united" if done.united else "cut"] += 1
        except TangleTooWide as refusal:
            why = f"{refusal}, too much to cut out: remake it where it crosses instead"
            return part, MendPlaceReceipt(idle=True, not_done=why, lost=lost)
        except CannotJoin as refusal:
            return part, MendPlaceReceipt(idle=True, not_done=str(refusal).removesuffix("."), lost=lost)
        return with_mended_mesh(part, mesh, MendPlaceReceipt(**counts, lost=lost))

    def sentence(self, receipt: MendPlaceReceipt) -> Sentence:
        acts = {"where two shells overlap by making them one": receipt.united, "by cutting a tangle out": receipt.cut}
        done = [f"{plural(places, 'place')} {act}" for act, places in acts.items() if places]
        return (
            f"Mended {' and '.join(done) or 'no place: nothing crosses there'}, "
            f"{area_in_words(receipt.surface_removed)} mm² taken away; nothing else moved.",
        )
