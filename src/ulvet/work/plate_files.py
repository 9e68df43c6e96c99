"""A planned plate as files: its parts placed as STL and 3MF, and as a sheet of paper."""

import numpy as np

from ulvet.core.bench.part_setups import PartSetups
from ulvet.core.files.plates import placed_mesh
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.formats.threemf import threemf_bytes
from ulvet.core.geometry.mesh import Mesh, concatenated
from ulvet.core.paper.sheets import drawing_pdf
from ulvet.core.plates.conflicts import Conflicts, conflicts_of
from ulvet.core.plates.packing import Lying, place_on
from ulvet.core.plates.plate import piece_of, room_of
from ulvet.core.plates.plate_sheet import SheetPart, plate_sheet
from ulvet.core.plates.shadow import shadow_of
from ulvet.work.layer_store import layers_from
from ulvet.work.pins import form_of
from ulvet.work.plan_record import LyingDrawn, PlanTold, PlateDrawn
from ulvet.work.proof_files import stood, together
from ulvet.work.refusals import NotThere, Refused
from ulvet.work.studio import Studio

__all__ = ["checked_by_hand", "planned_sheet", "planned_stl", "planned_threemf", "plate_in"]


def plate_in(told: PlanTold, number: int) -> PlateDrawn:
    """A plate of a plan.

    Raises NotThere.
    """
    found = next((one for one in told.plates if one.number == number), None)
    if found is None:
        raise NotThere("There is no such plate in this plan.")
    return found


def checked_by_hand(plate: PlateDrawn, lying: list[tuple[float, float, float]]) -> Conflicts:
    """What is wrong with a plate's parts at places (x, y, turn), a part each in their order.

    Raises Refused where there are not as many places as parts.
    """
    if len(lying) != len(plate.lying):
        raise Refused("These are not the parts of this plate: look at it again; nothing was changed.")
    outlines = [[np.asarray(ring) for ring in one.outlines] for one in plate.lying]
    placed = [Lying(k, x, y, turn) for k, (x, y, turn) in enumerate(lying)]
    return conflicts_of(outlines, placed, plate.wide, plate.deep, plate.margin)


def room_beside(studio: Studio, plate: PlateDrawn, one: LyingDrawn) -> Lying | None:
    """Where one more part finds room beside what lies on a plate; None where it does not.

    Raises UnknownOnBench.
    """
    shadows = [shadow_of(layers_from(studio.blobs.read(other.layers))) for other in (*plate.lying, one)]
    lying = [Lying(k, other.x, other.y, other.turn) for k, other in enumerate(plate.lying)]
    return place_on(shadows, room_of(studio.bench.value.setup(plate.setting)), lying, len(lying))


def planned_stl(studio: Studio, plate: PlateDrawn) -> bytes:
    """A plate as one STL, mm from the left front corner of the build volume.

    Raises NotThere, and Refused where a part was changed since.
    """
    return stl_bytes(concatenated(*(mesh for _, mesh in _placed(studio, plate))))


def planned_threemf(studio: Studio, plate: PlateDrawn) -> bytes:
    """The same as 3MF, each part an object of its own.

    Raises NotThere, and Refused where a part was changed since.
    """
    return threemf_bytes(_placed(studio, plate))


def planned_sheet(plate: PlateDrawn) -> bytes:
    """A plate as a PDF in true size, with the card of its setting."""
    parts = [
        SheetPart(one.name, one.tall, [np.asarray(ring) for ring in one.outlines], Lying(k, one.x, one.y, one.turn))
        for k, one in enumerate(plate.lying)
    ]
    title = f"{plate.printer_name}, plate {plate.number}"
    return drawing_pdf(plate_sheet(title, parts, plate.wide, plate.deep, plate.card))


def _placed(studio: Studio, plate: PlateDrawn) -> list[tuple[str, Mesh]]:
    setup = studio.bench.value.setup(plate.setting)
    known: dict[tuple[int, str, str], Mesh] = {}
    placed = []
    for one in plate.lying:
        key = (one.figure, one.edition, one.part)
        if key not in known:
            known[key] = _mesh_of(studio, one)
        piece = piece_of(one.name, layers_from(studio.blobs.read(one.layers)), setup)
        placed.append((one.name, placed_mesh(known[key], piece, Lying(0, one.x, one.y, one.turn), setup)))
    return placed


def _mesh_of(studio: Studio, one: LyingDrawn) -> Mesh:
    """A part with its supports as it stands in the printer, print mm, with the layers it was planned with."""
    figure, head, record, _ = studio.figure(one.figure, one.edition)
    part = next((part for part in record.parts if part.facts.part == one.part), None) if record else None
    if part is None or part.layers != one.layers:
        raise Refused(f"{figure.name} was changed since it was planned: plan again, then take the plate.")
    made = studio.edition(head, one.edition).made
    return together(stood(studio, form_of(part, PartSetups(studio.bench.value, made), made)))
