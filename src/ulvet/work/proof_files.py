"""The very files of a proof, as they were printed."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ulvet.core.bench.setup import Setup, UnknownOnBench
from ulvet.core.files.plates import placing
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.formats.threemf import threemf_bytes
from ulvet.core.geometry.mesh import Mesh, Points, concatenated
from ulvet.core.layers.raster import raster_layers
from ulvet.core.plates.packing import Lying
from ulvet.core.plates.plate import Piece, piece_of, plates_of
from ulvet.core.proof.proof import PrintForm, Proof
from ulvet.core.recipe.mirroring import mirrored_mesh, mirrored_part, mirrored_stance
from ulvet.core.recipe.stance import Stance
from ulvet.core.recipe.step import Part
from ulvet.work.refusals import NotThere, Refused
from ulvet.work.studio import Studio

__all__ = ["PlacedCopy", "part_stl", "placed_copies", "plate_stl", "plate_threemf", "stood", "together"]


def part_stl(studio: Studio, proof: Proof, part: int) -> bytes:
    """A part of a proof as it lies in the printer, with its supports, print mm.

    Raises NotThere.
    """
    if not 0 <= part < len(proof.parts):
        raise NotThere("There is no such part in this proof.")
    return stl_bytes(together(stood(studio, proof.parts[part].form)))


@dataclass(frozen=True)
class PlacedCopy:
    """A copy of a part on the plate, mm from the left front corner of the build volume: which of the proof's parts it
    is, its mesh and that of its supports there, and how it came to lie so."""

    part: int
    mesh: Mesh
    supports: Mesh | None
    form: PrintForm
    figure: Mesh
    """The part in figure mm."""
    turn: Points
    moved: Points

    def on_plate(self, at: Sequence[float]) -> Points:
        """A place of the figure, figure mm, as a place on the plate."""
        point = np.asarray(at, float)
        stance, figure = _stance(self.form), self.figure
        if self.form.mirrored:
            stance, figure, point = mirrored_stance(stance), mirrored_mesh(figure), point * [-1.0, 1.0, 1.0]
        stood = stance.turn @ point * self.form.factor + stance.offset(figure, self.form.factor)
        return np.asarray(self.turn @ stood + self.moved)

    def in_figure(self, at: Sequence[float]) -> Points:
        """A place on the plate as a place of the figure, figure mm."""
        back = (np.asarray(at) - self.moved) @ self.turn
        if self.form.mirrored:
            stance = mirrored_stance(_stance(self.form))
            mirrored = stance.in_figure(back, mirrored_mesh(self.figure), self.form.factor)
            return np.asarray(mirrored * [-1.0, 1.0, 1.0])
        return _stance(self.form).in_figure(back, self.figure, self.form.factor)


def plate_stl(studio: Studio, proof: Proof) -> bytes:
    """All copies of a proof where they lie on its plate, mm from the left front corner of the build volume.

    Raises Refused where they fit no one plate.
    """
    return stl_bytes(concatenated(*(mesh for _, mesh in _named(studio, proof))))


def plate_threemf(studio: Studio, proof: Proof) -> bytes:
    """The same as 3MF, each copy an object of its own.

    Raises Refused where they fit no one plate.
    """
    return threemf_bytes(_named(studio, proof))


def placed_copies(studio: Studio, proof: Proof) -> list[PlacedCopy]:
    """Every copy of a proof where it lies on the plate.

    Raises Refused where they fit no one plate, or the setting is not on the bench any more.
    """
    try:
        setup = studio.bench.value.setup(proof.setting)
    except UnknownOnBench as error:
        raise Refused(f"{proof.setting_name} is not on the bench any more: take the parts one by one.") from error
    copies = [copy.part for copy in proof.came.copies] or list(range(len(proof.parts)))
    by_part = {part: stood(studio, proof.parts[part].form) for part in sorted(set(copies))}
    seen = {part: piece_of(proof.parts[part].called, raster_layers(together(mesh), setup.layer, setup.pixel), setup)
            for part, mesh in by_part.items()}  # fmt: skip
    placed = []
    for lying in _lying(proof, [seen[part] for part in copies], setup):
        part = copies[lying.number]
        turn, moved = placing(together(by_part[part]), seen[part], lying, setup)
        mesh, supports = (
            None if one is None else Mesh(one.vertices @ turn.T + moved, one.faces) for one in by_part[part]
        )
        form = proof.parts[part].form
        assert mesh is not None
        placed.append(PlacedCopy(part, mesh, supports, form, studio.blobs.mesh(form.mesh), turn, moved))
    return placed


def _lying(proof: Proof, pieces: Sequence[Piece], setup: Setup) -> list[Lying]:
    """Where the copies of a proof lie, in their order: as they were laid, or else packed.

    Raises Refused where they fit no one plate.
    """
    laid = [copy.lies for copy in proof.came.copies]
    if laid and all(lies is not None for lies in laid):
        return [Lying(k, *lies) for k, lies in enumerate(laid) if lies is not None]
    plates, unfit = plates_of(pieces, setup)
    if unfit or len(plates) != 1:
        raise Refused(
            f"This proof does not fit one plate of {setup.printer.name}: take its parts one by one, or plan its plates."
        )
    return sorted(plates[0][0], key=lambda one: one.number)


def _named(studio: Studio, proof: Proof) -> list[tuple[str, Mesh]]:
    return [(proof.parts[one.part].called, together((one.mesh, one.supports))) for one in placed_copies(studio, proof)]


def stood(studio: Studio, form: PrintForm) -> tuple[Mesh, Mesh | None]:
    """A part and its supports as they stand in the printer, print mm."""
    supports = None if form.supports is None else studio.blobs.mesh(form.supports)
    part = Part("", studio.blobs.mesh(form.mesh), _stance(form), supports)
    part = mirrored_part(part) if form.mirrored else part
    return part.stance.in_print(part.mesh, form.factor), part.supports


def together(standing: tuple[Mesh, Mesh | None]) -> Mesh:
    """A part and its supports as one mesh."""
    return standing[0] if standing[1] is None else concatenated(standing[0], standing[1])


def _stance(form: PrintForm) -> Stance:
    return Stance(up=form.up, spin=form.spin, lift=form.lift)
