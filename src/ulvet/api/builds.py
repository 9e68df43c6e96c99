"""What a build holds: meshes to draw, sections, layers."""

import csv
from dataclasses import replace
from io import StringIO
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Query, Response
from pydantic import BaseModel

from ulvet.api.asked import AtStudio, LookedEdition, RowNumber
from ulvet.core.bench.part_setups import PartSetups
from ulvet.core.files.layer_pictures import layer_archive
from ulvet.core.findings.finding import Finding
from ulvet.core.gauge.walls.place_names import PlaceKind
from ulvet.core.geometry.section import Plane, cut_section, plane_through
from ulvet.core.recipe.stance import Stance
from ulvet.core.stations import Station
from ulvet.work.layer_store import layer_png, layers_from
from ulvet.work.record import BuildRecord, PartRecord
from ulvet.work.refusals import NotThere, Refused
from ulvet.work.studio import Studio
from ulvet.work.trials import record_at

__all__ = ["router"]

router = APIRouter(tags=["build"])

_FOR_EVER = {"Cache-Control": "public, max-age=31536000, immutable"}
_COLUMNS = ("part", "name", "kind", "least_mm", "limit_mm", "extent_mm")
_PNG = b"\x89PNG"
_WHOLE = 0.6
"""Share of a part's longest side that a drawing reaches to either side when it shows all of it."""


class SectionDrawing(BaseModel):
    """A section through a finding, in print mm from its place: outlines with the solid on their left.

    ``wall`` is the wall measured straight down from the place, where the finding is about one. ``film`` is the way to
    the film in the drawing, where it is about what drains; all of the part is shown then, and ``at`` is the place.
    """

    outlines: list[list[tuple[float, float]]]
    beside: list[list[tuple[float, float]]] = []
    """Outlines of the other part, where it is about a joint."""
    reach: float
    wall: float | None
    film: tuple[float, float] | None
    at: tuple[float, float] = (0.0, 0.0)
    across: tuple[float, float, float]
    up: tuple[float, float, float]


@router.get("/blobs/{name}", response_class=Response)
def blob(name: str, studio: AtStudio) -> Response:
    """A display mesh or picture by its hash; it never changes."""
    data = bytes(studio.blobs.read(name))
    kind = "image/png" if data.startswith(_PNG) else "application/octet-stream"
    return Response(data, media_type=kind, headers=_FOR_EVER)


@router.get("/builds/{key}/places.csv")
def places(
    key: str,
    studio: AtStudio,
    kind: Annotated[PlaceKind | None, Query(description="Only places of this kind.")] = None,
    stops: Annotated[bool, Query(description="Only those under the limit that stops.")] = False,
) -> Response:
    """The thin places of a build as CSV, the thinnest first: print mm, their points in figure mm."""
    record = studio.builds.one(key)
    buffer = StringIO()
    table = csv.writer(buffer)
    table.writerow([*_COLUMNS, "x_mm", "y_mm", "z_mm"])
    for place in record.gauge.places:
        if kind in (None, place.kind) and (place.stops or not stops):
            table.writerow([*(_cell(getattr(place, name)) for name in _COLUMNS), *place.point])
    return Response(buffer.getvalue(), media_type="text/csv", headers=_FOR_EVER)


def _cell(value: str | float) -> str | float:
    """A name as a table program reads it: as text, never as a formula."""
    return f"'{value}" if isinstance(value, str) and value[:1] in ("=", "+", "-", "@", "\t", "\r") else value


@router.get("/builds/{key}/parts.csv")
def parts(key: str, studio: AtStudio) -> Response:
    """The parts of a build and what is bought for it as CSV, in the order in which they go together: print mm, ml."""
    record = studio.builds.one(key)
    buffer = StringIO()
    table = csv.writer(buffer)
    table.writerow(["number", "part", "wide_mm", "deep_mm", "tall_mm", "volume_ml", "fits", "cut_to_mm"])
    for number, part in enumerate(record.parts, 1):
        size = [round(value, 3) for value in part.facts.size_mm]
        ml = round(part.facts.volume_mm3 / 1000, 4)
        table.writerow([number, _cell(part.facts.called), *size, ml, _cell("; ".join(part.fits)), ""])
    for insert in record.inserts:
        table.writerow(["", _cell(insert.name or "wire"), "", "", "", "", "", insert.length or ""])
    return Response(buffer.getvalue(), media_type="text/csv", headers=_FOR_EVER)


@router.get("/builds/{key}/sections/{finding}")
def section(
    key: str,
    finding: int,
    studio: AtStudio,
    mesh: Annotated[str | None, Query(description="Another mesh to cut in the same place.")] = None,
    place: Annotated[int, Query(ge=0, description="Which of its places, the worst is 0.")] = 0,
    figure: Annotated[int | None, Query(ge=0, description="Of which the proofs are among its findings.")] = None,
    edition: LookedEdition = "",
) -> SectionDrawing:
    """The section drawing of a finding, cut from the true mesh."""
    record = studio.builds.one(key)
    if figure is not None and finding >= len(record.findings):
        record = record_at(studio, figure, key, edition)
    if not 0 <= finding < len(record.findings):
        raise NotThere("That finding is not part of this build.")
    found = record.findings[finding]
    if found.where is None:
        raise NotThere("This finding has no place on the figure to draw.")
    part = _part(record, [p.facts.part for p in record.parts].index(found.part))
    if place and place >= len(found.places):
        raise NotThere("This finding has no such place.")
    where, factor = found.places[place] if place else found.where, part.facts.factor
    size = max(part.facts.size_mm) / factor
    plane = plane_through(
        np.array(where.point),
        None if where.normal is None else np.array(where.normal),
        None if where.along is None else np.array(where.along),
    )
    extent = (where.extent or 0.0) / factor
    drains = found.station is Station.HOLLOW or found.code == "cup"
    is_wall = found.code == "thin-wall"
    at = np.zeros(2)
    if drains:
        reach = _WHOLE * size
        middle = np.array(part.facts.low_mm) / factor + np.array(part.facts.size_mm) / factor / 2
        at = (plane.origin - middle) @ np.stack([plane.across, plane.up], axis=1)
        plane = replace(plane, origin=plane.origin - plane.across * at[0] - plane.up * at[1])
    elif is_wall:
        limit = found.limit / factor
        reach = float(np.clip(0.7 * extent, 3 * limit, 9 * limit))
    else:
        reach = float(np.clip(1.2 * extent, 0.06 * size, 0.6 * size))
    return SectionDrawing(
        outlines=_drawn(studio, mesh or part.mesh, plane, reach, factor),
        beside=[line for other in _met(record, found) for line in _drawn(studio, other, plane, reach, factor)],
        reach=reach * factor,
        wall=found.measured if is_wall else None,
        film=_towards_film(part.facts.stance, plane) if drains else None,
        at=(float(at[0]) * factor, float(at[1]) * factor),
        across=tuple(map(float, plane.across)),
        up=tuple(map(float, plane.up)),
    )


def _drawn(studio: Studio, mesh: str, plane: Plane, reach: float, factor: float) -> list[list[tuple[float, float]]]:
    """Where a mesh passes a plane, print mm."""
    cut = cut_section(studio.blobs.mesh(mesh), plane, reach)
    return [[(float(x), float(y)) for x, y in line * factor] for line in cut]


def _met(record: BuildRecord, found: Finding) -> list[str]:
    """Meshes of the parts that a finding of a joint is about besides its own."""
    if found.station is not Station.PART or found.where is None:
        return []
    names = {name for joint in record.assembly.joints if joint.point == found.where.point for name in joint.parts} - {
        found.part
    }
    return [part.mesh for part in record.parts if part.facts.part in names]


def _towards_film(stance: Stance, plane: Plane) -> tuple[float, float]:
    """The way from the plate to the film in the plane of a drawing."""
    up = stance.turn[2]
    return float(up @ plane.across), float(up @ plane.up)


@router.get("/builds/{key}/parts/{part}/layers/{layer}.png", response_class=Response)
def layer_picture(key: str, part: int, layer: int, studio: AtStudio) -> Response:
    """One layer as the printer sees it, the one below pale beneath it."""
    name = _part(studio.builds.one(key), part).layers
    if name is None:
        raise NotThere("The layers of this part could not be looked at.")
    try:
        picture = layer_png(layers_from(studio.blobs.read(name)), layer)
    except IndexError as error:
        raise NotThere(str(error)) from error
    return Response(picture, media_type="image/png", headers=_FOR_EVER)


@router.get("/figures/{number}/parts/{part}/layers.zip", response_class=Response)
def layers_archive(number: RowNumber, part: int, edition: LookedEdition, studio: AtStudio) -> Response:
    """Every layer of a part as a picture, and a plain description of what they are of."""
    _, head, record, _ = studio.figure(number, edition)
    if record is None:
        raise Refused("The figure is still being checked: its layers can be had when that is done.")
    found = _part(record, part)
    if found.layers is None:
        raise NotThere("The layers of this part could not be looked at.")
    setup = PartSetups(studio.bench.value, studio.edition(head, edition).made).of(found.facts.part)
    data = layer_archive(layers_from(studio.blobs.read(found.layers)), setup)
    headers = {"Content-Disposition": f'attachment; filename="figure-{number}-part-{part + 1}_layers.zip"'}
    return Response(data, media_type="application/zip", headers=headers)


def _part(record: BuildRecord, number: RowNumber) -> PartRecord:
    if not 0 <= number < len(record.parts):
        raise NotThere("That part is not in this build.")
    return record.parts[number]
