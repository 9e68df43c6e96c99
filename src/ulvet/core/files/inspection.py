"""One file, brought in and checked, without a recipe of its own or a server."""

import hashlib
import time
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from ulvet.core.bench.bench import DEFAULT_BENCH, Bench
from ulvet.core.bench.edition import Edition
from ulvet.core.bring_in.guess import guess_unit, guess_up
from ulvet.core.bring_in.steps import BringIn, SourcePiece
from ulvet.core.build.figure_build import Build, build_figure, whole_size
from ulvet.core.findings.finding import Finding, Place
from ulvet.core.formats.read import read_file
from ulvet.core.formats.reading import Reading
from ulvet.core.gauge.walls.tints import walls_zip_bytes
from ulvet.core.geometry.placement import Placement, placement_of
from ulvet.core.layers.estimate import printed_together
from ulvet.core.progress import Progress, no_progress
from ulvet.core.recipe.runner import Recipe
from ulvet.core.units import Axis, Unit

__all__ = ["Inspection", "bring_in_step", "inspect_file", "inspection_json", "inspection_walls"]

_OF_A_PART = {"part", "size_mm", "triangles", "shells", "watertight", "volume_mm3"}


@dataclass(frozen=True)
class Inspection:
    """A file, how it was brought in, and its build."""

    path: Path
    sha256: str
    step: BringIn
    placement: Placement
    build: Build
    seconds: dict[str, float]


def bring_in_step(read: Reading, name: str, unit: Unit | None = None, up: Axis | None = None) -> BringIn:
    """The first step for a source: what is given, else what the file says, else a guess."""
    unit = unit or read.unit
    guess = guess_unit(read.mesh)
    return BringIn(
        source=read.mesh.hash,
        name=name,
        unit=unit or guess.value,
        up=up or read.up or guess_up(read.mesh).value,
        doubt="" if unit or guess.sure else guess.reason,
        pieces=tuple(SourcePiece(name=piece.name, mesh=piece.mesh.hash) for piece in read.pieces),
    )


def inspect_file(
    path: Path,
    edition: Edition,
    unit: Unit | None = None,
    up: Axis | None = None,
    progress: Progress = no_progress,
    bench: Bench = DEFAULT_BENCH,
) -> Inspection:
    """Read a file and build it as it is.

    Raises UnreadableFile and UnknownOnBench, both with a text for the user.
    """
    began = time.perf_counter()
    source = read_file(path)
    mesh = source.mesh
    with path.open("rb") as file:
        sha256 = hashlib.file_digest(file, "sha256").hexdigest()
    read = time.perf_counter() - began
    step = bring_in_step(source, path.name, unit, up)
    build = build_figure(Recipe(steps=(step,)), edition, source.meshes, progress=progress, bench=bench)
    return Inspection(
        path=path,
        sha256=sha256,
        step=step,
        placement=placement_of(mesh, step.unit, step.up),
        build=build,
        seconds={"read": read, **build.seconds},
    )


def inspection_walls(inspection: Inspection) -> bytes:
    """The figure in the tints of its walls, where it lies in its file: a ZIP with an OBJ."""
    build = inspection.build
    parts = [
        (part.name, part.mesh, walls.walls[: len(part.mesh.vertices)])
        for part, walls in zip(build.parts, build.thickness, strict=True)
    ]
    limits = build.checks.figure.setup.walls
    return walls_zip_bytes(parts, inspection.placement, limits, build.facts[0].factor)


def inspection_json(inspection: Inspection) -> dict[str, Any]:
    """The inspection as plain values. Points are print mm in the file's own axes, from the file's own origin."""
    build = inspection.build
    setup = build.checks.figure.setup
    parts = build.facts
    together = printed_together([estimate for estimate in build.estimates if estimate])
    return {
        "file": str(inspection.path),
        "sha256": inspection.sha256,
        "unit": inspection.step.unit,
        "unit_guessed": inspection.step.doubt or None,
        "up": inspection.step.up,
        "factor": parts[0].factor,
        "size_mm": list(whole_size(parts)),
        "triangles": sum(facts.triangles for facts in parts),
        "vertices": sum(facts.vertices for facts in parts),
        "shells": sum(facts.shells for facts in parts),
        "watertight": all(facts.watertight for facts in parts),
        "area_mm2": sum(facts.area_mm2 for facts in parts),
        "volume_mm3": sum(facts.volume_mm3 for facts in parts),
        "parts": [facts.model_dump(mode="json", include=_OF_A_PART) for facts in parts],
        "setting": build.edition.setting,
        "printer": setup.printer.id,
        "material": setup.material.id,
        "estimate": together.model_dump(mode="json") if together else None,
        "findings": [_finding(inspection, finding) for finding in build.findings],
        "not_looked_at": [gap.model_dump(mode="json") for gap in build.unseen],
        "seconds": {name: round(value, 4) for name, value in inspection.seconds.items()},
    }


def _finding(inspection: Inspection, finding: Finding) -> dict[str, Any]:
    said = finding.model_dump(mode="json", exclude={"where", "places"})
    return {
        **said,
        "where": finding.where and _in_file(inspection, finding.where),
        "places": [_in_file(inspection, place) for place in finding.places],
    }


def _in_file(inspection: Inspection, where: Place) -> dict[str, Any]:
    placement, factor = inspection.placement, inspection.build.facts[0].factor
    turn = placement.turn
    point = placement.in_file(np.array(where.point)) * factor
    return {
        "point": point.tolist(),
        "normal": None if where.normal is None else (np.array(where.normal) @ turn).tolist(),
        "extent": where.extent,
    }
