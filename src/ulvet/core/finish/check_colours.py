"""What is to be said of a colour plan: regions that lost their place, roles without a colour, coats that eat others."""

from collections.abc import Iterator, Mapping, Sequence

from ulvet.core.bench.paints import Paint, PaintBase
from ulvet.core.findings.finding import Cost, Finding, Place, Remedy, SetStep, Severity
from ulvet.core.finish.reach import PartReach
from ulvet.core.finish.regions import Labels
from ulvet.core.finish.steps import Coat, ColourPlan, RoleColour, Scheme
from ulvet.core.recipe.anchors import LostAnchor
from ulvet.core.recipe.step import Part
from ulvet.core.stations import Station

__all__ = ["check_coats", "check_places", "check_reach", "check_regions"]

_EATS: dict[PaintBase, frozenset[PaintBase]] = {
    "water": frozenset(),
    "spirit": frozenset({"spirit"}),
    "lacquer": frozenset({"water", "spirit"}),
}
"""By what thins a coat, which coats below it dissolves (bench defaults, from what makers print on labels)."""
_LEAST_MM2 = 4.0
"""Area out of reach, print mm², under which nobody minds (bench default)."""


def check_places(plan: ColourPlan, lost: Sequence[LostAnchor]) -> Iterator[Finding]:
    """Regions and decals that found no place on any part."""
    things = [(f"{one.role} found", "it colours nothing") for one in plan.regions]
    things += [(f"The decal {one.name} found", "it goes nowhere") for one in plan.decals]
    for one in lost:
        title, so = things[one.number]
        yield Finding(
            code="region-lost", station=Station.FINISH, severity=Severity.CAUTION, part=one.part,
            title=f"{title} no place", measured=float(one.away), limit=float(one.limit), unit="mm",
            where=_place(one.nearest.point, one.nearest.normal),
            why=f"Where it was touched there is no surface any more, so {so}: touch it anew.",
        )  # fmt: skip


def check_regions(part: Part, labels: Labels, plan: ColourPlan, factor: float) -> Iterator[Finding]:
    """Regions of a part that others lie over."""
    for at, area in labels.overlapped.items():
        share = area * factor**2
        if share >= _LEAST_MM2:
            yield Finding(
                code="regions-overlap", station=Station.FINISH, severity=Severity.NOTE, part=part.name,
                title=f"{plan.regions[at].role} lies partly under another region", measured=share, limit=_LEAST_MM2,
                unit="mm²", where=None,
                why="What comes later in the plan goes over what came before; nothing is painted twice.",
            )  # fmt: skip


def check_coats(plan: ColourPlan, scheme: Scheme, paints: Sequence[Paint]) -> Iterator[Finding]:
    """Roles without a colour, coats of nothing that is there, coats that dissolve those below, and coats that come too
    soon."""
    known = {paint.id: paint for paint in paints if not paint.retired}
    for role in plan.roles:
        colour = scheme.of(role)
        if colour is None or (not colour.coats and not colour.bare):
            yield _of_plan(
                code="no-colour", severity=Severity.NOTE, title=f"{role} has no colour in {scheme.name}",
                why="Say what it is painted with, or that it stays bare.",
            )  # fmt: skip
            continue
        yield from _of_stack(colour, known)


def check_reach(
    parts: Sequence[Part], found: Sequence[PartReach], plan: ColourPlan, factor: float
) -> Iterator[Finding]:
    """What no brush comes to once the figure is together, and when it still could."""
    for one in found:
        part = parts[one.part]
        last = max(one.by_stage, default=None)
        if last is None or part.name in plan.first or plan.painted_before:
            continue
        lost = one.by_stage[last] - one.alone
        if lost < _LEAST_MM2:
            continue
        stage = next(at for at in sorted(one.by_stage) if one.by_stage[at] - one.alone >= _LEAST_MM2)
        first = SetStep(kind="colour-plan", values={"first": [*plan.first, part.name]})
        before = SetStep(kind="colour-plan", values={"painted_before": True})
        yield Finding(
            code="cannot-reach", station=Station.FINISH, severity=Severity.CAUTION, part=part.name,
            title=f"{lost / 100:.1f} cm² of {part.called} out of reach once it is together", measured=lost,
            limit=_LEAST_MM2, unit="mm²",
            where=None if one.point is None else _place(tuple(v / factor for v in one.point), one.normal),
            why=f"From step {stage + 1} of the assembly on no brush of {plan.brush:g} mm comes there; before, one did.",
            remedies=(
                Remedy(label=f"Paint the hidden side of {part.called} before step {stage + 1}", change=first),
                Remedy(label="Paint all parts first, assemble last", change=before, cost=Cost()),
            ),
        )  # fmt: skip


def _of_stack(colour: RoleColour, known: Mapping[str, Paint]) -> Iterator[Finding]:
    below: list[tuple[Coat, Paint]] = []
    for coat in colour.coats:
        used = [name for name in coat.drops or {coat.paint: 1.0} if name not in known]
        if used:
            yield _of_plan(
                code="no-colour", severity=Severity.CAUTION,
                title=f"{colour.role} wants {used[0]}, which is not on the bench",
                why="Put it on the bench, or choose another paint.",
            )  # fmt: skip
            continue
        paints = [known[name] for name in coat.drops or {coat.paint: 1.0}]
        bases = sorted({paint.base for paint in paints})
        if len(bases) > 1:
            yield _of_plan(
                code="eats-coat", severity=Severity.STOP,
                title=f"{colour.role}: {coat.paint} mixes {' and '.join(bases)}",
                why="Paints that are thinned with different things curdle in one cup: mix paints of one base.",
            )  # fmt: skip
        yield from _over(colour.role, coat, paints[0], below)
        below.append((coat, paints[0]))


def _over(role: str, coat: Coat, paint: Paint, below: Sequence[tuple[Coat, Paint]]) -> Iterator[Finding]:
    if not below:
        return
    under_coat, under = below[-1]
    if under.base in _EATS[paint.base] and under.kind != "primer":
        yield _of_plan(
            code="eats-coat", severity=Severity.STOP, title=f"{role}: {paint.name} dissolves {under.name}",
            why=f"{paint.base.capitalize()} over {under.base} softens and lifts it: change their order, or take "
            "another paint. What the label says goes before this.",
        )  # fmt: skip
    wait = under.recoat_min if under_coat.wait_min is None else under_coat.wait_min
    if wait < under.recoat_min:
        yield Finding(
            code="too-soon", station=Station.FINISH, severity=Severity.CAUTION, part="",
            title=f"{role}: {paint.name} comes {under.recoat_min - wait:.0f} min too soon", measured=wait,
            limit=under.recoat_min, unit="min", where=None,
            why=f"{under.name} asks for {under.recoat_min:.0f} min before another coat; sooner it wrinkles or lifts.",
        )  # fmt: skip


def _of_plan(code: str, severity: Severity, title: str, why: str) -> Finding:
    return Finding(
        code=code, station=Station.FINISH, severity=severity, part="", title=title, measured=0.0, limit=0.0, unit="",
        where=None, why=why,
    )  # fmt: skip


def _place(point: Sequence[float], normal: Sequence[float] | None) -> Place:
    x, y, z = map(float, point)
    a, b, c = (0.0, 0.0, 1.0) if normal is None else map(float, normal)
    return Place.model_validate({"point": (x, y, z), "normal": (a, b, c)})
