"""What Finish looks at: colours of figures that have a plan for them."""

from collections.abc import Mapping, Sequence
from typing import Any, ClassVar

import numpy as np

from ulvet.core.findings.check import Check, FigureCheck, FigureUnderCheck, PartCheck
from ulvet.core.findings.finding import Finding, Unseen
from ulvet.core.finish.check_colours import check_coats, check_reach, check_regions
from ulvet.core.finish.masks import MaskLine, check_masks, mask_lines
from ulvet.core.finish.reach import PartReach, reach_by_stage
from ulvet.core.finish.regions import Labels, OpenedMesh, labels_of
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
    "MasksCheck",
    "RegionAreas",
    "RegionsCheck",
    "RegionsSeen",
    "StacksCheck",
    "colour_plan",
    "role_areas",
]

RegionAreas = dict[int, float]
"""By region its area, figure mm²."""
RegionsSeen = tuple[Labels, RegionAreas, tuple[MaskLine, ...]]
"""The region of every face of a part, their areas, and the lines between roles."""


class RegionsCheck(PartCheck):
    """The region of every face of a part, and the lines between roles."""

    station: ClassVar[Station] = Station.FINISH
    progress_text: ClassVar[str] = "finish: regions"
    part_fields: ClassVar[tuple[str, ...]] = ("name", "mesh", "source")
    context_names: ClassVar[tuple[str, ...]] = ("regions", "factor")
    seconds_a_triangle: ClassVar[float] = 1e-6

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> RegionsSeen:
        regions = context["regions"]
        opened = OpenedMesh.of(part.mesh) if regions else None
        labels = labels_of(part, regions, context["factor"], opened)
        areas = np.bincount(labels.of_face + 1, face_areas(part.mesh), minlength=len(regions) + 1)[1:]
        lines = () if opened is None else mask_lines(opened, labels, regions)
        return labels, {at: float(area) for at, area in enumerate(areas) if area > 0}, lines

    def judge(self, part: Part, measured: RegionsSeen, figure: FigureUnderCheck) -> list[Finding | Unseen]:
        plan = colour_plan(figure.recipe)
        return [] if plan is None else list(check_regions(part, measured[0], plan, figure.factor))


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
        return others[RegionsCheck][2], others[HandlingCheck]

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
    """The coats of the scheme that is meant."""

    station: ClassVar[Station] = Station.FINISH
    progress_text: ClassVar[str] = "finish: coats"
    part_fields: ClassVar[tuple[str, ...]] = ("name",)
    context_names: ClassVar[tuple[str, ...]] = ("regions",)
    judge_names: ClassVar[tuple[str, ...]] = ("bench.paints", "bench.stations", "setup.material.shade")
    after: ClassVar[tuple[type[Check], ...]] = (RegionsCheck,)
    cached: ClassVar[bool] = False

    def measure(
        self, parts: Sequence[Part], context: Context, others: Mapping[type[Check], Sequence[Any]]
    ) -> list[RegionAreas]:
        return [areas for _, areas, _ in others[RegionsCheck]]

    def judge(
        self, parts: Sequence[Part], measured: list[RegionAreas], figure: FigureUnderCheck
    ) -> list[Finding | Unseen]:
        plan = colour_plan(figure.recipe)
        if plan is None or plan.meant is None:
            return []
        return list(check_coats(plan, plan.meant, figure.bench.paints))


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
    """By role its area, print mm², over all parts."""
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
