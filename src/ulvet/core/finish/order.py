"""The order of work, from the plate to the last coat: what is done, with minutes of hands and of waiting. Estimates."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from pydantic import BaseModel, ConfigDict

from ulvet.core.bench.printers import Process
from ulvet.core.bench.workshop import WorkStation
from ulvet.core.finish.amounts import RoleSum
from ulvet.core.finish.surface import UNSEEN_STEP, filler_for, grits_for
from ulvet.core.lengths import PrintMM
from ulvet.core.part.report import AssemblyReport
from ulvet.core.recipe.step import plural

__all__ = ["PartFacts", "Surface", "WorkRow", "order_of_work"]

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
_WET_FROM = 400
"""The grit from which on it is sanded wet."""
_RINSE_MIN, _RINSE_DRY_MIN = 3.0, 60.0
"""To rinse dust off, and to dry (bench defaults)."""
_PRIME_MIN, _PRIME_DRY_MIN, _LOOK_MIN = 4.0, 45.0, 5.0
"""To prime, to let it dry, and to look at it (bench defaults)."""
_CLOSED_GAP = PrintMM(0.1)
"""Gap of a joint of which none is known (bench default)."""
_HOLD_MIN = 1.0
"""To give a part something to hold it by (bench default)."""
_DECAL_MIN, _DECAL_DRY_MIN = 6.0, 240.0
"""To put on a decal and draw it down with softener, and to let all dry before they are sealed (bench defaults)."""
_BEFORE_DECALS = {"base": "Base coats", "wash": "Washes", "highlight": "Highlights", "clear": "Clear"}
_AFTER_DECALS = {"weathering": "Weathering"}
"""Kinds of coats before and after decals, and what putting them on is called."""
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
class Surface:
    """What the surface is to be: how deep a scratch is hidden, µm, whether all of it stays bare, the height of the
    layers, and how many decals go on it."""

    hides_um: float
    bare: bool
    layer: PrintMM
    decals: int = 0


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
    surface: Surface,
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
    rows += _sand(process, parts, names, surface)
    joints = len(assembly.joints)
    together = _together(assembly) if joints else []
    bare = surface.bare
    paint = [*_paint(roles, names, _BEFORE_DECALS), *_decals(surface.decals, names),
             *_paint(roles, names, _AFTER_DECALS)]  # fmt: skip
    held = _hold(parts, assembly, painted_before) if roles and not bare else []
    if painted_before or not joints:
        return (*rows, *held, *_prime(names, bare), *paint, *together, *_last(names, roles))
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
    rows.append(_fill(process, assembly, names))
    return (*rows, *held, *_prime(names, bare), *paint, *_last(names, roles))


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


def _sand(process: Process, parts: Sequence[PartFacts], names: tuple[str, ...], surface: Surface) -> list[WorkRow]:
    grits = grits_for(process, surface.hides_um)
    area = sum(part.area_mm2 for part in parts) * _SANDED_SHARE
    told = ", ".join(f"{grit}{' wet' if grit >= _WET_FROM else ''}" for grit in grits)
    step = f"{surface.layer * 1000:.0f} µm"
    layers = f"layer steps of {step} are sanded away"
    if surface.layer <= UNSEEN_STEP:
        layers = f"layer steps of {step} are not seen at arm's length and are left"
    return [
        WorkRow(
            what="Sand where it shows", says=f"{told}, {area / 100:.1f} cm² with each; {layers}", parts=names,
            hands_min=area * len(grits) / _SAND_MM2_A_MINUTE, caution="dust",
        ),
        WorkRow(
            what="Rinse the dust off", says="and let it dry", parts=names, hands_min=_RINSE_MIN,
            wait_min=_RINSE_DRY_MIN,
        ),
    ]  # fmt: skip


def _fill(process: Process, assembly: AssemblyReport, names: tuple[str, ...]) -> WorkRow:
    """What seams are filled with, by the gap that each leaves."""
    gaps = [PrintMM(_CLOSED_GAP if joint.gap_mm is None else joint.gap_mm) for joint in assembly.joints]
    fillers = [filler_for(gap, process) for gap in gaps]
    many = {name: sum(one[0] == name for one in fillers) for name in dict.fromkeys(name for name, _, _ in fillers)}
    told = ", ".join(f"{plural(count, 'joint')} with {name}" for name, count in many.items())
    return WorkRow(
        what="Fill the seams", says=f"{told}; wipe off what is squeezed out, fill, sand", parts=names,
        hands_min=sum(hands for _, hands, _ in fillers), wait_min=max(waits for _, _, waits in fillers),
        caution="dust",
    )  # fmt: skip


def _hold(parts: Sequence[PartFacts], assembly: AssemblyReport, apart: bool) -> list[WorkRow]:
    """What parts are held by while they are painted: in a joint where they are painted apart, else from below."""
    jointed = {name for joint in assembly.joints if joint.keys for name in joint.parts} if apart else set()
    by_joint = [part.called for part in parts if part.name in jointed]
    others = [part.called for part in parts if part.name not in jointed]
    told = [f"{', '.join(by_joint)} on a stick in a joint"] if by_joint else []
    if others:
        told.append(f"{', '.join(others) if apart else 'the figure'} from below, where no paint is seen")
    pieces = len(parts) if apart else 1
    return [
        WorkRow(
            what="Give it something to hold it by", says="; ".join(told), parts=tuple(part.name for part in parts),
            hands_min=_HOLD_MIN * pieces,
        )
    ]  # fmt: skip


def _decals(count: int, names: tuple[str, ...]) -> list[WorkRow]:
    if not count:
        return []
    return [
        WorkRow(
            what="Gloss clear below decals", says="they silver on matt", parts=names, hands_min=_CLEAR_MIN,
            wait_min=_CLEAR_DRY_MIN, caution="spray",
        ),
        WorkRow(
            what="Decals", says=f"{plural(count, 'decal')}, drawn down with softener", parts=names,
            hands_min=_DECAL_MIN * count, wait_min=_DECAL_DRY_MIN,
        ),
        WorkRow(
            what="Seal the decals", says="a thin clear coat, before anything goes over them", parts=names,
            hands_min=_CLEAR_MIN, wait_min=_CLEAR_DRY_MIN, caution="spray",
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


def _paint(roles: Sequence[RoleSum], names: tuple[str, ...], kinds: Mapping[str, str]) -> list[WorkRow]:
    """Coats of all roles, those of a kind together, so that each dries while the next role is painted."""
    rows = []
    for kind, what in kinds.items():
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
            what="Last coat", says="once all below it is dry", parts=names, hands_min=_CLEAR_MIN,
            wait_min=_CLEAR_DRY_MIN, caution="spray",
        )
    ]  # fmt: skip
