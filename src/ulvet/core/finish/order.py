"""The order of work, from the plate to the last coat: what is done, with minutes of hands and of waiting. Estimates."""

from collections.abc import Sequence
from dataclasses import dataclass

from pydantic import BaseModel, ConfigDict

from ulvet.core.bench.printers import Process
from ulvet.core.bench.workshop import WorkStation
from ulvet.core.finish.amounts import RoleSum
from ulvet.core.part.report import AssemblyReport
from ulvet.core.recipe.step import plural

__all__ = ["PartFacts", "WorkRow", "order_of_work"]

_DRY_MIN = 40.0
"""Minutes that washed resin dries before it is cured (bench default)."""
_WASH_HANDS_MIN, _CURE_HANDS_MIN = 4.0, 2.0
"""Minutes of hands to load and turn (bench defaults)."""
_HOLLOW_HANDS_MIN = 3.0
"""Minutes more to rinse the inside of a hollow part (bench default)."""
_SANDED_SHARE = 0.25
"""Of a part's area, what is sanded where it shows (bench default)."""
_SAND_MM2_A_MINUTE = 220.0
"""Square mm sanded in a minute with one grit, wet or dry (bench default)."""
_GRITS_PRIMED, _GRITS_BARE = (240, 400), (240, 400, 800, 1500)
"""Grits in order: up to the one whose scratches primer hides, and finer where the surface stays bare (bench
defaults)."""
_WET_FROM = 400
"""The grit from which on it is sanded wet."""
_RINSE_MIN, _RINSE_DRY_MIN = 3.0, 60.0
"""To rinse dust off, and to dry (bench defaults)."""
_PRIME_MIN, _PRIME_DRY_MIN, _LOOK_MIN = 4.0, 45.0, 5.0
"""To prime, to let it dry, and to look at it (bench defaults)."""
_FILL_MIN_A_JOINT, _FILL_WAIT_MIN = 4.0, 10.0
"""To fill a seam with light-cured resin, and to let it set (bench defaults)."""
_CLEAR_MIN, _CLEAR_DRY_MIN = 4.0, 120.0
"""For the last coat (bench defaults)."""


class WorkRow(BaseModel):
    """One thing to do: what, more of it, the parts it is done to, minutes of hands and of waiting behind it, and which
    caution applies: resin, dust, glue, spray, blade or none. ``by_plate`` is done for all that was printed together."""

    model_config = ConfigDict(frozen=True)

    what: str
    says: str
    parts: tuple[str, ...] = ()
    hands_min: float
    wait_min: float = 0.0
    caution: str = ""
    by_plate: bool = False


@dataclass(frozen=True)
class PartFacts:
    """What finishing asks of a part: its area, print mm², the minutes its supports take, whether it is hollow."""

    name: str
    called: str
    area_mm2: float
    cleanup_min: float
    hollow: bool


def order_of_work(
    process: Process,
    parts: Sequence[PartFacts],
    assembly: AssemblyReport,
    roles: Sequence[RoleSum],
    stations: Sequence[WorkStation],
    painted_first: Sequence[str] = (),
    painted_before: bool = False,
    supports_cured: bool = False,
) -> tuple[WorkRow, ...]:
    """What is done in which order. ``painted_first`` are parts painted before they are put on, since no brush comes to
    them later; ``painted_before`` is the school that paints all parts and assembles last; ``supports_cured`` takes
    supports off after curing, not before."""
    names = tuple(part.name for part in parts)
    rows = _wash(parts, stations) if process == "resin" else []
    off = _supports(parts)
    cure = _cure(parts, stations) if process == "resin" else []
    rows += [*cure, *off] if supports_cured else [*off, *cure]
    bare = bool(roles) and all(role.bare for role in roles)
    rows += _sand(parts, names, bare)
    joints = len(assembly.joints)
    together = _together(assembly) if joints else []
    paint = _paint(roles, names)
    if painted_before or not joints:
        return (*rows, *_prime(names, bare), *paint, *together, *_last(names, roles))
    if painted_first:
        first = tuple(name for name in names if name in set(painted_first))
        called = {part.name: part.called for part in parts}
        who = ", ".join(called[name] for name in first)
        row = WorkRow(
            what="Paint what is out of reach later", says=f"prime and paint the hidden sides of {who}; mask the joints",
            parts=first, hands_min=_PRIME_MIN + 6.0 * len(first), wait_min=_PRIME_DRY_MIN, caution="spray",
        )  # fmt: skip
        rows.append(row)
    rows += together
    rows.append(
        WorkRow(
            what="Fill the seams", says=f"{plural(joints, 'joint')}; wipe off what is squeezed out, fill, sand",
            parts=names,
            hands_min=_FILL_MIN_A_JOINT * joints, wait_min=_FILL_WAIT_MIN, caution="dust",
        )
    )  # fmt: skip
    return (*rows, *_prime(names, bare), *paint, *_last(names, roles))


def _wash(parts: Sequence[PartFacts], stations: Sequence[WorkStation]) -> list[WorkRow]:
    wash = next((one for one in stations if one.does == "wash" and not one.retired), None)
    hollow = [part for part in parts if part.hollow]
    inside = f"; rinse the inside of {', '.join(part.called for part in hollow)}" if hollow else ""
    minutes = wash.minutes if wash else 6.0
    return [
        WorkRow(
            what="Wash", says=f"two baths, {minutes / 2:.0f} min each{inside}", parts=tuple(p.name for p in parts),
            hands_min=_WASH_HANDS_MIN + _HOLLOW_HANDS_MIN * len(hollow), wait_min=minutes, caution="resin",
            by_plate=True,
        ),
        WorkRow(
            what="Dry", says="until nothing shines, insides and openings too", parts=tuple(p.name for p in parts),
            by_plate=True, hands_min=1.0, wait_min=_DRY_MIN,
        ),
    ]  # fmt: skip


def _cure(parts: Sequence[PartFacts], stations: Sequence[WorkStation]) -> list[WorkRow]:
    cure = next((one for one in stations if one.does == "cure" and not one.retired), None)
    minutes = cure.minutes if cure else 6.0
    inside = ", with a lamp into openings" if any(part.hollow for part in parts) else ""
    return [
        WorkRow(
            what="Cure", says=f"{minutes:.0f} min, turned half-way{inside}; no longer, as that makes it brittle",
            parts=tuple(p.name for p in parts), hands_min=_CURE_HANDS_MIN, wait_min=minutes, caution="resin",
            by_plate=True,
        )
    ]  # fmt: skip


def _supports(parts: Sequence[PartFacts]) -> list[WorkRow]:
    held = [part for part in parts if part.cleanup_min > 0]
    if not held:
        return []
    return [
        WorkRow(
            what="Take supports off", says=f"{len(held)} of {len(parts)} parts; pare the dots they leave",
            parts=tuple(p.name for p in held), hands_min=sum(p.cleanup_min for p in held), caution="blade",
            by_plate=True,
        )
    ]  # fmt: skip


def _sand(parts: Sequence[PartFacts], names: tuple[str, ...], bare: bool) -> list[WorkRow]:
    grits = _GRITS_BARE if bare else _GRITS_PRIMED
    area = sum(part.area_mm2 for part in parts) * _SANDED_SHARE
    told = ", ".join(f"{grit}{' wet' if grit >= _WET_FROM else ''}" for grit in grits)
    layers = "" if bare else "; layer steps that primer hides are left"
    return [
        WorkRow(
            what="Sand where it shows", says=f"{told}{layers}", parts=names,
            hands_min=area * len(grits) / _SAND_MM2_A_MINUTE, caution="dust",
        ),
        WorkRow(
            what="Rinse the dust off", says="and let it dry", parts=names, hands_min=_RINSE_MIN,
            wait_min=_RINSE_DRY_MIN,
        ),
    ]  # fmt: skip


def _together(assembly: AssemblyReport) -> list[WorkRow]:
    rows = []
    for number, step in enumerate(assembly.order, 2):
        glue = step.glue or "pushed in"
        rows.append(
            WorkRow(
                what=f"Put together, step {number}", says=f"faces sanded, tried dry, {glue.lower()}", parts=step.parts,
                hands_min=step.sanding_minutes + 3.0, wait_min=step.minutes, caution="glue" if step.glue else "",
            )
        )  # fmt: skip
    return rows


def _prime(names: tuple[str, ...], bare: bool) -> list[WorkRow]:
    if bare:
        return []
    return [
        WorkRow(
            what="Prime, look, fill, prime", says="thin; pits and seams show now", parts=names,
            hands_min=2 * _PRIME_MIN + _LOOK_MIN, wait_min=2 * _PRIME_DRY_MIN, caution="spray",
        )
    ]  # fmt: skip


def _paint(roles: Sequence[RoleSum], names: tuple[str, ...]) -> list[WorkRow]:
    """Coats of all roles, those of a kind together, so that each dries while the next role is painted."""
    rows = []
    for kind, what in (("base", "Base coats"), ("wash", "Washes"), ("highlight", "Highlights"), ("clear", "Clear")):
        of_kind = [(role, coat) for role in roles for coat in role.coats if coat.kind == kind]
        if of_kind:
            hands = sum(coat.minutes for _, coat in of_kind)
            waits = max(coat.wait_min for _, coat in of_kind)
            called = dict.fromkeys(_in_words(role.role, coat.called) for role, coat in of_kind)
            rows.append(
                WorkRow(
                    what=what, says=", ".join(called), parts=names, hands_min=hands,
                    wait_min=max(waits - hands, 0.0), caution="spray",
                )
            )  # fmt: skip
    return rows


def _in_words(role: str, called: str) -> str:
    """A role and what it is painted with; of a mix that is named after it that name alone."""
    return called if role in called else f"{role} {called}"


def _last(names: tuple[str, ...], roles: Sequence[RoleSum]) -> list[WorkRow]:
    if not any(role.coats for role in roles):
        return []
    return [
        WorkRow(
            what="Last coat", says="after decals and weathering, once all is dry", parts=names, hands_min=_CLEAR_MIN,
            wait_min=_CLEAR_DRY_MIN, caution="spray",
        )
    ]  # fmt: skip
