"""What is to be said of spaces, of what stays in them, and of parts for which nobody has decided."""

from collections.abc import Sequence

import numpy as np

from ulvet.core.bench.settings import FilamentTimes
from ulvet.core.bench.setup import Setup
from ulvet.core.findings.finding import MOST_PLACES, AddSteps, Cost, Finding, Place, Remedy, SetStep, Severity
from ulvet.core.findings.location import location_in_words
from ulvet.core.geometry.mesh import Points, bounds
from ulvet.core.hollow.opening_proposals import diameter_for
from ulvet.core.hollow.opening_steps import FILLED_ML, Drain, FillSpaces, Vent
from ulvet.core.hollow.pocket_steps import Pocket, PocketReceipt
from ulvet.core.hollow.steps import WALL, Hollow, LeaveSolid, RegionInside
from ulvet.core.hollow.survey import FlatSeen, PlannedOpening, ResinLeft, SpaceSeen
from ulvet.core.layers.cup_findings import VentedCup, cup_in_words
from ulvet.core.layers.estimate import Estimate
from ulvet.core.lengths import PrintMM, spoken
from ulvet.core.mend.mend_steps import MendWhole
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.step import Part, plural
from ulvet.core.stations import Station

__all__ = ["check_pocket", "check_resin_left", "check_spaces", "check_undecided"]

_DECIDE_ML, _DECIDE_MM2 = 5.0, 250.0
"""Volume and largest layer from which solid or hollow is a question (bench defaults)."""
_FLAT_TIMES = 20.0
"""Times its thickness that a flat wall may be wide (bench default)."""
_POCKET_WALL = 0.6
"""Mm of wall that a pocket leaves, at least (bench default)."""
_WIDE_SINGLE = 6.0
"""Mm from which a single opening lets resin out and air in at once (bench default)."""
_LEFT_ML = 0.02
"""Millilitres of resin that may stay (bench default)."""


def check_spaces(
    part: Part,
    spaces: Sequence[SpaceSeen],
    cups: Sequence[VentedCup],
    setup: Setup,
    hollow: Hollow | None = None,
    factor: float = 1.0,
) -> list[Finding]:
    """``flat-gives`` for the spaces of a part; in resin ``sealed-void`` and ``drains-badly``; ``roof-sags`` in
    filament, where a space holds nothing that must get out. ``hollow`` is the step that made them.
    """
    if setup.process != "resin":
        return [*_flats(part, spaces, hollow, factor), *_roofs(part, spaces, setup)]
    findings = _flats(part, spaces, hollow, factor)
    if sealed := [space for space in spaces if space.sealed]:
        findings.append(_sealed(part, sealed, cups, setup))
    return [*findings, *(finding for space in spaces if (finding := _drains_badly(part, space)))]


def _flats(part: Part, spaces: Sequence[SpaceSeen], hollow: Hollow | None, factor: float) -> list[Finding]:
    """``flat-gives``: walls that are wide for their thickness."""
    wide = [one for space in spaces for one in space.flats if one.wall > 0 and one.width > _FLAT_TIMES * one.wall]
    if not wide:
        return []
    worst = max(wide, key=lambda one: one.width / one.wall)
    remedies = []
    if hollow is not None:
        for label, wall in ((f"Make it {worst.width / _FLAT_TIMES:.1f} mm thick there", worst.width / _FLAT_TIMES),
                            ("Leave it solid there", None)):  # fmt: skip
            regions = [*hollow.regions, *(_region(one, part, factor, wall) for one in wide)][:100]
            values = {"regions": [region.model_dump(mode="json") for region in regions]}
            remedies.append(
                Remedy(
                    label=label,
                    change=SetStep(kind="hollow", step=hollow.id, values=values),
                    cost=Cost(says="more resin there" if wall else "more resin there; it peels harder"),
                )
            )
    return [
        _finding(
            part, code="flat-gives", severity=Severity.CAUTION,
            title=f"{plural(len(wide), 'flat wall')} may sink or warp, {worst.width:.0f} mm wide",
            measured=worst.width, limit=_FLAT_TIMES * worst.wall, unit="mm", places=[one.point for one in wide],
            why=f"It is {worst.wall:.1f} mm thick, and a flat wall wider than about {_FLAT_TIMES:.0f} times its "
            "thickness gives while it prints and when it cures. Make it thicker, put ribs behind it in the sculpt, or "
            "leave it solid.",
            remedies=remedies,
        )
    ]  # fmt: skip


def _region(flat: FlatSeen, part: Part, factor: float, wall: float | None) -> RegionInside:
    skin = np.array(flat.point) + np.array(flat.way) * flat.wall / factor
    return RegionInside(
        place=Anchor.at(skin, np.array(flat.way), part.source),
        radius=PrintMM(flat.width / 2 + flat.wall).in_figure(factor),
        wall=None if wall is None else PrintMM(wall),
    )


def _roofs(part: Part, spaces: Sequence[SpaceSeen], setup: Setup) -> list[Finding]:
    """``roof-sags``: roofs in filament that no line bridges."""
    bridge = setup.supports.bridge
    wide = [space for space in spaces if space.roof > bridge]
    if not wide:
        return []
    worst = max(wide, key=lambda space: space.roof)
    infill = 100 * setup.setting.times.infill if isinstance(setup.setting.times, FilamentTimes) else 0.0
    return [
        _finding(
            part, code="roof-sags", severity=Severity.CAUTION,
            title=f"The roof of {plural(len(wide), 'space')} sags, {worst.roof:.0f} mm wide",
            measured=worst.roof, limit=bridge, unit="mm", places=[space.place for space in wide],
            why=f"Lines laid over nothing hold up to {bridge:.0f} mm in this setting. A roof that rises to a "
            f"point, or a solid with the setting's infill of {infill:.0f} %, needs no bridge.",
            remedies=[
                Remedy(
                    label=f"Leave it solid, with an infill of {infill:.0f} %",
                    change=SetStep(kind="hollow", values={"on": False}),
                    cost=Cost(says="filled by the printer, heavier"),
                )
            ],
        )
    ]  # fmt: skip


def _sealed(part: Part, spaces: Sequence[SpaceSeen], cups: Sequence[VentedCup], setup: Setup) -> Finding:
    total = sum(space.millilitres for space in spaces)
    sucks = next((one for one in cups if one.is_sealed_space), None)
    remedies = []
    drained = [space for space in spaces if space.proposed]
    if drained:
        wide = max(one.diameter for space in drained for one in space.proposed)
        steps = tuple(_drain(part, space) for space in drained)
        remedies.append(
            Remedy(
                label=f"Open it at both ends, {wide:.1f} mm wide"
                if len(spaces) == 1
                else f"Open {plural(len(drained), 'space')} at both ends",
                change=AddSteps(steps=steps),
                cost=Cost(says="holes to close again with plugs or filler"),
            )
        )
    small = [space for space in spaces if space.millilitres <= FILLED_ML]
    act = "Fill it" if len(spaces) == 1 else f"Fill {plural(len(small), 'small one')}" if small else "Fill all"
    remedies.append(_filling(part, small or spaces, act))
    pulled = f" While its roof is open: {cup_in_words(sucks, setup.setting)}" if sucks else ""
    return _finding(
        part, code="sealed-void", severity=Severity.CAUTION,
        title=f"{plural(len(spaces), 'space')} that nothing leads out of, {total:.2f} ml",
        measured=total, limit=0.0, unit="ml", places=[space.place for space in spaces],
        why="Resin stays liquid in there, and may leak or burst the wall long after; wear gloves when you open such a "
        f"print. Each is opened, filled, or accepted.{pulled}",
        remedies=remedies,
    )  # fmt: skip


def _drain(part: Part, space: SpaceSeen) -> Drain:
    return Drain(
        scope=part.name,
        places=tuple(_anchor(one, part) for one in space.proposed),
        diameter=PrintMM(max(one.diameter for one in space.proposed)),
    )


def _anchor(planned: PlannedOpening, part: Part) -> Anchor:
    return Anchor.at(np.array(planned.point), np.array(planned.way), part.source)


def _filling(part: Part, spaces: Sequence[SpaceSeen], label: str) -> Remedy:
    places = tuple(Anchor.at(np.array(space.place), None, part.source) for space in spaces[:MOST_PLACES])
    return Remedy(
        label=label,
        change=AddSteps(steps=(FillSpaces(scope=part.name, places=places),)),
        cost=Cost(resin_ml=sum(space.millilitres for space in spaces)),
    )


def _drains_badly(part: Part, space: SpaceSeen) -> Finding | None:
    """An opened space that lacks an opening at an end, or has a single narrow one."""
    if space.sealed:
        return None
    wide = max(float(part.openings[number].diameter) for number in space.openings)
    free = [number for number in space.openings if number not in space.shut_by_plate]
    missing = [end for end, there in (("plate", space.at_plate_end), ("film", space.at_film_end)) if not there]
    if not missing and (len(free) > 1 or wide >= _WIDE_SINGLE):
        return None
    said = []
    if space.shut_by_plate:
        said.append(f"{plural(len(space.shut_by_plate), 'opening')} lies on the plate, which shuts it.")
    if missing:
        said.append(f"As it will print, nothing leads out at its {' and its '.join(missing)} end.")
    if len(free) == 1 and wide < _WIDE_SINGLE:
        said.append(
            f"A single opening of {wide:.1f} mm lets no air in while resin runs out: it runs slowly, in gulps; leave "
            "it to hang for longer."
        )
    return _finding(
        part, code="drains-badly", severity=Severity.CAUTION,
        title=f"A space of {space.millilitres:.2f} ml drains badly",
        measured=float(len(free)), limit=2.0, unit="openings", places=[space.place],
        why=" ".join(said) + " A space wants one opening at its plate end, for air, and one at its film end, where it "
        "hangs down and resin runs out.",
        remedies=[
            Remedy(
                label="Open it at the end that lacks one",
                change=AddSteps(steps=(_drain(part, space),)),
                cost=Cost(says="a hole to close again"),
            )
        ]
        if space.proposed
        else [],
    )  # fmt: skip


def check_resin_left(part: Part, left: ResinLeft, setup: Setup) -> list[Finding]:
    """``trapped-resin`` for a part printed in resin."""
    if setup.process != "resin" or left.millilitres < _LEFT_ML:
        return []
    best = sum(pool.millilitres for pool in left.best_pools)
    held = (
        f"Held the best way, with {_way_in_words(left.best)} down, {best:.2f} ml stay."
        if best >= _LEFT_ML
        else f"Held with {_way_in_words(left.best)} down, all of it runs out."
    )
    return [
        _finding(
            part, code="trapped-resin", severity=Severity.CAUTION if best >= _LEFT_ML else Severity.NOTE,
            title=f"{left.millilitres:.2f} ml of resin stay in it as it hangs",
            measured=left.millilitres, limit=_LEFT_ML, unit="ml", places=[_triple(pool.point) for pool in left.pools],
            why=f"It lies deeper than every way out. {held} Uncured resin that stays makes the print sweat and crack, "
            "and irritates skin.",
            remedies=[
                Remedy(
                    label=f"Vent it where it collects, {left.outlets[0].diameter:.1f} mm wide",
                    change=AddSteps(
                        steps=(
                            Vent(
                                scope=part.name,
                                places=tuple(_anchor(one, part) for one in left.outlets),
                                diameter=PrintMM(left.outlets[0].diameter),
                            ),
                        )
                    ),
                    cost=Cost(says="a hole to close again"),
                )
            ]
            if left.outlets
            else [],
        )
    ]  # fmt: skip


def _way_in_words(way: tuple[float, float, float] | None) -> str:
    """The side of a figure that is held down, in words."""
    names = ("left", "right"), ("front", "back"), ("foot", "top")
    x = way or (0.0, 0.0, -1.0)
    sides = [names[axis][int(x[axis] > 0)] for axis in (2, 1, 0) if abs(x[axis]) > 0.4]
    return "its " + " ".join(sides)


def check_undecided(part: Part, estimate: Estimate, closed: bool, setup: Setup) -> list[Finding]:
    """``undecided`` for a part that is neither hollow nor meant to be solid, where it is large; what is not ``closed``
    is mended first."""
    millilitres, largest = estimate.material_ml - part.stance.support_ml, estimate.peak_area_mm2
    if setup.process != "resin" or (millilitres < _DECIDE_ML and largest < _DECIDE_MM2):
        return []
    low, high = bounds(part.mesh)
    cost = setup.material.price_per_litre / 1000
    wide = PrintMM(diameter_for(millilitres / 2))
    mended = () if closed else (MendWhole(scope=part.name),)
    remedies = [
        Remedy(
            label=f"{'Hollow it' if closed else 'Mend it, then hollow it'} to {WALL:.1f} mm, opened at both ends",
            change=AddSteps(steps=(*mended, Hollow(scope=part.name), Drain(scope=part.name, diameter=wide))),
            cost=Cost(says="a wall that gives more, and openings to close again"),
        ),
        Remedy(
            label="Leave it solid",
            change=AddSteps(steps=(LeaveSolid(scope=part.name),)),
            cost=Cost(says=f"{millilitres:.1f} ml of resin, {millilitres * cost:.2f} of money, a strong peel"),
        ),
    ]
    middle = (low + high) / 2
    return [
        _finding(
            part, code="undecided", severity=Severity.CAUTION,
            title=f"Solid or hollow is not decided, {millilitres:.1f} ml",
            measured=millilitres if millilitres >= _DECIDE_ML else largest,
            limit=_DECIDE_ML if millilitres >= _DECIDE_ML else _DECIDE_MM2,
            unit="ml" if millilitres >= _DECIDE_ML else "mm²",
            places=[(float(middle[0]), float(middle[1]), float(middle[2]))],
            why=f"Its largest layer is {largest:.0f} mm². Solid is strong and crisp; hollow saves resin, weight and "
            "peel, and has to drain. It is decided before it is stood, since the best way to stand depends on it.",
            remedies=remedies,
        )
    ]  # fmt: skip


def _triple(point: Points) -> tuple[float, float, float]:
    x, y, z = map(float, point)
    return x, y, z


def check_pocket(step: Pocket, receipt: PocketReceipt, part: Part) -> list[Finding]:
    """``pocket-thin`` for pockets that leave little wall."""
    left = [value for value in (receipt.beside, receipt.below) if value is not None]
    if not left or min(left) >= _POCKET_WALL:
        return []
    below = receipt.below is not None and receipt.below == min(left)
    shallower = step.depth - (_POCKET_WALL - min(left))
    remedies = []
    if below and shallower > 0 and step.length is not None:
        remedies.append(
            Remedy(
                label=f"Make it {spoken(PrintMM(shallower))} mm deep",
                change=SetStep(kind="pocket", step=step.id, values={"depth": round(shallower, 2)}),
                cost=Cost(says="it holds less"),
            )
        )
    return [
        _finding(
            part, code="pocket-thin", severity=Severity.CAUTION,
            title=f"{min(left):.2f} mm of wall {'below' if below else 'beside'} the pocket for {step.name}",
            measured=min(left), limit=_POCKET_WALL, unit="mm", places=[_triple(np.array(a.point)) for a in step.places],
            why="A wall as thin as that shows through, or breaks when the part is pressed in. Choose a thicker "
            "place, or something smaller.",
            remedies=remedies,
        )
    ]  # fmt: skip


def _finding(
    part: Part, *, code: str, severity: Severity, title: str, measured: float, limit: float, unit: str,
    places: Sequence[tuple[float, float, float]], why: str, remedies: Sequence[Remedy],
) -> Finding:  # fmt: skip
    low, high = bounds(part.mesh)
    found = tuple(Place(point=place) for place in places[:MOST_PLACES])
    return Finding(
        code=code, station=Station.HOLLOW, severity=severity, part=part.name,
        title=f"{title}, {location_in_words(np.array(places[0]), low, high)}" if code != "undecided" else title,
        measured=measured, limit=limit, unit=unit, count=len(places), where=found[0], places=found, why=why,
        remedies=tuple(remedies),
    )  # fmt: skip
