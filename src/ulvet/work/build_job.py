"""The job that builds a figure: run, looked at by every check, and drawn."""

from dataclasses import replace
from typing import Any

import numpy as np

from ulvet.core.build.figure_build import Build, build_exploded, build_figure, whole_size
from ulvet.core.build.picture import picture_png
from ulvet.core.finish.checks import RegionsCheck
from ulvet.core.finish.regions import Labels
from ulvet.core.foreign.shapes import foreign_mesh, yardsticks
from ulvet.core.foreign.steps import Foreign, FromMesh
from ulvet.core.gauge.checks import DetailCheck, WallsCheck
from ulvet.core.gauge.walls.thickness import Thickness
from ulvet.core.geometry.mesh import Mesh, concatenated, scaled
from ulvet.core.hollow.checks import ResinLeftCheck, SpacesCheck
from ulvet.core.hollow.spaces import mouths_of, spaces_of
from ulvet.core.join.check import Meeting
from ulvet.core.layers.checks import StackCheck
from ulvet.core.layers.estimate import printed_together
from ulvet.core.layers.look import first_look
from ulvet.core.layers.raster import LayerStack
from ulvet.core.part.checks import PrintersCheck
from ulvet.core.progress import progress_within
from ulvet.core.provenance.check import ingredients_of
from ulvet.core.provenance.inherited import inherited_terms
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.step import Part
from ulvet.core.scan.captured import compare_captured
from ulvet.core.size.checks import SizesCheck
from ulvet.core.size.lineup import Silhouette, silhouette
from ulvet.core.size.ways import figure_size
from ulvet.core.stations import Station
from ulvet.store.blobs import Blobs
from ulvet.store.folder import DataFolder
from ulvet.store.results import DiskMemory
from ulvet.work.display import colour_display_bytes, detail_display_bytes, display_bytes, soundings_bytes
from ulvet.work.drawing_cache import DrawingCache
from ulvet.work.job_progress import JobProgress
from ulvet.work.job_values import Values, asked, sources_of
from ulvet.work.layer_store import layers_bytes
from ulvet.work.record import (
    BuildRecord,
    GhostRecord,
    LayerFrame,
    MeetingRecord,
    PartRecord,
    Sounding,
    StepSentence,
    build_key,
)

__all__ = ["build", "supports_drawn"]

_AREAS = 400
"""Bands of layers whose areas the page draws."""


def build(folder: DataFolder, values: Values, progress: JobProgress) -> Values:
    """Build ``recipe`` in ``edition`` on ``bench``. Gives the build record, of the recipe with what its steps found
    written down, that recipe, and the key of the build that was ``asked`` for. What was seen at a
    station is told as soon as it is, at the station that is looked at ``first`` before others."""
    recipe, edition, bench = asked(values)
    memory, blobs = DiskMemory(folder), Blobs(folder.blobs)
    drawn = DrawingCache(memory, blobs)
    done = build_figure(
        recipe,
        edition,
        sources_of(folder, recipe),
        memory,
        progress_within(progress, 0.0, 0.9),
        of_studio=True,
        first=Station(values["first"]) if values.get("first") else None,
        seen=lambda one: progress.seen(one.station, one.model_dump(mode="json")),
        bench=bench,
    )
    progress(0.92, "drawing")
    parts = [_part_record(blobs, drawn, done, at) for at in range(len(done.parts))]
    pairs = zip(done.recipe.steps, done.receipts, strict=True)
    written = done.recipe.with_steps(step.written_down(receipt) for step, receipt in pairs)
    steps = [
        StepSentence(
            step=step,
            phase=step.phase,
            rank=step.rank,
            sentence=list(step.said(receipt)),
            receipt=receipt.model_dump(mode="json"),
        )
        for step, receipt in zip(written.steps, done.receipts, strict=True)
    ]
    meshes = [part.mesh.hash for part in done.parts]
    record = BuildRecord(
        key=build_key(written, done.edition, bench),
        size_mm=whole_size(done.facts),
        placed_mm=done.placed,
        estimate=None if None in done.estimates else printed_together([e for e in done.estimates if e]),
        measured=drawn.blob(
            lambda: figure_size(*(part.mesh for part in done.parts)).model_dump_json().encode(), "measured", *meshes
        ),
        sizes=done.checks.known(SizesCheck),
        ghosts=_ghosts(blobs, recipe, done.facts[0].factor),
        meetings=[_meeting(one, done.facts[0].factor) for one in done.meetings],
        silhouette=drawn.blob(lambda: _outline(done).model_dump_json().encode(), "outline", done.factor, *meshes),
        inherited=inherited_terms(ingredients_of(recipe.steps)),
        parts=parts,
        steps=steps,
        gauge=done.gauge,
        inserts=[insert for receipt in done.receipts for insert in receipt.inserts],
        assembly=done.assembly,
        exploded=drawn.blob(
            lambda: build_exploded(done) or b"", "exploded", *meshes, done.assembly.model_dump(mode="json")
        )
        if done.assembly.joints
        else None,
        finish=done.finish,
        findings=list(done.findings),
        unseen=list(done.unseen),
        seconds=done.seconds,
    )
    return {
        "record": record.model_dump(mode="json"),
        "written": written.model_dump(mode="json"),
        "asked": build_key(done.recipe, done.edition, bench),
    }


def _labels(done: Build, at: int) -> Labels | None:
    """The regions of a part; None where none is on it."""
    known = done.regions[at]
    return known.labels if known and known.areas else None


def _part_record(blobs: Blobs, drawn: DrawingCache, done: Build, at: int) -> PartRecord:
    part, facts, factor = done.parts[at], done.facts[at], done.factor
    walls, detail = done.checks.of(WallsCheck, at).key, done.checks.of(DetailCheck, at).key
    setup = done.checks.setups.of(part.name)
    stop = setup.walls.free_standing.stop
    display = drawn.blob(lambda: display_bytes(part.mesh, done.thickness[at]), "display", part.mesh.hash, walls)
    estimate = done.estimates[at]
    layers = done.checks.of(StackCheck, at).key

    def stack() -> LayerStack:
        found: LayerStack = done.checks.of(StackCheck, at).value
        return found

    spaces, _ = done.checks.known(SpacesCheck, at) or ((), ())
    labels = _labels(done, at)
    lost = done.details[at]
    if lost is not None and not lost.lost:
        lost = None

    return PartRecord(
        facts=facts,
        source=part.source,
        mesh=blobs.put_mesh(part.mesh),
        display=display,
        detail_display=lost
        and drawn.blob(
            lambda: detail_display_bytes(bytes(blobs.read(display)), lost, factor), "detail", display, detail, factor
        ),
        colour_display=None
        if labels is None
        else drawn.blob(
            lambda: colour_display_bytes(bytes(blobs.read(display)), part.mesh, labels.of_face),
            "colours", display, done.checks.of(RegionsCheck, at).key,
        ),
        layers=drawn.blob(lambda: layers_bytes(stack()), "layers", layers) if estimate else None,
        layer_frame=drawn.value(lambda: _layer_frame(part, stack()), "frame", layers) if estimate else None,
        estimate=estimate,
        areas=drawn.value(lambda: _thinned(stack().areas), "areas", layers) if estimate else [],
        look=first_look(stack(), setup) if estimate else None,
        pull=setup.supports.pull if setup.process == "resin" else None,
        soundings=drawn.blob(
            lambda: soundings_bytes(part.mesh, done.thickness[at]), "soundings", part.mesh.hash, walls
        ),
        tips=_tips(part, factor),
        spaces=list(spaces),
        inside_display=drawn.blob(lambda: inside_drawn(part, factor), *_inside_made_of(part)) if spaces else None,
        openings=list(part.openings),
        fits=list(done.checks.known(PrintersCheck, at) or ()),
        left_ml=left.millilitres if (left := done.checks.known(ResinLeftCheck, at)) else 0.0,
        picture=drawn.blob(
            lambda: picture_png(part.mesh, done.thickness[at], stop.in_figure(factor)),
            "picture", part.mesh.hash, walls, float(stop.in_figure(factor)),
        ),
        supports=None if part.supports is None else blobs.put_mesh(part.supports),
        supports_display=None
        if part.supports is None
        else drawn.blob(
            lambda: supports_drawn(part, factor),
            "supports", part.supports.hash, part.mesh.hash, part.stance.model_dump_json(), factor,
        ),
        **_compared(blobs, drawn, part),
    )  # fmt: skip


def _meeting(one: Meeting, factor: float) -> MeetingRecord:
    return MeetingRecord(
        bit=one.bit,
        host=one.host,
        overlap=one.overlap * factor,
        neck=one.neck * factor**2,
        neck_width=one.neck_width * factor,
        sealed=one.sealed * factor**3,
    )


def _ghosts(blobs: Blobs, recipe: Recipe, factor: float) -> list[GhostRecord]:
    found = []
    for step in recipe.steps:
        if isinstance(step, Foreign) and step.on:
            thing = step.thing
            meshes: dict[str, Mesh] = {thing.source: blobs.mesh(thing.source)} if isinstance(thing, FromMesh) else {}
            mesh = foreign_mesh(step, factor, meshes)
            drawn = blobs.put(display_bytes(mesh, Thickness.unknown(mesh)))
            lengths = {name: float(length) for name, length in yardsticks(step, meshes).items()}
            found.append(GhostRecord(name=step.name, display=drawn, yardsticks=lengths))
    return found


def _outline(done: Build) -> Silhouette:
    return silhouette("", scaled(concatenated(*(part.mesh for part in done.parts)), done.facts[0].factor))


def _compared(blobs: Blobs, drawn: DrawingCache, part: Part) -> dict[str, Any]:
    """How a scanned part compares with what was captured, and a display mesh for its tints."""
    captured = part.captured
    if captured is None or not len(captured.vertices):
        return {"captured": None, "captured_display": None}

    made_of = ("captured", part.mesh.hash, captured.hash)

    def display() -> bytes:
        compared, beside = compare_captured(part.mesh, captured.vertices)
        nearer = np.maximum(3 * compared.reach - beside, 0.0)
        return display_bytes(part.mesh, replace(Thickness.unknown(part.mesh), walls=nearer))

    compared = drawn.value(lambda: compare_captured(part.mesh, captured.vertices)[0], *made_of)
    return {"captured": compared, "captured_display": drawn.blob(display, *made_of)}


def inside_drawn(part: Part, factor: float) -> bytes:
    """The spaces of a part as they are drawn, figure mm."""
    spaces = spaces_of(scaled(part.mesh, factor), mouths_of(part.openings, factor))
    mesh = scaled(concatenated(*(space.mesh for space in spaces)), 1 / factor)
    return display_bytes(mesh, Thickness.unknown(mesh))


def _inside_made_of(part: Part) -> list[object]:
    return ["inside", part.mesh.hash, [opening.model_dump(mode="json") for opening in part.openings]]


def supports_drawn(part: Part, factor: float) -> bytes:
    """The supports as they are drawn: in figure mm and axes, as their figure is."""
    assert part.supports is not None
    mesh = Mesh(part.stance.in_figure(part.supports.vertices, part.mesh, factor), part.supports.faces)
    return display_bytes(mesh, Thickness.unknown(mesh))


def _layer_frame(part: Part, stack: LayerStack) -> LayerFrame:
    deep, wide = (count * stack.pixel for count in stack.shape)
    foot = 0.0 if part.supports is not None else part.stance.lift
    left, front = stack.origin
    return LayerFrame(left=left, front=front, foot=foot, wide=wide, deep=deep, layer=stack.layer)


def _tips(part: Part, factor: float) -> list[Sounding]:
    contacts = part.stance.contacts
    points = part.stance.in_figure(np.array([c.point for c in contacts]).reshape(-1, 3), part.mesh, factor)
    return [
        Sounding(point=(float(a), float(b), float(c)), normal=None, wall=contact.tip_mm / factor)
        for (a, b, c), contact in zip(points, contacts, strict=True)
    ]


def _thinned(areas: np.ndarray[Any, np.dtype[np.float64]]) -> list[float]:
    """The largest area of each of at most 400 bands of layers, so that no peak is lost."""
    bands = np.array_split(areas, min(len(areas), _AREAS)) if len(areas) else []
    return [round(float(band.max()), 3) for band in bands]
