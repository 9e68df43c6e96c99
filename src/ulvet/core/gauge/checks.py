"""What Gauge looks at."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, ClassVar

import numpy as np

from ulvet.core.bench.bench import SETUPS_ON_BENCH
from ulvet.core.findings.check import Check, FigureCheck, FigureUnderCheck, PartCheck
from ulvet.core.findings.finding import Finding, Unseen
from ulvet.core.gauge.balance.balance import Balance, weighed
from ulvet.core.gauge.balance.check_balance import balance_of_parts, check_balance
from ulvet.core.gauge.balance.check_level import check_level
from ulvet.core.gauge.detail.detail import Detail, detail_of, least_shown_by
from ulvet.core.gauge.figure_measures import with_acceptances
from ulvet.core.gauge.limbs.check_handling import check_handling, weak_limbs
from ulvet.core.gauge.limbs.handling import limbs_in
from ulvet.core.gauge.limbs.limbs import Limb
from ulvet.core.gauge.walls.check_walls import check_walls
from ulvet.core.gauge.walls.given_names import renamed
from ulvet.core.gauge.walls.kinds import Kind
from ulvet.core.gauge.walls.place_names import places_with_kinds
from ulvet.core.gauge.walls.sanding import sanded
from ulvet.core.gauge.walls.shares import WallShares, wall_shares
from ulvet.core.gauge.walls.thickness import Thickness, measure_thickness
from ulvet.core.gauge.walls.thin_places import ThinPlace
from ulvet.core.geometry.face_orientation import orient_faces
from ulvet.core.geometry.mesh import Mesh, scaled
from ulvet.core.geometry.topology import edges_of, without_collapsed_faces
from ulvet.core.recipe.step import Context, Part
from ulvet.core.stations import Station

__all__ = [
    "AcceptedCheck",
    "BalanceCheck",
    "ClosedCheck",
    "DetailCheck",
    "HandlingCheck",
    "LevelCheck",
    "MeasuredWalls",
    "SharesCheck",
    "ThinCheck",
    "WallsCheck",
]

_NO_WALLS = (
    "Walls were not measured: more than a quarter of the edges is open, so there is no telling what is inside; "
    "mend the surface first."
)
_WALLS = (
    "setup.setting.walls",
    "setup.setting.origins",
    "setup.setting.layer",
    "setup.setting.times",
    "setup.material.id",
    "setup.material.name",
    "setup.material.price_per_litre",
    "setup.printer.id",
    "bench.bought_parts",
    *SETUPS_ON_BENCH,
)
_LIMBS = (
    "setup.material.id",
    "setup.material.name",
    "setup.material.strength",
    "setup.material.modulus",
    "setup.material.density",
    "setup.material.brittleness",
    "setup.material.across_layers",
    "setup.printer.id",
    "setup.setting.layer",
    "bench.bought_parts",
    *SETUPS_ON_BENCH,
)
Thin = list[tuple[ThinPlace, Kind]]


@dataclass(frozen=True)
class MeasuredWalls:
    """A mesh that agrees with itself, and its walls."""

    mesh: Mesh
    thickness: Thickness


class ClosedCheck(PartCheck):
    """Whether so much of a part is closed that its walls can be measured."""

    station: ClassVar[Station] = Station.GAUGE
    progress_text: ClassVar[str] = "gauge: whether there is an inside"
    seconds_a_triangle: ClassVar[float] = 5e-7

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> bool:
        return not edges_of(part.mesh).mostly_open

    def judge(self, part: Part, measured: bool, figure: FigureUnderCheck) -> list[Finding | Unseen]:
        return [] if measured else [Unseen(station=Station.GAUGE, part=part.name, why=_NO_WALLS)]


class WallsCheck(PartCheck):
    """The walls of a part, measured once for every size; None where most of it is open."""

    station: ClassVar[Station] = Station.GAUGE
    progress_text: ClassVar[str] = "gauge: walls"
    after: ClassVar[tuple[type[Check], ...]] = (ClosedCheck,)
    seconds_a_triangle: ClassVar[float] = 16e-6

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> MeasuredWalls | None:
        if not others[ClosedCheck]:
            return None
        whole = without_collapsed_faces(part.mesh)
        turned, counts = orient_faces(whole)
        mesh = turned if any(counts.values()) else whole
        return MeasuredWalls(mesh, measure_thickness(mesh))


class ThinCheck(PartCheck):
    """Places thinner than the material wants, once sanded; without the samples they are made of."""

    station: ClassVar[Station] = Station.GAUGE
    progress_text: ClassVar[str] = "gauge: thin places"
    context_names: ClassVar[tuple[str, ...]] = ("factor", "setup.setting.walls", "sanding")
    judge_names: ClassVar[tuple[str, ...]] = _WALLS
    after: ClassVar[tuple[type[Check], ...]] = (WallsCheck,)
    seconds_a_triangle: ClassVar[float] = 2e-6

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> Thin | None:
        walled: MeasuredWalls | None = others[WallsCheck]
        if walled is None:
            return None
        factor, limits = context["factor"], context["setup"].walls
        most = limits.thin_from.in_figure(factor)
        worn = sanded(walled.mesh, walled.thickness, context["sanding"].in_figure(factor), factor, most)
        none = np.empty(0, np.int64)
        return [
            (replace(place, samples=none), kind) for place, kind in places_with_kinds(walled.mesh, worn, limits, factor)
        ]

    def judge(self, part: Part, measured: Thin | None, figure: FigureUnderCheck) -> list[Finding | Unseen]:
        return list(check_walls(part, measured or [], figure.factor, figure.setup, figure.edition, figure.bench))


class SharesCheck(FigureCheck):
    """How much of the surface is how thin; it is no finding."""

    station: ClassVar[Station] = Station.GAUGE
    progress_text: ClassVar[str] = "gauge: walls by how thin"
    context_names: ClassVar[tuple[str, ...]] = ("factor", "setup.setting.walls")
    after: ClassVar[tuple[type[Check], ...]] = (WallsCheck,)
    seconds_a_triangle: ClassVar[float] = 2e-7

    def measure(
        self, parts: Sequence[Part], context: Context, others: Mapping[type[Check], Sequence[Any]]
    ) -> WallShares | None:
        walls = [one.thickness for one in others[WallsCheck] if one is not None and one.thickness.areas.any()]
        return wall_shares(walls, context["factor"], context["setup"].walls)


class HandlingCheck(PartCheck):
    """What breaks first: its limbs are measured, how much they bear follows from the material."""

    station: ClassVar[Station] = Station.GAUGE
    progress_text: ClassVar[str] = "gauge: what breaks first"
    context_names: ClassVar[tuple[str, ...]] = ("factor",)
    judge_names: ClassVar[tuple[str, ...]] = _LIMBS
    after: ClassVar[tuple[type[Check], ...]] = (ClosedCheck,)
    seconds_a_triangle: ClassVar[float] = 2e-6

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> list[Limb]:
        return limbs_in(scaled(part.mesh, context["factor"])) if others[ClosedCheck] else []

    def judge(self, part: Part, measured: list[Limb], figure: FigureUnderCheck) -> list[Finding | Unseen]:
        weak = weak_limbs(part, measured, figure.setup.material)
        return list(check_handling(part, weak, figure.factor, figure.setup, figure.edition, figure.bench))


class DetailCheck(PartCheck):
    """Detail that will not show; it is no finding."""

    station: ClassVar[Station] = Station.GAUGE
    after: ClassVar[tuple[type[Check], ...]] = (ClosedCheck,)
    progress_text: ClassVar[str] = "gauge: detail"
    context_names: ClassVar[tuple[str, ...]] = (
        "factor",
        "setup.setting.layer",
        "setup.setting.line",
        "setup.printer.pixel",
    )
    seconds_a_triangle: ClassVar[float] = 3e-6

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> Detail | None:
        if not others[ClosedCheck]:
            return None
        return detail_of(scaled(part.mesh, context["factor"]), least_shown_by(context["setup"]))


class BalanceCheck(FigureCheck):
    """Whether it tips over: what it encloses is measured, its weight follows from the material."""

    station: ClassVar[Station] = Station.GAUGE
    progress_text: ClassVar[str] = "gauge: whether it stands"
    context_names: ClassVar[tuple[str, ...]] = ("factor", "setups.material.density")
    judge_names: ClassVar[tuple[str, ...]] = ("setup.material.density",)
    scopes: ClassVar[bool] = True
    seconds_a_triangle: ClassVar[float] = 1e-6

    def measure(
        self, parts: Sequence[Part], context: Context, others: Mapping[type[Check], Sequence[Any]]
    ) -> Balance | None:
        densities = [setup.material.density for setup in context["setups"]]
        return balance_of_parts(parts, densities, context["factor"]) if parts else None

    def judge(
        self, parts: Sequence[Part], measured: Balance | None, figure: FigureUnderCheck
    ) -> list[Finding | Unseen]:
        balance = weighed(measured, figure.inserts, figure.factor)
        return list(check_balance(parts, balance, figure.factor, figure.setup, figure.edition)) if parts else []


class LevelCheck(FigureCheck):
    """Whether faces that are meant to be level are."""

    station: ClassVar[Station] = Station.GAUGE
    progress_text: ClassVar[str] = "gauge: what is meant level"
    cached: ClassVar[bool] = False

    def judge(self, parts: Sequence[Part], measured: None, figure: FigureUnderCheck) -> list[Finding | Unseen]:
        return list(check_level(figure.recipe.steps, figure.receipts, parts))


class AcceptedCheck(FigureCheck):
    """What the record says of findings: names given to their places, and reasons why they may be."""

    station: ClassVar[Station] = Station.GAUGE
    progress_text: ClassVar[str] = "gauge: what is accepted"
    cached: ClassVar[bool] = False

    def revise(self, findings: list[Finding], figure: FigureUnderCheck) -> list[Finding]:
        return with_acceptances(renamed(findings, figure.recipe.steps), figure.recipe.steps)
