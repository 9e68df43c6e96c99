"""A build: a recipe in an edition, run and looked at by every check there is."""

import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from ulvet.core.bench.bench import DEFAULT_BENCH, Bench
from ulvet.core.bench.edition import Edition
from ulvet.core.bench.part_setups import PartSetups
from ulvet.core.bits.placement import PlacedStep
from ulvet.core.build.exploded import exploded_png
from ulvet.core.build.picture import picture_png
from ulvet.core.findings.check import FigureUnderCheck, check_kinds
from ulvet.core.findings.check_run import CheckRun, StationFindings
from ulvet.core.findings.facts import Facts, FactsMeasured, whole_size
from ulvet.core.findings.finding import Finding, Severity, Unseen
from ulvet.core.finish.checks import RegionsCheck, RegionsSeen, SightCheck, colour_plan
from ulvet.core.finish.report import FinishReport, finish_report
from ulvet.core.gauge.balance.balance import weighed
from ulvet.core.gauge.checks import BalanceCheck, DetailCheck, HandlingCheck, SharesCheck, ThinCheck, WallsCheck
from ulvet.core.gauge.detail.detail import Detail
from ulvet.core.gauge.figure_measures import FigureMeasures, LimbRow, figure_measures_of, ranked_with
from ulvet.core.gauge.limbs.check_handling import weak_limbs
from ulvet.core.gauge.walls.given_names import with_names
from ulvet.core.gauge.walls.place_names import thin_place_rows
from ulvet.core.gauge.walls.thickness import Thickness
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.join.check import Meeting
from ulvet.core.join.checks import KitCheck
from ulvet.core.layers.check import LayersReport
from ulvet.core.layers.checks import LayersCheck, LayersSeen, StackCheck
from ulvet.core.layers.estimate import Estimate
from ulvet.core.lengths import FigureMM
from ulvet.core.lineage import part_in_words
from ulvet.core.part.checks import JointsCheck
from ulvet.core.part.report import AssemblyReport, JointRow, assembly_report
from ulvet.core.part.survey import PartsSurvey
from ulvet.core.progress import Progress, no_progress, progress_within
from ulvet.core.recipe.receipt import Receipt
from ulvet.core.recipe.runner import Memory, NoMemory, Recipe, Source, run_recipe
from ulvet.core.recipe.step import Part
from ulvet.core.stations import Station

__all__ = [
    "Build",
    "Facts",
    "build_exploded",
    "build_figure",
    "build_pictures",
    "check_seconds",
    "in_order",
    "whole_size",
]

_ORDER = {Severity.STOP: 0, Severity.CAUTION: 1, Severity.NOTE: 2}
_AFTERWARDS = ("snap-risk", "tips-over", "not-level")
"""What happens to a print comes after what happens to it on the plate."""


@dataclass(frozen=True)
class Build:
    """What came of a recipe in an edition. What checks measured is read when it is first asked for; ``thickness``, the
    ``walled`` meshes it is of, which agree with themselves, ``details`` and ``layers`` hold one entry a part, in
    order."""

    recipe: Recipe
    edition: Edition
    parts: tuple[Part, ...]
    receipts: tuple[Receipt, ...]
    factor: float
    placed: FigureMM
    """Height that an edition's height is of."""
    findings: tuple[Finding, ...]
    unseen: tuple[Unseen, ...]
    checks: CheckRun
    seconds: dict[str, float] = field(default_factory=dict)

    @cached_property
    def facts(self) -> tuple[Facts, ...]:
        """The plain measures of every part."""
        return tuple(self.checks.of(FactsMeasured, at).value for at in range(len(self.parts)))

    @cached_property
    def thickness(self) -> tuple[Thickness, ...]:
        """The walls of every part, unknown where they were not measured."""
        walled = [self.checks.known(WallsCheck, at) for at in range(len(self.parts))]
        pairs = zip(walled, self.parts, strict=True)
        return tuple(one.thickness if one else Thickness.unknown(part.mesh) for one, part in pairs)

    @cached_property
    def walled(self) -> tuple[Mesh, ...]:
        """The meshes whose walls were measured."""
        walled = [self.checks.known(WallsCheck, at) for at in range(len(self.parts))]
        return tuple(one.mesh if one else part.mesh for one, part in zip(walled, self.parts, strict=True))

    @cached_property
    def layers(self) -> tuple[LayersReport | None, ...]:
        """The layers of every part; None where they could not be seen."""
        return tuple(
            LayersReport(self.checks.of(StackCheck, at).value, seen.estimate, seen.islands, seen.findings)
            if seen
            else None
            for at, seen in enumerate(self._layers_seen)
        )

    @property
    def estimates(self) -> tuple[Estimate | None, ...]:
        """The estimate of every part; None where its layers could not be seen."""
        return tuple(seen.estimate if seen else None for seen in self._layers_seen)

    @cached_property
    def _layers_seen(self) -> tuple[LayersSeen | None, ...]:
        known = [self.checks.known(LayersCheck, at) for at in range(len(self.parts))]
        return tuple(seen if isinstance(seen, LayersSeen) else None for seen in known)

    @cached_property
    def details(self) -> tuple[Detail | None, ...]:
        """The detail of every part; None where it was not measured."""
        return tuple(self.checks.known(DetailCheck, at) for at in range(len(self.parts)))

    @cached_property
    def meetings(self) -> tuple[Meeting, ...]:
        """Where bits that are parts of their own meet others."""
        met = self.checks.known(KitCheck) or {}
        return tuple(one for some in met.values() for one in some or ())

    @cached_property
    def assembly(self) -> AssemblyReport:
        """How the parts go together."""
        figure = self.checks.figure
        survey = self.checks.known(JointsCheck) or PartsSurvey()
        glues = [glue for glue in figure.bench.glues if not glue.retired]
        return assembly_report(self.parts, survey, figure.setup, glues)

    @cached_property
    def finish(self) -> FinishReport:
        """Its colours and the order of work."""
        figure = self.checks.figure
        seen = list(filter(None, self.regions)) if all(self.regions) else []
        return finish_report(
            colour_plan(self.recipe), self.parts, self.facts, seen, self.checks.known(SightCheck) or [],
            self.assembly, figure.setup, figure.bench,
        )  # fmt: skip

    @cached_property
    def regions(self) -> tuple[RegionsSeen | None, ...]:
        """The region of every face of every part; None where that is not known."""
        return tuple(self.checks.known(RegionsCheck, at) for at in range(len(self.parts)))

    @cached_property
    def gauge(self) -> FigureMeasures:
        """The measures of the figure that are no findings."""
        figure = self.checks.figure
        of_parts = []
        for at, part in enumerate(self.parts):
            thin = self.checks.known(ThinCheck, at) or []
            setup = self.checks.setups.of(part.name)
            said = thin_place_rows(part.name, part.mesh, thin, self.factor, setup.walls)
            weak = weak_limbs(part, self.checks.known(HandlingCheck, at) or [], setup.material)
            of_parts.append((part, weak, self.checks.known(DetailCheck, at), said))
        inserts, walls = figure.inserts, self.checks.known(SharesCheck)
        balance = weighed(self.checks.known(BalanceCheck), inserts, self.factor)
        measures = figure_measures_of(of_parts, balance, inserts, walls, self.factor, figure.setup.material.density)
        return with_names(
            ranked_with(measures, [_joint_row(one) for one in self.assembly.joints if one.opens_N is not None]),
            self.recipe.steps,
        )


def _joint_row(joint: JointRow) -> LimbRow:
    """A joint among what breaks first."""
    first, second = (part_in_words(name) for name in joint.parts)
    return LimbRow(
        part=joint.parts[0],
        name=f"joint of {first} and {second}",
        force_N=joint.opens_N or 0.0,
        lever_mm=joint.lever_mm,
        section_mm=joint.narrowest_mm,
        slips=False,
        drop=False,
        point=joint.point,
        joint=True,
    )


def check_seconds(triangles: int) -> float:
    """What all checks together take on so many triangles, roughly, to say beforehand how long a build will be."""
    return triangles * sum(kind.seconds_a_triangle for kind in check_kinds())


def build_figure(
    recipe: Recipe,
    edition: Edition,
    sources: Mapping[str, Source],
    memory: Memory | None = None,
    progress: Progress = no_progress,
    of_studio: bool = False,
    first: Station | None = None,
    seen: Callable[[StationFindings], None] = lambda one: None,
    bench: Bench = DEFAULT_BENCH,
) -> Build:
    """Run the recipe, then every check at print size. ``progress`` hears the share done, 0 to 1, and what is
    being done.

    ``of_studio`` asks as well whose its sources are and what is undecided, which concerns no file that is looked at.
    ``seen`` hears what each station says as soon as its checks are done, those of the station ``first`` before others.

    Raises UnknownOnBench for a setting that does not exist.
    """
    recipe = recipe.made
    setups = PartSetups(bench, edition)
    memory = memory or NoMemory()
    ahead = recipe.seconds(1)
    begin = ahead / (ahead + check_seconds(1))
    began = time.perf_counter()
    run = run_recipe(recipe, sources, edition, memory, progress_within(progress, 0.0, begin), bench)
    seconds = {"recipe": time.perf_counter() - began}
    figure = FigureUnderCheck(recipe, run.receipts, run.parts, run.factor, setups.usual, edition, bench, of_studio)
    context = {
        "factor": run.factor,
        "edition": edition,
        "sanding": edition.sanding,
        "placed": tuple(step.name for step in recipe.steps if isinstance(step, PlacedStep) and step.on),
        "show_side": None,
        "assembly_order": (),
        "regions": (),
        "decals": (),
        "brush": None,
        **_said_by(recipe),
        "memory": memory,
    }
    checks = CheckRun(figure, setups, context, memory)
    findings, unseen = checks.findings(
        progress_within(progress, begin, 1 - begin),
        seconds,
        first,
        lambda one: seen(one.model_copy(update={"findings": in_order(list(one.findings))})),
    )
    return Build(
        recipe=recipe,
        edition=edition,
        parts=run.parts,
        receipts=run.receipts,
        factor=run.factor,
        placed=run.placed,
        findings=in_order(findings),
        unseen=tuple(unseen),
        checks=checks,
        seconds=seconds,
    )


def _said_by(recipe: Recipe) -> dict[str, Any]:
    """What the steps say for those after them, the last word of each."""
    said: dict[str, Any] = {}
    for step in recipe.steps:
        said.update(step.context_after() if step.on else {})
    return said


def build_pictures(build: Build) -> tuple[bytes, ...]:
    """A PNG of every part of a build from its front, thin walls tinted."""
    stop = build.checks.figure.setup.walls.free_standing.stop
    return tuple(
        picture_png(part.mesh, walls, stop.in_figure(build.factor))
        for part, walls in zip(build.parts, build.thickness, strict=True)
    )


def build_exploded(build: Build) -> bytes | None:
    """A PNG of a build pulled apart; None where nothing was cut."""
    meshes = {part.name: part.mesh for part in build.parts}
    return exploded_png(meshes, build.assembly.apart) if build.assembly.joints else None


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
