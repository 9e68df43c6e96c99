"""The very files of a proof, as they were printed."""

from collections.abc import Sequence

from ulvet.core.bench.setup import UnknownOnBench
from ulvet.core.files.plates import placed_mesh
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.formats.threemf import threemf_bytes
from ulvet.core.geometry.mesh import Mesh, concatenated
from ulvet.core.layers.raster import raster_layers
from ulvet.core.plates.packing import Lying
from ulvet.core.plates.plate import piece_of, plates_of
from ulvet.core.proof.proof import PrintForm, Proof
from ulvet.core.recipe.mirroring import mirrored_part
from ulvet.core.recipe.stance import Stance
from ulvet.core.recipe.step import Part
from ulvet.work.refusals import NotThere, Refused
from ulvet.work.studio import Studio

__all__ = ["part_stl", "plate_meshes", "plate_stl", "plate_threemf"]


def part_stl(studio: Studio, proof: Proof, part: int) -> bytes:
    """A part of a proof as it lies in the printer, with its supports, print mm.

    Raises NotThere.
    """
    if not 0 <= part < len(proof.parts):
        raise NotThere("There is no such part in this proof.")
    return stl_bytes(_whole(studio, proof.parts[part].form))


def plate_stl(studio: Studio, proof: Proof) -> bytes:
    """All copies of a proof where they lie on its plate, mm from the left front corner of the build volume.

    Raises Refused where they fit no one plate.
    """
    return stl_bytes(concatenated(*(mesh for _, mesh in plate_meshes(studio, proof))))


def plate_threemf(studio: Studio, proof: Proof) -> bytes:
    """The same as 3MF, each copy an object of its own.

    Raises Refused where they fit no one plate.
    """
    return threemf_bytes(plate_meshes(studio, proof))


def plate_meshes(studio: Studio, proof: Proof) -> Sequence[tuple[str, Mesh]]:
    """Every copy of a proof by name, where it lies on the plate.

    Raises Refused where they fit no one plate, or the setting is not on the bench any more.
    """
    try:
        setup = studio.bench.value.setup(proof.setting)
    except UnknownOnBench as error:
        raise Refused(f"{proof.setting_name} is not on the bench any more: take the parts one by one.") from error
    copies = [copy.part for copy in proof.came.copies] or list(range(len(proof.parts)))
    meshes = {part: _whole(studio, proof.parts[part].form) for part in sorted(set(copies))}
    seen = {part: piece_of(proof.parts[part].called, raster_layers(mesh, setup.layer, setup.pixel), setup)
            for part, mesh in meshes.items()}  # fmt: skip
    pieces = [seen[part] for part in copies]
    plates, unfit = plates_of(pieces, setup)
    if unfit or len(plates) != 1:
        raise Refused(
            f"This proof does not fit one plate of {setup.printer.name}: take its parts one by one, or plan its plates."
        )
    lying: Sequence[Lying] = plates[0][0]
    return [(pieces[one.number].name, placed_mesh(meshes[copies[one.number]], pieces[one.number], one, setup))
            for one in lying]  # fmt: skip


def _whole(studio: Studio, form: PrintForm) -> Mesh:
    stance = Stance(up=form.up, spin=form.spin, lift=form.lift)
    supports = None if form.supports is None else studio.blobs.mesh(form.supports)
    part = Part("", studio.blobs.mesh(form.mesh), stance, supports)
    return (mirrored_part(part) if form.mirrored else part).whole(form.factor)
