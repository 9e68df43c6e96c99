"""What Hollow looks at."""

from collections.abc import Mapping, Sequence
from typing import Any, ClassVar

import numpy as np

from ulvet.core.findings.check import Check, FigureCheck, FigureUnderCheck, PartCheck
from ulvet.core.findings.finding import Finding, Unseen
from ulvet.core.hollow.check import check_pocket, check_resin_left, check_spaces, check_undecided
from ulvet.core.hollow.opening_proposals import FRONT
from ulvet.core.hollow.pocket_steps import Pocket, PocketReceipt
from ulvet.core.hollow.steps import Hollow, LeaveSolid
from ulvet.core.hollow.survey import ResinLeft, SpaceSeen, cavities_of, look_at_spaces, resin_left
from ulvet.core.layers.checks import CupCheck, LayersCheck, LayersSeen
from ulvet.core.layers.cup_findings import VentedCup
from ulvet.core.layers.estimate import Estimate
from ulvet.core.mend.checks import DiagnosisCheck
from ulvet.core.mend.diagnosis import Diagnosis
from ulvet.core.recipe.step import Context, Part
from ulvet.core.stations import Station

__all__ = ["PocketsCheck", "ResinLeftCheck", "SpacesCheck", "UndecidedCheck"]


class SpacesCheck(PartCheck):
    """The spaces of a part, with openings proposed where they lack one, and the cups in it, of which a sealed space is
    one; of a mesh that does not close or crosses itself only the cavities."""

    station: ClassVar[Station] = Station.HOLLOW
    progress_text: ClassVar[str] = "hollow: spaces and ways out"
    part_fields: ClassVar[tuple[str, ...]] = ("mesh", "stance", "source", "openings")
    context_names: ClassVar[tuple[str, ...]] = ("factor", "show_side")
    judge_names: ClassVar[tuple[str, ...]] = (
        "setup.printer.process",
        "setup.setting.times",
        "setup.setting.supports",
    )
    after: ClassVar[tuple[type[Check], ...]] = (DiagnosisCheck, CupCheck)
    seconds_a_triangle: ClassVar[float] = 2e-6

    def measure(
        self, part: Part, context: Context, others: Mapping[type[Check], Any]
    ) -> tuple[tuple[SpaceSeen, ...], tuple[VentedCup, ...]]:
        found: Diagnosis = others[DiagnosisCheck]
        if not found.closed or len(found.crossings.pairs):
            return cavities_of(found, context["factor"]), others[CupCheck]
        show = np.array(context["show_side"] or FRONT)
        return look_at_spaces(part, context["factor"], show), others[CupCheck]

    def judge(
        self, part: Part, measured: tuple[tuple[SpaceSeen, ...], tuple[VentedCup, ...]], figure: FigureUnderCheck
    ) -> list[Finding | Unseen]:
        hollow = next(
            (s for s in reversed(figure.recipe.steps) if isinstance(s, Hollow) and s.on and _concerns(s, part)), None
        )
        return list(check_spaces(part, *measured, figure.setup, hollow, figure.factor))


class ResinLeftCheck(PartCheck):
    """What resin stays in a part after printing."""

    station: ClassVar[Station] = Station.HOLLOW
    progress_text: ClassVar[str] = "hollow: resin that stays"
    part_fields: ClassVar[tuple[str, ...]] = ("mesh", "stance", "openings")
    context_names: ClassVar[tuple[str, ...]] = ("factor", "setup.printer.process")
    judge_names: ClassVar[tuple[str, ...]] = ("setup.printer.process",)
    after: ClassVar[tuple[type[Check], ...]] = (DiagnosisCheck,)
    seconds_a_triangle: ClassVar[float] = 2e-6

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> ResinLeft:
        wanted = context["setup"].process == "resin" and others[DiagnosisCheck].closed
        return resin_left(part, context["factor"]) if wanted else ResinLeft(())

    def judge(self, part: Part, measured: ResinLeft, figure: FigureUnderCheck) -> list[Finding | Unseen]:
        return list(check_resin_left(part, measured, figure.setup))


class PocketsCheck(FigureCheck):
    """What pockets leave of the walls about them, as it was measured when they were cut."""

    station: ClassVar[Station] = Station.HOLLOW
    progress_text: ClassVar[str] = "hollow: pockets"
    cached: ClassVar[bool] = False

    def judge(self, parts: Sequence[Part], measured: None, figure: FigureUnderCheck) -> list[Finding | Unseen]:
        found: list[Finding | Unseen] = []
        for step, receipt in zip(figure.recipe.steps, figure.receipts, strict=True):
            if isinstance(step, Pocket) and isinstance(receipt, PocketReceipt) and parts:
                part = next((one for one in parts if one.name == step.scope), parts[0])
                found += check_pocket(step, receipt, part)
        return found


class UndecidedCheck(PartCheck):
    """Whether somebody has decided that a large part is solid or hollow; of a file looked at nobody has to."""

    station: ClassVar[Station] = Station.HOLLOW
    progress_text: ClassVar[str] = "hollow: solid or not"
    cached: ClassVar[bool] = False
    judge_names: ClassVar[tuple[str, ...]] = ("setup.printer.process", "setup.material.price_per_litre")
    after: ClassVar[tuple[type[Check], ...]] = (DiagnosisCheck, LayersCheck, SpacesCheck)

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> tuple[Estimate, bool] | None:
        layers, (spaces, _) = others[LayersCheck], others[SpacesCheck]
        seen = isinstance(layers, LayersSeen) and not spaces
        return (layers.estimate, others[DiagnosisCheck].closed) if seen else None

    def judge(
        self, part: Part, measured: tuple[Estimate, bool] | None, figure: FigureUnderCheck
    ) -> list[Finding | Unseen]:
        decided = any(
            isinstance(step, Hollow | LeaveSolid) and step.on and _concerns(step, part) for step in figure.recipe.steps
        )
        if measured is None or decided or not figure.of_studio or not figure.edition.form.hollow:
            return []
        return list(check_undecided(part, *measured, figure.setup))


def _concerns(step: Hollow | LeaveSolid, part: Part) -> bool:
    """Whether a step is of a part, of what it was cut from, or of all."""
    return step.scope is None or step.scope == part.name or part.name.startswith(f"{step.scope}.")
