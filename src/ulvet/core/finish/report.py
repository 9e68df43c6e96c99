"""What Finish tells of a figure: its colours by scheme, what they take, and the order of work in both schools."""

from collections.abc import Sequence

from pydantic import BaseModel, ConfigDict

from ulvet.core.bench.bench import Bench
from ulvet.core.bench.setup import Setup
from ulvet.core.findings.facts import Facts
from ulvet.core.finish.amounts import RoleArea, RoleSum, role_sums
from ulvet.core.finish.checks import RegionAreas, RegionsSeen, role_areas
from ulvet.core.finish.masks import MaskLine, masked
from ulvet.core.finish.order import PartFacts, Surface, WorkRow, order_of_work
from ulvet.core.finish.steps import ColourPlan, Scheme
from ulvet.core.finish.surface import hidden_scratch
from ulvet.core.part.report import AssemblyReport
from ulvet.core.recipe.step import Part
from ulvet.core.stand.ways import cleanup_of

__all__ = ["FinishReport", "MaskSum", "SchemeSum", "finish_report"]


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True)


class SchemeSum(_Value):
    """A scheme and what every role takes in it."""

    name: str
    roles: tuple[RoleSum, ...]


class MaskSum(_Value):
    """A masking line between two roles, "" being bare surface: its length, and how much of it runs along a seam that
    hides it, print mm."""

    roles: tuple[str, str]
    length_mm: float
    along_seam_mm: float


class FinishReport(_Value):
    """Empty of a record that an earlier version wrote."""

    region_mm2: tuple[float, ...] = ()
    """Area of every region of the plan, print mm²."""
    whole_mm2: float = 0.0
    """Of all parts."""
    schemes: tuple[SchemeSum, ...] = ()
    scheme: str = ""
    """Name of the one that is meant."""
    masks: tuple[MaskSum, ...] = ()
    """Lines that are masked in the scheme that is meant, the longest first."""
    work: tuple[WorkRow, ...] = ()
    """As the plan says: assembled before it is painted, or painted first."""
    other_work: tuple[WorkRow, ...] = ()
    """The same in the other school."""

    @property
    def meant(self) -> SchemeSum | None:
        """The scheme that is meant."""
        return next((one for one in self.schemes if one.name == self.scheme), None)


def finish_report(
    plan: ColourPlan | None,
    parts: Sequence[Part],
    facts: Sequence[Facts],
    regions: Sequence[RegionsSeen],
    seen: Sequence[RegionAreas],
    assembly: AssemblyReport,
    setup: Setup,
    bench: Bench,
) -> FinishReport:
    """What is told of parts with their plain measures, their regions, and how much of each region is seen (figure mm²),
    in the order of the parts."""
    factor = facts[0].factor if facts else 1.0
    plan = plan or ColourPlan()
    areas = [one.areas for one in regions]
    by_role = _role_areas(plan, regions, seen, factor)
    schemes = plan.schemes or ((Scheme(name="no colours yet"),) if plan.regions else ())
    bare = setup.material.shade
    sums = tuple(SchemeSum(name=one.name, roles=role_sums(by_role, one, bench.paints, bare)) for one in schemes)
    meant = plan.meant.name if plan.meant else (sums[0].name if sums else "")
    roles = next((one.roles for one in sums if one.name == meant), ())
    bare_all = bool(roles) and all(role.bare for role in roles)
    surface = Surface(
        hides_um=hidden_scratch(plan.meant, bench.paints, bare_all), bare=bare_all, layer=setup.layer,
        decals=len(plan.decals),
    )  # fmt: skip
    told = [
        PartFacts(part.name, of.called, of.area_mm2, cleanup_of(of.stance.contacts) if part.supports else 0.0,
                  bool(part.openings))
        for part, of in zip(parts, facts, strict=True)
    ]  # fmt: skip

    def work(painted_before: bool) -> tuple[WorkRow, ...]:
        return order_of_work(
            setup.process, told, assembly, roles, bench.stations, surface, plan.first, painted_before,
            plan.supports_cured,
        )  # fmt: skip

    region_mm2 = [0.0] * len(plan.regions)
    for of_part in areas:
        for at, area in of_part.items():
            region_mm2[at] += area * factor**2
    return FinishReport(
        region_mm2=tuple(region_mm2), whole_mm2=sum(of.area_mm2 for of in facts), schemes=sums, scheme=meant,
        masks=_masks([line for one in regions for line in one.lines], plan.meant, factor),
        work=work(plan.painted_before), other_work=work(not plan.painted_before) if assembly.joints else (),
    )  # fmt: skip


def _role_areas(
    plan: ColourPlan, regions: Sequence[RegionsSeen], seen: Sequence[RegionAreas], factor: float
) -> dict[str, RoleArea]:
    """By role its area and the shares of it."""
    areas, recesses, edges, in_sight = (
        role_areas(plan, of_parts, factor)
        for of_parts in (
            [one.areas for one in regions], [one.recesses for one in regions], [one.edges for one in regions], seen
        )
    )  # fmt: skip
    return {
        role: RoleArea(area, *(of[role] / area if area > 0 else 0.0 for of in (in_sight, recesses, edges)))
        for role, area in areas.items()
    }


def _masks(lines: Sequence[MaskLine], scheme: Scheme | None, factor: float) -> tuple[MaskSum, ...]:
    """Lines that are masked in a scheme, those of all parts together."""
    sums: dict[tuple[str, str], tuple[float, float]] = {}
    for line in lines:
        if scheme is not None and masked(line, scheme):
            length, seam = sums.get(line.roles, (0.0, 0.0))
            sums[line.roles] = length + line.length * factor, seam + line.along_seam * factor
    found = [MaskSum(roles=roles, length_mm=length, along_seam_mm=seam) for roles, (length, seam) in sums.items()]
    return tuple(sorted(found, key=lambda one: -one.length_mm))
