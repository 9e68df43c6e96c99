"""Findings about walls below the limits of the material."""

from collections.abc import Sequence

import numpy as np

from ulvet.core.bench.bench import Bench
from ulvet.core.bench.edition import Edition
from ulvet.core.bench.setup import Setup
from ulvet.core.findings.finding import MOST_PLACES, Cost, Finding, Place, Remedy, SetEdition, Severity, remedy_adding
from ulvet.core.findings.location import location_in_words
from ulvet.core.gauge.limbs.check_handling import wire_for, wire_remedy
from ulvet.core.gauge.steps import FADE, BluntTip, Thicken
from ulvet.core.gauge.walls.kinds import Kind, limit_field, limit_for
from ulvet.core.gauge.walls.thin_places import ThinPlace
from ulvet.core.geometry.clustering import CLUSTER_SHARE, cluster_points
from ulvet.core.geometry.mesh import bounds, volume
from ulvet.core.lengths import FigureMM, PrintMM, spoken
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.step import Part, plural
from ulvet.core.stations import Station

__all__ = ["check_walls"]

_LARGEST_GROWTH = 2.5
"""Times as large a figure that is still offered as a remedy (bench default)."""
_MARGIN = 1.05
"""Times the limit that a wall is thickened to (bench default)."""
_TIP = 8.0
"""Times its limit: what is thin for longer is no tip that could be cut off (bench default)."""
_KINDS_SAID = {
    Kind.HELD: "held walls",
    Kind.FREE: "free-standing walls",
    Kind.PIN: "pins",
    Kind.EDGE: "edges",
}
_SAID = {
    Kind.HELD: "a wall held on both sides",
    Kind.FREE: "a free-standing wall",
    Kind.PIN: "a pin",
    Kind.EDGE: "an edge",
}


def check_walls(
    part: Part,
    places: Sequence[tuple[ThinPlace, Kind]],
    factor: float,
    setup: Setup,
    edition: Edition,
    bench: Bench,
) -> list[Finding]:
    """``thin-wall`` for places under the material's caution limit; those under its stop limit stop.

    ``places`` are as ``places_with_kinds`` gives them. Those that lie near each other are one finding with a count.
    """
    if not places:
        return []
    low, high = bounds(part.mesh)
    group = cluster_points(np.array([place.point for place, _ in places]), CLUSTER_SHARE * float((high - low).max()))
    return [
        _finding(
            part,
            [place for place, of in zip(places, group, strict=True) if of == g],
            places,
            factor,
            setup,
            edition,
            bench,
        )
        for g in range(group.max() + 1)
    ]


def _finding(
    part: Part,
    kinded: list[tuple[ThinPlace, Kind]],
    everywhere: Sequence[tuple[ThinPlace, Kind]],
    factor: float,
    setup: Setup,
    edition: Edition,
    bench: Bench,
) -> Finding:
    places = [place for place, _ in kinded]
    worst, kind = kinded[0]
    wall = worst.wall * factor
    asked = limit_for(setup.walls, kind)
    stops = wall < asked.stop
    limit = asked.stop if stops else asked.caution
    low, high = bounds(part.mesh)
    wheres = tuple(_where(place, factor) for place in places[:MOST_PLACES])
    # Walls worth thickening to, whichever kinds lie near each other: one that wants no care and, for a wall that stops,
    # one that just prints.
    limits = [limit_for(setup.walls, of) for _, of in kinded]
    careless, printing = max(limit.caution for limit in limits), max(limit.stop for limit in limits)
    goals = (careless, printing) if stops else (careless,)
    alike = [place for place, of in everywhere if of is kind]
    at = location_in_words(worst.point, low, high)
    sanding = edition.sanding
    after = f" once up to {spoken(sanding)} mm a side is sanded off" if sanding else ""
    reach = plural(len(places), "place") if len(places) > 1 else f"{spoken(worst.extent * factor)} mm long"
    return Finding(
        code="thin-wall",
        station=Station.GAUGE,
        severity=Severity.STOP if stops else Severity.CAUTION,
        part=part.name,
        title=f"Wall {spoken(wall)} mm, {at}",
        at=at,
        measured=wall,
        limit=limit,
        limit_origin=setup.setting.origin_of(f"walls.{limit_field(kind)}.{'stop' if stops else 'caution'}").kind,
        unit="mm",
        count=len(places),
        where=wheres[0],
        places=wheres,
        why=_why(kind, wall, setup, stops) + f"{after}, {reach}.",
        remedies=(
            *[remedy for to in goals for remedy in _thicker(part, places, to, sanding, factor)],
            *(_thicker(part, alike, asked.caution, sanding, factor, kind) if len(alike) > len(places) else []),
            *(_for_pins(part, worst, wall, PrintMM(limit + 2 * sanding), factor, bench) if kind is Kind.PIN else ()),
            *_larger(part, wall, limit, factor, setup, edition),
            *_tougher(part, wall, kind, edition, setup, bench),
        ),
    )


def _why(kind: Kind, wall: float, setup: Setup, stops: bool) -> str:
    asked, what = limit_for(setup.walls, kind), f"{_SAID[kind].capitalize()} of {setup.material.name.lower()}"
    held_to = (
        f"{what} under {spoken(asked.stop)} mm fails on the plate or under the cutters"
        if stops
        else f"{what} from {spoken(asked.stop)} to {spoken(asked.caution)} mm prints but bends and snaps in cleaning "
        "and painting"
    )
    return f"{held_to}; here it is {spoken(wall)} mm"


def _where(place: ThinPlace, factor: float) -> Place:
    return Place(
        point=tuple(map(float, place.point)),
        normal=tuple(map(float, place.normal)),
        along=tuple(map(float, place.along)),
        extent=PrintMM(place.extent * factor),
    )


def _thicker(
    part: Part, places: list[ThinPlace], limit: PrintMM, sanding: PrintMM, factor: float, kind: Kind | None = None
) -> list[Remedy]:
    """Thickened to a limit, where a finding is or, of a ``kind``, wherever it is thin."""
    # A little over the limit, so that rounding in a written file does not bring the finding back.
    wall = PrintMM(np.ceil((limit + 2 * sanding) * _MARGIN * 100) / 100)
    reach = max(place.reach for place in places) + limit / factor
    where = "here" if len(places) == 1 else f"at {plural(len(places), 'place')}"
    what = where if kind is None else f"all {len(places)} {_KINDS_SAID[kind]}"
    return remedy_adding(
        f"Thicken {what} to {spoken(wall)} mm",
        Cost(says=f"fades over {spoken(FADE)} mm, softens detail"),
        Thicken,
        wall=wall,
        places=tuple(Anchor.at(place.point, place.normal, part.source) for place in places[:MOST_PLACES]),
        reach=FigureMM(min(reach, float(np.ptp(bounds(part.mesh), axis=0).max()))),
    )


def _for_pins(part: Part, place: ThinPlace, wall: float, limit: PrintMM, factor: float, bench: Bench) -> list[Remedy]:
    """Offer to blunt a thin tip, or to replace the limb by wire."""
    middle = place.point - place.normal * place.wall / 2
    anchor = (Anchor.at(middle, None, part.source),)
    found: list[Remedy] = []
    if place.extent * factor <= _TIP * limit:
        least = PrintMM(np.ceil(limit * _MARGIN * 100) / 100)
        cost = Cost(says=f"about {spoken(place.extent * factor)} mm shorter")
        found += remedy_adding(f"Blunt the tip to {spoken(least)} mm", cost, BluntTip, least=least, places=anchor)
    if (wire := wire_for(wall, bench)) is not None:
        found += wire_remedy(wire, anchor)
    return found


def _larger(part: Part, wall: float, limit: float, factor: float, setup: Setup, edition: Edition) -> list[Remedy]:
    growth = limit / wall if wall > 0 else np.inf
    if growth > _LARGEST_GROWTH:
        return []
    low, high = bounds(part.mesh)
    # Rounded up to a tenth, so that the wall lands on the right side of its limit.
    height = np.ceil((high[2] - low[2]) * factor * growth * 10) / 10
    grown = height / ((high[2] - low[2]) * factor)
    resin = volume(part.mesh) * factor**3 * (grown**3 - 1) / 1000
    larger = edition.model_copy(update={"height": PrintMM(height), "factor": None})
    return [
        Remedy(
            label=f"Print it {spoken(height)} mm tall",
            change=SetEdition(edition=larger),
            cost=Cost(
                resin_ml=resin,
                money=resin * setup.material.price_per_litre / 1000,
                print_seconds=(height - height / grown) / setup.layer * setup.setting.times.seconds_per_layer,
            ),
        )
    ]


def _tougher(part: Part, wall: float, kind: Kind, edition: Edition, setup: Setup, bench: Bench) -> list[Remedy]:
    needs = limit_for(setup.walls, kind).stop
    able = [(other, limit_for(other.walls, kind).stop) for other in bench.setups_like(setup)]
    return [
        Remedy(
            label=f"Print it in {other.material.name.lower()}",
            change=SetEdition(edition=edition.with_setting(part.name, other.setting.id)),
            cost=Cost(says=f"bears {spoken(bears)} mm; {other.material.price_per_litre:.0f} a litre"),
        )
        for other, bears in able
        if bears < needs and bears <= wall
    ]
