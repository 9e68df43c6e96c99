"""What Finish looks at: colours of figures that have a plan for them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from ulvet.core.findings.check import Check, FigureCheck, FigureUnderCheck, PartCheck
from ulvet.core.findings.finding import Finding, Unseen
from ulvet.core.finish.check_colours import check_coats, check_places, check_reach, check_regions
from ulvet.core.finish.decals import DecalSeen, check_decals, decals_seen
from ulvet.core.finish.masks import MaskLine, check_masks, mask_lines
from ulvet.core.finish.reach import PartReach, reach_by_stage
from ulvet.core.finish.regions import Labels, Mask, OpenedMesh, labels_of
from ulvet.core.finish.relief import relief_of
from ulvet.core.finish.sight import seen_shares
from ulvet.core.finish.steps import ColourPlan
from ulvet.core.gauge.checks import HandlingCheck
from ulvet.core.gauge.limbs.check_handling import weak_limbs
from ulvet.core.gauge.limbs.limbs import Limb
from ulvet.core.geometry.mesh import Mesh, face_areas
from ulvet.core.part.checks import JointsCheck
from ulvet.core.part.survey import PartsSurvey
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.step import Context, Part
from ulvet.core.stations import Station

__all__ = [
    "BrushReachCheck",
    "DecalsCheck",
    "MasksCheck",
    "RegionAreas",
    "RegionsCheck",
    "RegionsSeen",
    "SightCheck",
    "StacksCheck",
    "colour_plan",
    "role_areas",
]

RegionAreas = dict[int, float]
"""By region its area, figure mm²."""


@dataclass(frozen=True)
class RegionsSeen:
    """The region of every face of a part, the areas of all, how much of each are recesses and how much edges, and the
    lines between roles."""

    labels: Labels
    areas: RegionAreas
    recesses: RegionAreas
    edges: RegionAreas
    lines: tuple[MaskLine, ...]


class RegionsCheck(PartCheck):
    """The region of every face of a part, and the lines between roles."""

    station: ClassVar[Station] = Station.FINISH
    progress_text: ClassVar[str] = "finish: regions"
    part_fields: ClassVar[tuple[str, ...]] = ("name", "mesh", "source")
    context_names: ClassVar[tuple[str, ...]] = ("regions", "factor")
    seconds_a_triangle: ClassVar[float] = 1e-6

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> RegionsSeen:
        regions, factor = context["regions"], context["factor"]
        opened = OpenedMesh.of(part.mesh) if regions else None
        labels = labels_of(part, regions, factor, opened)
        if opened is None:
            return RegionsSeen(labels, {}, {}, {}, ())
        sums = np.bincount(labels.of_face + 1, face_areas(part.mesh), minlength=len(regions) + 1)[1:]
        areas = {at: float(area) for at, area in enumerate(sums) if area > 0}
        relief = relief_of(opened, factor)
        of_places = labels.of_face[relief.faces] + 1
        many = np.bincount(of_places, minlength=len(regions) + 1)[1:]

        def of_regions(there: Mask) -> RegionAreas:
            found = np.bincount(of_places, there, minlength=len(regions) + 1)[1:] / np.maximum(many, 1)
            return {at: float(found[at]) * area for at, area in areas.items()}

        recesses, edges = of_regions(relief.recess), of_regions(relief.edge)
        return RegionsSeen(labels, areas, recesses, edges, mask_lines(opened, labels, regions))

    def judge(self, part: Part, measured: RegionsSeen, figure: FigureUnderCheck) -> list[Finding | Unseen]:
        plan = colour_plan(figure.recipe)
        return [] if plan is None else list(check_regions(part, measured.labels, plan, figure.factor))


class SightCheck(FigureCheck):
    """How much of every region is seen once the figure is together."""

    station: ClassVar[Station] = Station.FINISH
    progress_text: ClassVar[str] = "finish: what is seen"
    part_fields: ClassVar[tuple[str, ...]] = ("name", "mesh")
    context_names: ClassVar[tuple[str, ...]] = ("regions",)
    after: ClassVar[tuple[type[Check], ...]] = (RegionsCheck,)
    seconds_a_triangle: ClassVar[float] = 1e-6

    def measure(
        self, parts: Sequence[Part], context: Context, others: Mapping[type[Check], Sequence[Any]]
    ) -> list[RegionAreas]:
        count, regions = len(context["regions"]), others[RegionsCheck]
        if not count:
            return []
        shares = seen_shares([part.mesh for part in parts], [one.labels.of_face for one in regions], count)
        return [
            {at: float(share[at]) * area for at, area in one.areas.items()}
            for one, share in zip(regions, shares, strict=True)
        ]


class DecalsCheck(PartCheck):
    """Where decals lie, and whether they lie flat."""

    station: ClassVar[Station] = Station.FINISH
    progress_text: ClassVar[str] = "finish: decals"
    part_fields: ClassVar[tuple[str, ...]] = ("name", "mesh", "source")
    context_names: ClassVar[tuple[str, ...]] = ("decals", "factor")

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> tuple[DecalSeen, ...]:
        return decals_seen(part, context["decals"], context["factor"])

    def judge(self, part: Part, measured: tuple[DecalSeen, ...], figure: FigureUnderCheck) -> list[Finding | Unseen]:
        plan = colour_plan(figure.recipe)
        return [] if plan is None else list(check_decals(part, measured, plan.decals))


class MasksCheck(PartCheck):
    """Tape on limbs that break when it is taken off."""

    station: ClassVar[Station] = Station.FINISH
    progress_text: ClassVar[str] = "finish: masks"
    part_fields: ClassVar[tuple[str, ...]] = ("name",)
    judge_names: ClassVar[tuple[str, ...]] = HandlingCheck.judge_names
    after: ClassVar[tuple[type[Check], ...]] = (RegionsCheck, HandlingCheck)
    cached: ClassVar[bool] = False

    def measure(
        self, part: Part, context: Context, others: Mapping[type[Check], Any]
    ) -> tuple[tuple[MaskLine, ...], list[Limb]]:
        return others[RegionsCheck].lines, others[HandlingCheck]

    def judge(
        self, part: Part, measured: tuple[tuple[MaskLine, ...], list[Limb]], figure: FigureUnderCheck
    ) -> list[Finding | Unseen]:
        plan = colour_plan(figure.recipe)
        if plan is None or plan.meant is None:
            return []
        lines, limbs = measured
        weak = weak_limbs(part, limbs, figure.setup.material)
        return list(check_masks(part, lines, weak, plan.meant, figure.factor))


class StacksCheck(FigureCheck):
    """The coats of the scheme that is meant, and what of the plan found no place."""

    station: ClassVar[Station] = Station.FINISH
    progress_text: ClassVar[str] = "finish: coats"
    part_fields: ClassVar[tuple[str, ...]] = ("name",)
    judge_names: ClassVar[tuple[str, ...]] = ("bench.paints", "bench.stations", "setup.material.shade")
    cached: ClassVar[bool] = False

    def judge(self, parts: Sequence[Part], measured: None, figure: FigureUnderCheck) -> list[Finding | Unseen]:
        plan = colour_plan(figure.recipe)
        if plan is None:
            return []
        receipt = figure.receipts[figure.recipe.steps.index(plan)]
        coats = () if plan.meant is None else check_coats(plan, plan.meant, figure.bench.paints)
        return [*check_places(plan, receipt.lost), *coats]


class BrushReachCheck(FigureCheck):
    """Where a brush comes to while the figure is put together, of one that is painted."""

    station: ClassVar[Station] = Station.FINISH
    progress_text: ClassVar[str] = "finish: where a brush comes to"
    part_fields: ClassVar[tuple[str, ...]] = ("name", "mesh")
    context_names: ClassVar[tuple[str, ...]] = ("factor", "brush")
    after: ClassVar[tuple[type[Check], ...]] = (JointsCheck,)
    seconds_a_triangle: ClassVar[float] = 2e-6

    def measure(
        self, parts: Sequence[Part], context: Context, others: Mapping[type[Check], Sequence[Any]]
    ) -> tuple[PartReach, ...]:
        (survey,) = others[JointsCheck]
        if context["brush"] is None or not survey.order:
            return ()
        factor = context["factor"]
        meshes = [Mesh(part.mesh.vertices * factor, part.mesh.faces) for part in parts]
        return reach_by_stage(meshes, _stages([part.name for part in parts], survey), context["brush"])

    def judge(
        self, parts: Sequence[Part], measured: tuple[PartReach, ...], figure: FigureUnderCheck
    ) -> list[Finding | Unseen]:
        plan = colour_plan(figure.recipe)
        return [] if plan is None else list(check_reach(parts, measured, plan, figure.factor))


def colour_plan(recipe: Recipe) -> ColourPlan | None:
    """The colour plan of a recipe; None where it has none."""
    return next((step for step in reversed(recipe.steps) if isinstance(step, ColourPlan) and step.on), None)


def role_areas(plan: ColourPlan, areas: Sequence[RegionAreas], factor: float) -> dict[str, float]:
    """By role the sum of areas, print mm², over all parts."""
    found = dict.fromkeys(plan.roles, 0.0)
    for of_part in areas:
        for at, area in of_part.items():
            found[plan.regions[at].role] += area * factor**2
    return found


def _stages(names: Sequence[str], survey: PartsSurvey) -> list[list[int]]:
    """Which parts stand together after each act of putting together, by number."""
    there = [names.index(survey.first)] if survey.first in names else []
    stages = [sorted(there)]
    for step in survey.order:
        there = [*there, *(names.index(name) for name in step.parts if name in names)]
        stages.append(sorted(set(there)))
    return stages
