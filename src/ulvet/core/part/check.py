"""What is to be said of joints: how they fit, whether they can be put together, and what opens them."""

from collections.abc import Sequence

import numpy as np

from ulvet.core.bench.edition import Use
from ulvet.core.bench.setup import Setup
from ulvet.core.bench.workshop import BoughtPart, Glue
from ulvet.core.findings.finding import AddSteps, Cost, Finding, Place, Remedy, SetStep, Severity
from ulvet.core.lengths import PrintMM
from ulvet.core.lineage import part_in_words
from ulvet.core.part.key_steps import KEY_WALL_OVER, ROD_DEEP, Key
from ulvet.core.part.order_steps import AssemblyOrder
from ulvet.core.part.strength import GRAVITY
from ulvet.core.part.survey import BlockedPart, JointSeen, PartsSurvey
from ulvet.core.recipe.runner import Recipe
from ulvet.core.stations import Station

__all__ = ["check_joints", "glue_for", "opens_at"]

_GAP_SHORT = 0.02
"""Mm by which a gap may be less than was asked for (bench default)."""
_OVERLAP_SHARE = 0.001
"""Cubic mm a mm² of joint that two parts may share, which is the rounding of files."""
_WIDER = 1.3
"""Times as wide as a larger key is tried (bench default)."""
_LARGE, _ALIGN_LARGE = 60.0, 1.0
"""Square mm from which on a joint is aligned with patience, and for how many minutes (bench defaults)."""
_RODS = ("rod", "wire", "dowel")
_ROD_STRENGTH = 450.0
"""N/mm² at which a bought rod stays bent: between brass, 300, and drawn steel wire, 700 (bench default)."""
_NOTCH = 1.4
"""Times by which the corner at the root of a peg lowers the stress that it bears (bench default)."""


def check_joints(
    survey: PartsSurvey,
    recipe: Recipe,
    setup: Setup,
    use: Use,
    glues: Sequence[Glue],
    bought: Sequence[BoughtPart] = (),
) -> list[Finding]:
    """``unkeyed``, ``gap-under``, ``overlap``, ``ways-round`` and ``joint-weak`` for each joint, ``cannot-insert`` for
    each part that cannot be put in."""
    found = [_blocked(one, recipe) for one in survey.blocked]
    for joint in survey.joints:
        keys = [s for s in recipe.steps if isinstance(s, Key) and s.cut == joint.cut and s.is_between(*joint.parts)]
        key = next((s for s in reversed(keys) if s.on and joint.keys), None)
        # What was asked for and could not be set is told by itself.
        found += _unkeyed(joint) if not joint.keys and not keys else []
        found += [*_tight(joint, key), *_turns(joint, key), *_weak(joint, key, setup, use, glues, bought)]
    return found


def glue_for(joint: JointSeen, glues: Sequence[Glue]) -> Glue | None:
    """The glue for a joint by its area: the one that sets fastest of those that can be aligned for as long as it wants,
    a large joint for minutes; None where it is not glued, or none is on the bench."""
    if not joint.glued:
        return None
    fitting = [glue for glue in glues if joint.area_mm2 >= glue.least_area]
    patient = [glue for glue in fitting if joint.area_mm2 < _LARGE or glue.align_minutes >= _ALIGN_LARGE]
    return min(patient or fitting, key=lambda glue: glue.minutes, default=None)


def opens_at(joint: JointSeen, setup: Setup, glue: Glue | None) -> float | None:
    """Newtons at the farthest point of the lighter side at which a joint opens; None where no strength is known.

    Glue cracks before a peg bends, so they do not add up: it opens when the stronger of both gives way. An upright peg
    is pulled across its layers. What hangs on the joint takes its part as if it stuck out level.
    """
    material = setup.material
    if material.strength is None:
        return None
    across = 1 - joint.along_pegs * (1 - material.across_layers)
    of_pegs = material.strength * across / _NOTCH * joint.pegs_mm3 + _ROD_STRENGTH * joint.rods_mm3
    of_glue = min(glue.strength, material.strength) * joint.glue_mm3 if glue else 0.0
    weight = joint.hangs_mm3 / 1000 * material.density * GRAVITY * joint.arm_mm
    return max(0.0, max(of_pegs, of_glue) - weight) / max(joint.lever_mm, 1e-9)


def _blocked(one: BlockedPart, recipe: Recipe) -> Finding:
    remedies = []
    ordered = next((s for s in recipe.steps if isinstance(s, AssemblyOrder) and s.on), None)
    if ordered is not None:
        remedies.append(
            Remedy(
                label="Put it together in the order that is found",
                change=SetStep(kind="assembly-order", step=ordered.id, values={"on": False}),
                cost=Cost(says="your order is switched off; no cut moves"),
            )
        )
    pegs = [s for s in recipe.steps if isinstance(s, Key) and s.on and s.joins == "peg"]
    remedies += [
        Remedy(
            label=f"Make the keys of cut {key.cut} pins of their own",
            change=SetStep(kind="key", step=key.id, values={"joins": "pin"}),
            cost=Cost(says="one more piece a key; pins go in last"),
        )
        for key in pegs
    ]
    name, met = part_in_words(one.part), part_in_words(one.meets)
    return Finding(
        code="cannot-insert",
        station=Station.PART,
        severity=Severity.STOP,
        part=one.part,
        title=f"The {name} cannot be put in",
        measured=one.free_mm,
        limit=0.0,
        unit="mm",
        where=Place(point=one.point, extent=PrintMM(one.size_mm)),
        why=f"On its best way out it meets the {met} after {one.free_mm:.1f} mm: it was looked at along every key and "
        "26 other directions, with everything in place that goes in before it. Change the order, turn a key, or let a "
        "pin go in last.",
        remedies=tuple(remedies),
    )


def _unkeyed(joint: JointSeen) -> list[Finding]:
    """``unkeyed``: a joint that nothing guides, and for which nobody has decided that."""
    step = Key(cut=joint.cut, between=joint.parts)
    return [
        _of_joint(
            joint, code="unkeyed", severity=Severity.NOTE,
            title=f"Nothing guides {_between(joint)} together",
            measured=0.0, limit=1.0, unit="keys",
            why=f"They meet on {joint.area_mm2:.0f} mm², at the narrowest {joint.narrowest_mm:.1f} mm wide. A key says "
            "which way round they go and holds them while the glue sets.",
            remedies=[
                Remedy(label="Set keys as its area asks", change=AddSteps(steps=(step,)),
                       cost=Cost(says="pegs on one side, sockets on the side with more flesh")),
                Remedy(label="Leave it to its glue",
                       change=AddSteps(steps=(step.model_copy(update={"on": False}),)),
                       cost=Cost(says="nothing changes; nothing asks any more")),
            ],
        )
    ]  # fmt: skip


def _tight(joint: JointSeen, key: Key | None) -> list[Finding]:
    found = []
    wider = _with_fit(key, "free", "Make them a free fit", "looser: it may want glue") if key else []
    if joint.gap_mm is not None and joint.gap_asked_mm is not None and joint.gap_mm < joint.gap_asked_mm - _GAP_SHORT:
        found.append(
            _of_joint(
                joint, code="gap-under", severity=Severity.STOP,
                title=f"Keys of {_between(joint)} have {max(joint.gap_mm, 0):.2f} mm of air a side",
                measured=joint.gap_mm, limit=joint.gap_asked_mm, unit="mm",
                why=f"They were made for {joint.gap_asked_mm:.2f} mm. Something after them changed the joint, so they "
                "will jam or hold the faces apart. Set the keys behind that, or give them more air.",
                remedies=wider,
            )
        )  # fmt: skip
    if joint.overlap_mm3 is not None and joint.overlap_mm3 > _OVERLAP_SHARE * joint.area_mm2:
        found.append(
            _of_joint(
                joint, code="overlap", severity=Severity.STOP,
                title=f"{_between(joint).capitalize()} reach {joint.overlap_mm3:.2f} mm³ into each other",
                measured=joint.overlap_mm3, limit=_OVERLAP_SHARE * joint.area_mm2, unit="mm³",
                why="Two printed parts cannot be in one place: they will not close. Cut behind whatever made them "
                "thicker, or take that back.",
                remedies=wider,
            )
        )  # fmt: skip
    return found


def _turns(joint: JointSeen, key: Key | None) -> list[Finding]:
    if not joint.keys or joint.ways_round == 1 or key is None or key.turns:
        return []
    many = "any way round" if joint.ways_round is None else f"in {joint.ways_round} ways"
    remedies = []
    if joint.keys == 1 and key.shape != "flat-sided":
        remedies.append(
            Remedy(label="Give the key a flat side", change=SetStep(kind="key", step=key.id,
                   values={"shape": "flat-sided"}), cost=Cost(says="the same room"))
        )  # fmt: skip
    remedies += [
        Remedy(label="Set two keys of unlike size", change=SetStep(kind="key", step=key.id, values={"number": 2}),
               cost=Cost(says="each is smaller")),
        Remedy(label="It is meant to turn", change=SetStep(kind="key", step=key.id, values={"turns": True}),
               cost=Cost(says="nothing changes; nothing asks any more")),
    ]  # fmt: skip
    return [
        _of_joint(
            joint, code="ways-round", severity=Severity.CAUTION,
            title=f"{_between(joint).capitalize()} go together {many}",
            measured=float(joint.ways_round or 0), limit=1.0, unit="ways",
            why="Turned by every degree, moved and, where both sides are alike, turned over, its keys still find holes "
            "with three times their air. Whoever puts it together will sooner or later do it wrong.",
            remedies=remedies,
        )
    ]  # fmt: skip


def _weak(
    joint: JointSeen, key: Key | None, setup: Setup, use: Use, glues: Sequence[Glue], bought: Sequence[BoughtPart]
) -> list[Finding]:
    opens = opens_at(joint, setup, glue_for(joint, glues))
    if opens is None or opens >= use.push:
        return []
    remedies = []
    if key is None:
        step = Key(cut=joint.cut, between=joint.parts)
        remedies.append(
            Remedy(
                label="Set keys into it", change=AddSteps(steps=(step,)), cost=Cost(says="as many as it has room for")
            )
        )
    else:
        number = {"number": min(joint.keys + 1, 8)}
        remedies.append(
            Remedy(label="Set one key more", change=SetStep(kind="key", step=key.id, values=number),
                   cost=Cost(says="smaller ones where the room is short"))
        )  # fmt: skip
        if joint.pegs_mm3 > 0 and key.size is not None:
            size = round(float(key.size) * _WIDER, 1)
            remedies.append(
                Remedy(label=f"Make its keys {size:.1f} mm wide", change=SetStep(kind="key", step=key.id,
                       values={"size": size}), cost=Cost(says="less wall about them"))
            )  # fmt: skip
        if joint.along_pegs > 0.5 and setup.process == "filament" and key.joins == "peg":
            remedies.append(
                Remedy(label="Make its keys pins that print lying", change=SetStep(kind="key", step=key.id,
                       values={"joins": "pin"}), cost=Cost(says="one more piece a key"))
            )  # fmt: skip
    remedies += _rod_through(joint, setup, bought)
    if key is not None and not joint.glued:
        remedies += _with_fit(key, "glued", "Glue it", "it cannot be taken apart any more")
    return [
        _of_joint(
            joint, code="joint-weak", severity=Severity.CAUTION,
            title=f"The joint between {_between(joint)} opens at {opens:.1f} N",
            measured=opens, limit=use.push, unit="N",
            why=f"Pushed {joint.lever_mm:.0f} mm away, where its lighter side ends. An estimate: the stronger of its "
            f"glue over {joint.area_mm2:.2g} mm² and its pegs in bending, less what its own weight takes.",
            remedies=remedies,
        )
    ]  # fmt: skip


def _rod_through(joint: JointSeen, setup: Setup, bought: Sequence[BoughtPart]) -> list[Remedy]:
    """A wire or rod of the bench through the joint, the thickest that leaves wall enough about it."""
    room = joint.narrowest_mm - 2 * (setup.setting.fits.glued + setup.walls.held.caution + KEY_WALL_OVER)
    fitting = [one for one in bought if one.kind in _RODS and one.real_diameter <= room]
    if not fitting:
        return []
    rod = max(fitting, key=lambda one: one.real_diameter)
    step = Key(
        cut=joint.cut,
        between=joint.parts,
        joins="rod",
        item=rod.id,
        name=rod.name,
        size=rod.real_diameter,
        density=rod.density,
        number=1,
    )
    length = 2 * ROD_DEEP * rod.real_diameter
    bends = {"rods_mm3": np.pi * float(rod.real_diameter) ** 3 / 32}
    held = opens_at(joint.model_copy(update=bends), setup, None) or 0.0
    says = f"cut to {length:.0f} mm; opens at {held:.1f} N then"
    return [
        Remedy(
            label=f"Put {rod.name.lower()} through it",
            change=AddSteps(steps=(step,)),
            cost=Cost(money=rod.price * length / rod.length, says=says),
        )
    ]


def _with_fit(key: Key, fit: str, label: str, says: str) -> list[Remedy]:
    change = SetStep(kind="key", step=key.id, values={"fit": fit})
    return [Remedy(label=label, change=change, cost=Cost(says=says))]


def _between(joint: JointSeen) -> str:
    first, second = (part_in_words(name) for name in joint.parts)
    return f"{first} and {second}"


def _of_joint(
    joint: JointSeen, code: str, severity: Severity, title: str, measured: float, limit: float, unit: str, why: str,
    remedies: Sequence[Remedy],
) -> Finding:  # fmt: skip
    return Finding(
        code=code,
        station=Station.PART,
        severity=severity,
        part=joint.parts[0],
        title=title,
        measured=measured,
        limit=limit,
        unit=unit,
        where=Place(point=joint.point, normal=joint.way, extent=PrintMM(joint.area_mm2**0.5)),
        why=why,
        remedies=tuple(remedies),
    )
