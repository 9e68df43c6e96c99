"""A build: a recipe in an edition, with its parts, findings and reports."""

import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from pydantic import BaseModel, ConfigDict, TypeAdapter

from ulvet.core.bench import Edition, setup_for
from ulvet.core.bench.printers import Printer
from ulvet.core.bring_in import check_facets, check_unit
from ulvet.core.bring_in.leaning import check_lean
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.findings import AddSteps, Finding, Severity, Unseen
from ulvet.core.gauge import Gauge, Thickness, check_walls, measure_thickness
from ulvet.core.gauge.check_level import check_level
from ulvet.core.gauge.detail import Detail
from ulvet.core.gauge.given_names import named
from ulvet.core.gauge.naming import PlaceSaid, kinded_places, places_said
from ulvet.core.gauge.sanding import sanded
from ulvet.core.gauge.shares import wall_shares
from ulvet.core.gauge.whole import accepted, gauge_whole
from ulvet.core.join.check import Meeting, check_kit, meetings_of
from ulvet.core.layers import Estimate, LayersReport, TooManyLayers, check_layers
from ulvet.core.mend import check_mesh, orient_faces
from ulvet.core.mesh import Floats, Mesh, area, bounds, joined, volume
from ulvet.core.picture import picture_png
from ulvet.core.provenance import check_provenance
from ulvet.core.recipe.anchors import Frame
from ulvet.core.recipe.check import check_recipe
from ulvet.core.recipe.runner import Memory, NoMemory, Recipe, Source, measured_key, run_recipe
from ulvet.core.recipe.step import Part, Receipt
from ulvet.core.scan import check_scan
from ulvet.core.size import check_fit
from ulvet.core.stamp.check import check_stamps
from ulvet.core.stance import Stance, Vector
from ulvet.core.stand import check_stand
from ulvet.core.stations import Station
from ulvet.core.told import Told, unheard, within
from ulvet.core.tolerances import BENCH_TOLERANCES
from ulvet.core.topology import edges_of, face_shells, is_watertight, without_repeats

__all__ = ["CHECK_SECONDS_A_TRIANGLE", "Build", "Facts", "build_figure", "build_pictures", "in_order", "whole_size"]

CHECK_SECONDS_A_TRIANGLE = 40e-6
"""What all checks together take, roughly, to say beforehand how long a build will be."""
_ORDER = {Severity.STOP: 0, Severity.CAUTION: 1, Severity.NOTE: 2}
_PLACES = 500
_AFTERWARDS = ("snap-risk", "tips-over", "not-level")
"""What happens to a print comes after what happens to it on the plate."""
_MOSTLY_OPEN = 0.25
_NO_WALLS = (
    "Walls were not measured: more than a quarter of the edges is open, so there is no telling what is inside; "
    "mend the surface first."
)
_FINDINGS = TypeAdapter(list[Finding])


class Facts(BaseModel):
    """The plain measures of a part at print size."""

    model_config = ConfigDict(frozen=True)

    part: str
    size_mm: tuple[float, float, float]
    low_mm: tuple[float, float, float]
    """Lowest corner of the box about the part, from the figure's origin."""
    factor: float
    triangles: int
    vertices: int
    shells: int
    watertight: bool
    area_mm2: float
    volume_mm3: float
    stance: Stance
    frame: Frame | None = None
    """Of a bit or a form: where the box about it as it was made now stands, figure mm."""
    print_axes: tuple[Vector, Vector, Vector]
    """Rows of the turn from figure axes to print axes."""
    print_offset_mm: Vector
    """Added after turning and growing."""
    print_height_mm: float
    """From the plate to the top as it stands in the printer, with its lift."""


@dataclass(frozen=True)
class Build:
    """What came of a recipe in an edition. ``thickness``, the ``walled`` meshes it is of, which agree with themselves,
    ``details`` and ``layers`` hold one entry a part, in order."""

    recipe: Recipe
    edition: Edition
    parts: tuple[Part, ...]
    receipts: tuple[Receipt, ...]
    facts: tuple[Facts, ...]
    findings: tuple[Finding, ...]
    thickness: tuple[Thickness, ...]
    walled: tuple[Mesh, ...]
    layers: tuple[LayersReport | None, ...]
    gauge: Gauge
    details: tuple[Detail | None, ...] = ()
    unseen: tuple[Unseen, ...] = ()
    meetings: tuple[Meeting, ...] = ()
    """Where bits that are parts of their own meet others."""
    seconds: dict[str, float] = field(default_factory=dict)

    @property
    def estimates(self) -> tuple[Estimate | None, ...]:
        """The estimate of every part; None where its layers could not be seen."""
        return tuple(report.estimate if report else None for report in self.layers)


def build_figure(
    recipe: Recipe,
    edition: Edition,
    sources: Mapping[str, Source],
    memory: Memory | None = None,
    told: Told = unheard,
    provenance: bool = False,
) -> Build:
    """Run the recipe, then every check at print size. ``told`` hears the share done (0 to 1) and what is being done.

    ``provenance`` asks whose its sources are as well, which concerns what is to be released and no file looked at.

    Raises UnknownOnBench for a printer or material that does not exist.
    """
    recipe = recipe.made
    setup = setup_for(edition.printer, edition.material)
    memory = memory or NoMemory()
    clock = time.perf_counter
    began = clock()
    ahead = recipe.seconds(1)
    begin = ahead / (ahead + CHECK_SECONDS_A_TRIANGLE)
    run = run_recipe(recipe, sources, edition, memory, within(told, 0.0, begin))
    factor = run.factor
    seconds = {"recipe": clock() - began}
    findings = check_recipe(recipe, run.receipts, run.parts, factor)
    findings += check_scan(recipe.steps, run.receipts, run.parts, factor)
    findings += check_provenance(recipe.steps) if provenance else []
    findings += check_stamps(recipe, run.receipts, run.parts, run.factor, setup)
    began = clock()
    meetings = meetings_of(recipe, run.parts, memory)
    findings += check_kit(recipe, run.receipts, run.parts, meetings, factor, setup)
    seconds["kit"] = clock() - began
    first = next((step for step in recipe.steps if isinstance(step, BringIn)), None)
    if first and run.parts:
        findings += check_unit(first, joined(*(part.mesh for part in run.parts)), edition)
    findings += check_lean(run.parts, factor) if run.parts else []
    thickness: list[Thickness] = []
    walled: list[Mesh] = []
    layers: list[LayersReport | None] = []
    unseen: list[Unseen] = []
    places: list[PlaceSaid] = []
    thin_from = setup.material.walls.thin_from.in_figure(factor)
    for at, part in enumerate(run.parts):
        told(begin + (1 - begin) * (at + 0.0) / len(run.parts), "mend: edges, faces, shells")
        began = clock()
        wrong = _mended_findings(part, factor, setup.printer, memory)
        found = [*wrong, *check_facets(part, factor, setup), *check_fit(part, factor, setup, edition)]
        seconds["mend"] = seconds.get("mend", 0.0) + clock() - began

        told(begin + (1 - begin) * (at + 0.3) / len(run.parts), "gauge: walls")
        began = clock()
        seen = replace(part, mesh=orient_faces(without_repeats(part.mesh))[0]) if wrong else part
        walls = _walls(seen.mesh, memory)
        if walls is None:
            unseen.append(Unseen(station=Station.GAUGE, part=part.name, why=_NO_WALLS))
        else:
            worn = sanded(seen.mesh, walls, edition.sanding.in_figure(factor), factor, thin_from)
            thin = kinded_places(seen.mesh, worn, setup.material, factor)
            found += check_walls(seen, thin, factor, setup, edition)
            places += places_said(part.name, seen.mesh, thin, factor, setup.material)
        thickness.append(walls or Thickness.unknown(seen.mesh))
        walled.append(seen.mesh)
        seconds["gauge"] = seconds.get("gauge", 0.0) + clock() - began

        told(begin + (1 - begin) * (at + 0.9) / len(run.parts), "layers: outlines and islands")
        began = clock()
        try:
            report = check_layers(part, factor, setup)
            found += [*report.findings, *check_stand(part, factor, setup)]
            layers.append(report)
        except TooManyLayers as refusal:
            unseen.append(Unseen(station=Station.LAYERS, part=part.name, why=str(refusal)))
            layers.append(None)
        findings += found if len(run.parts) == 1 else [_of_part_alone(finding) for finding in found]
        seconds["layers"] = seconds.get("layers", 0.0) + clock() - began
    told(1.0, "gauge: what breaks first, and whether it stands")
    began = clock()
    seen_parts = [part for part, walls in zip(run.parts, thickness, strict=True) if walls.areas.any()]
    inserts = [insert for receipt in run.receipts for insert in receipt.inserts]
    gauge, found, details = gauge_whole(run.parts, seen_parts, inserts, factor, setup, edition, memory)
    findings += found if len(run.parts) == 1 else [_of_part_alone(finding) for finding in found]
    findings += check_level(recipe.steps, run.receipts, run.parts)
    thinnest = tuple(sorted(places, key=lambda place: place.least_mm)[:_PLACES])
    shares = wall_shares([walls for walls in thickness if walls.areas.any()], factor, setup.material)
    findings, gauge = named(findings, gauge.model_copy(update={"places": thinnest, "walls": shares}), recipe.steps)
    seconds["gauge"] = seconds.get("gauge", 0.0) + clock() - began
    return Build(
        recipe=recipe,
        edition=edition,
        parts=run.parts,
        receipts=run.receipts,
        facts=tuple(_facts(part, factor) for part in run.parts),
        findings=in_order(accepted(findings, recipe.steps)),
        thickness=tuple(thickness),
        walled=tuple(walled),
        layers=tuple(layers),
        gauge=gauge,
        details=tuple(details.get(part.name) for part in run.parts),
        unseen=tuple(unseen),
        meetings=tuple(one for met in meetings.values() for one in met or ()),
        seconds=seconds,
    )


def whole_size(facts: Sequence[Facts]) -> Vector:
    """Wide, deep and tall of all parts as they stand to each other, print mm."""
    low = np.min([part.low_mm for part in facts], axis=0)
    high = np.max([np.add(part.low_mm, part.size_mm) for part in facts], axis=0)
    return _vector(high - low)


def build_pictures(build: Build) -> tuple[bytes, ...]:
    """A PNG of every part of a build from its front, thin walls tinted."""
    stop = setup_for(build.edition.printer, build.edition.material).material.walls.free_standing.stop
    return tuple(
        picture_png(part.mesh, walls, stop.in_figure(facts.factor))
        for part, walls, facts in zip(build.parts, build.thickness, build.facts, strict=True)
    )


def _mended_findings(part: Part, factor: float, printer: Printer, memory: Memory) -> list[Finding]:
    """What Mend says of a part, measured once for every mesh and size."""
    said = (part.name, part.source, part.mesh.hash, part.overlaps_left, part.captured is not None, factor, printer.id)
    key = measured_key("mend", *said, BENCH_TOLERANCES.model_dump(mode="json"))
    if (kept := memory.recall_measured(key)) is not None:
        return _FINDINGS.validate_json(kept)
    found = check_mesh(part, factor, BENCH_TOLERANCES, printer)
    memory.keep_measured(key, _FINDINGS.dump_json(found))
    return found


def _walls(mesh: Mesh, memory: Memory) -> Thickness | None:
    """The walls of a mesh, measured once for every size; None when so much of it is open that no ray would meet the
    other side of anything."""
    edges = edges_of(mesh)
    if edges.open.sum() > _MOSTLY_OPEN * max(len(edges.uses), 1):
        return None
    key = measured_key("walls", mesh.hash)
    if (kept := memory.recall_measured(key)) is not None:
        return Thickness.from_bytes(kept)
    walls = measure_thickness(mesh)
    memory.keep_measured(key, walls.to_bytes())
    return walls


def _of_part_alone(finding: Finding) -> Finding:
    """A finding whose remedies change its own part and no other."""
    remedies = []
    for remedy in finding.remedies:
        if isinstance(remedy.change, AddSteps):
            steps = tuple(step.model_copy(update={"scope": finding.part}) for step in remedy.change.steps)
            remedies.append(remedy.model_copy(update={"change": AddSteps(steps=steps)}))
        else:
            remedies.append(remedy)
    return finding.model_copy(update={"remedies": tuple(remedies)})


def in_order(findings: list[Finding]) -> tuple[Finding, ...]:
    """Findings as a careful person would take them: station by station, the grave ones first."""
    stations = list(Station)
    return tuple(
        sorted(
            findings,
            key=lambda f: (stations.index(f.station), _ORDER[f.severity], f.code in _AFTERWARDS, f.code, _gravity(f)),
        )
    )


def _gravity(finding: Finding) -> float:
    # A wall is graver the thinner it is; everything else the larger it is.
    return finding.measured if finding.measured < finding.limit else -finding.measured


def _facts(part: Part, factor: float) -> Facts:
    low, high = bounds(part.mesh)
    x, y, z = map(float, (high - low) * factor)
    whole = without_repeats(part.mesh)
    edges = edges_of(whole)
    axes = [_vector(row) for row in part.stance.turn]
    return Facts(
        part=part.name,
        size_mm=(x, y, z),
        low_mm=tuple(map(float, low * factor)),
        factor=factor,
        triangles=len(part.mesh.faces),
        vertices=len(part.mesh.vertices),
        shells=face_shells(whole, edges)[0],
        watertight=is_watertight(edges),
        area_mm2=area(part.mesh) * factor**2,
        volume_mm3=volume(part.mesh) * factor**3,
        stance=part.stance,
        frame=part.frame,
        print_axes=(axes[0], axes[1], axes[2]),
        print_offset_mm=_vector(part.stance.offset(part.mesh, factor)),
        print_height_mm=float(bounds(part.stance.in_print(part.mesh, factor))[1, 2]),
    )


def _vector(values: Floats) -> Vector:
    x, y, z = map(float, values)
    return x, y, z
