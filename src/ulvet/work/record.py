"""The record of a build: everything the page needs, with meshes and pictures named by hash."""

import hashlib
import json
from collections import Counter
from dataclasses import dataclass
from typing import Literal

from pydantic import BaseModel, JsonValue

from ulvet.core.bench.bench import Bench
from ulvet.core.bench.edition import Edition
from ulvet.core.blob_hash import BlobHash
from ulvet.core.build.build_reads import values_read
from ulvet.core.build.figure_build import Facts
from ulvet.core.digest import core_digest
from ulvet.core.findings.finding import Finding, Severity, Unseen
from ulvet.core.finish.report import FinishReport
from ulvet.core.gauge.figure_measures import FigureMeasures
from ulvet.core.hollow.survey import SpaceSeen
from ulvet.core.layers.estimate import Estimate
from ulvet.core.layers.look import FirstLook
from ulvet.core.lengths import FigureMM
from ulvet.core.part.report import AssemblyReport
from ulvet.core.provenance.inherited import Inherited
from ulvet.core.recipe.openings import Opening
from ulvet.core.recipe.receipt import Insert
from ulvet.core.recipe.runner import Recipe, recipe_hash
from ulvet.core.recipe.step import Number
from ulvet.core.recipe.union import AnyStep
from ulvet.core.scan.captured import Captured
from ulvet.core.size.scales import SizeSurvey

__all__ = [
    "BuildRecord",
    "GhostRecord",
    "Glance",
    "LayerFrame",
    "PartRecord",
    "Sounding",
    "StepSentence",
    "build_key",
]


class Sounding(BaseModel):
    """A wall measured at a point of the surface (figure mm), to be printed on the chart; wall in figure mm."""

    point: tuple[float, float, float]
    normal: tuple[float, float, float] | None
    """None where it is told from whichever side it is seen."""
    wall: float


class LayerFrame(BaseModel):
    """Where the pictures of a part's layers lie in print axes, mm."""

    left: float
    front: float
    foot: float
    """Height at which the first layer begins."""
    wide: float
    deep: float
    layer: float


class GhostRecord(BaseModel):
    """A foreign object beside the figure: drawn, never exported."""

    name: str
    display: BlobHash
    """Blob of its display mesh, in figure mm."""
    yardsticks: dict[str, float]
    """Its lengths by name, mm."""


class PartRecord(BaseModel):
    """One part of a build, its mesh and what is drawn of it."""

    facts: Facts
    source: str
    """Hash of the source's mesh, or of the bit's, that it came with."""
    mesh: BlobHash
    display: BlobHash
    """Blob of the display mesh; see ``ulvet.work.display``."""
    colour_display: BlobHash | None = None
    """Blob of its display mesh whose walls hold the region of each vertex by its place in the colour plan, as if figure
    mm; None where nothing of it has a region."""
    layers: BlobHash | None
    """Blob of the layer runs; None when there were too many."""
    layer_frame: LayerFrame | None
    estimate: Estimate | None
    areas: list[float]
    """Area of every layer, thinned to at most 400 values, mm²."""
    look: FirstLook | None = None
    """When to look at its print first; None where there is nothing to see before it is done."""
    pull: float | None = None
    """Pull on a mm² of a layer, N, an estimate; None in filament, and of a record that an earlier version wrote."""
    soundings: BlobHash | None
    """Blob of walls at points spread over the surface; None of a record that an earlier version wrote."""
    tips: list[Sounding]
    """Tips of the supports where they touch, ``wall`` being the diameter in figure mm."""
    picture: BlobHash
    """Blob of a PNG from the front."""
    spaces: list[SpaceSeen]
    """Its spaces, the largest first."""
    openings: list[Opening]
    """Holes that lead out of them, by whose numbers a space names its own."""
    inside_display: BlobHash | None
    """Blob of the display mesh of its spaces; None where it has none."""
    fits: list[str]
    """Names of the printers that hold it some way up, of one that was cut off."""
    left_ml: float
    """Resin that stays in it as it hangs."""
    supports: BlobHash | None
    """Blob of the supports' mesh, print mm; None when it is not held."""
    supports_display: BlobHash | None
    """Blob of their display mesh, in figure mm and axes."""
    detail_display: BlobHash | None
    """Blob of its display mesh, whose walls hold how much of the size at which its detail shows it has, as if 1 were a
    print mm; None where no detail is lost."""
    captured: Captured | None
    """How it compares with what a scanner saw of it, figure mm; None for what was not scanned."""
    captured_display: BlobHash | None
    """Blob of its display mesh, whose walls hold how much nearer than the reach the nearest captured point is."""


class MeetingRecord(BaseModel):
    """How a bit would hold to a part it meets, print mm, mm² and mm³."""

    bit: str
    host: str
    overlap: float
    neck: float
    neck_width: float
    sealed: float


class StepSentence(BaseModel):
    """One sentence of the record."""

    step: AnyStep
    phase: int
    rank: int
    """Steps change places only within a phase and a rank."""
    sentence: list[str | Number]
    receipt: dict[str, JsonValue]
    """What the step tells of what it did."""


class BuildRecord(BaseModel):
    """A finished build."""

    version: Literal[5] = 5
    """Of how records are written; earlier ones are brought forward when they are read."""
    key: str
    size_mm: tuple[float, float, float]
    """Of all parts as they stand to each other."""
    placed_mm: FigureMM | None = None
    """Height of what was set down, of which an edition's height is said; None of a record that an earlier version
    wrote."""
    estimate: Estimate | None
    """Of all parts on one plate; None where the layers of one could not be seen."""
    measured: BlobHash | None
    """Blob of what sizes are worked out from, figure mm, as JSON; None of a record that an earlier version wrote."""
    sizes: SizeSurvey | None
    """What would be too thin at other sizes."""
    ghosts: list[GhostRecord]
    meetings: list[MeetingRecord]
    """Where bits that are parts of their own meet others."""
    silhouette: BlobHash
    """Blob of its outline from the front at print size, as JSON."""
    inherited: Inherited
    """What may be done with it, by everything in it."""
    parts: list[PartRecord]
    steps: list[StepSentence]
    gauge: FigureMeasures
    inserts: list[Insert]
    """What was set into it, bought parts and wires."""
    assembly: AssemblyReport
    """How its parts go together; empty where it was not cut."""
    exploded: BlobHash | None
    """Blob of a PNG of it pulled apart; None where it was not cut."""
    finish: FinishReport = FinishReport()
    """Colours and the order of work; empty of a record that an earlier version wrote."""
    findings: list[Finding]
    unseen: list[Unseen]
    seconds: dict[str, float]


@dataclass(frozen=True)
class Glance:
    """What the shelf tells of a finished build."""

    size_mm: tuple[float, float, float] | None
    """None where nothing is left of the figure."""
    picture: BlobHash | None
    open: dict[Severity, int]
    """Open findings by severity."""
    estimate: Estimate | None
    next: Finding | None
    """What a careful person would do next; None where nothing is open."""

    @classmethod
    def of(cls, record: BuildRecord) -> "Glance":
        parts, findings = record.parts, record.findings
        return cls(
            size_mm=record.size_mm if parts else None,
            picture=parts[0].picture if parts else None,
            open=Counter(finding.severity for finding in findings),
            estimate=record.estimate,
            next=findings[0] if findings else None,
        )


def build_key(recipe: Recipe, edition: Edition, bench: Bench) -> str:
    """What a build is known by: the recipe as its edition follows it, what is made, what it reads of the bench, and
    the core that computes it. Neither what an edition is called nor its id are part of that."""
    # The recipe has its variant, and what the form leaves out, said already.
    made = edition.model_dump(mode="json", exclude={"variant": True, "form": {"hollow", "parted"}})
    said = json.dumps([made, values_read(recipe, edition, bench)], sort_keys=True)
    return hashlib.sha256(f"{recipe_hash(recipe)} {said} {core_digest()}".encode()).hexdigest()
