"""What colours take: area, drops, ml, money and minutes, role by role. All estimates. Print mm."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from pydantic import BaseModel, ConfigDict

from ulvet.core.bench.paints import Paint
from ulvet.core.finish.colour import hex_of, light_of
from ulvet.core.finish.mixing import mixed_colour
from ulvet.core.finish.steps import Coat, RoleColour, Scheme

__all__ = ["CoatSum", "RoleArea", "RoleSum", "role_colour", "role_sums", "sums_of_paint"]

_LEFT_ML = {"brush": 0.06, "airbrush": 0.3, "spray": 0.0}
"""Ml that stay in cup and brush each time, by tool (bench defaults)."""
_PAST = {"brush": 1.0, "airbrush": 1.3, "spray": 1.7}
"""How much more goes than lands on the figure, by tool (bench defaults)."""
_MM2_A_MINUTE = {"ground": 900.0, "base": 260.0, "wash": 700.0, "highlight": 90.0, "clear": 900.0, "weathering": 400.0}
"""Square mm that hands paint in a minute with a brush, by kind of coat (bench defaults)."""
_FASTER = {"brush": 1.0, "airbrush": 5.0, "spray": 20.0}
"""How many times as fast other tools are (bench defaults)."""
_READY_MIN = 3.0
"""Minutes to mix and clean up for a coat (bench default)."""
_UNSAID = ("#8d99a8", "#b39b7d", "#8fa58a", "#a98a92", "#7c8f8c", "#c0b38c", "#8a86a3", "#a67f6b")
"""Colours of roles that nobody has given one, in their order, so that they are told apart; from the first again."""


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True)


class CoatSum(_Value):
    """What one coat of a role takes; by paint the drops of it."""

    kind: str
    called: str
    area_mm2: float
    ml: float
    drops: dict[str, float]
    money: float
    minutes: float
    wait_min: float


class RoleSum(_Value):
    """A role of a scheme: its area, the shares of it that are seen, that are recesses and that are edges, the colour it
    ends in, and what it takes."""

    role: str
    area_mm2: float
    seen: float = 1.0
    recesses: float = 0.0
    edges: float = 0.0
    colour: str
    bare: bool
    coats: tuple[CoatSum, ...]
    ml: float
    drops: float
    money: float
    minutes: float


@dataclass(frozen=True)
class RoleArea:
    """The area of a role, print mm², and how much of it is seen, how much recess and how much edge, as shares."""

    area: float
    seen: float = 1.0
    recesses: float = 0.0
    edges: float = 0.0


def role_sums(
    areas: Mapping[str, RoleArea], scheme: Scheme | None, paints: Sequence[Paint], bare: str
) -> tuple[RoleSum, ...]:
    """What every role takes, by its area, on material whose colour is ``bare``."""
    known = {paint.id: paint for paint in paints}
    return tuple(
        _role(role, area, scheme.of(role) if scheme else None, known, bare, _UNSAID[k % len(_UNSAID)])
        for k, (role, area) in enumerate(areas.items())
    )


def role_colour(role: RoleColour | None, paints: Mapping[str, Paint], bare: str, unsaid: str = _UNSAID[0]) -> str:
    """The colour in hex that a role ends in: its coats over each other on the ``bare`` material, as far as each covers;
    an estimate. ``unsaid`` where it has none yet."""
    if role is None or not (role.bare or role.coats):
        return unsaid
    if role.bare:
        return bare
    light = light_of(bare)
    for coat in role.coats:
        paint = _paint_of(coat, paints)
        if paint is None or paint.kind == "clear":
            continue
        colour = mixed_colour(paints, coat.drops) if coat.drops else paint.dry
        over = (1 - (1 - paint.covers) ** coat.coats) * coat.share * (1 - coat.thinned)
        light = light + over * (light_of(colour) - light)
    return hex_of(np.asarray(light))


def sums_of_paint(roles: Sequence[RoleSum], paints: Sequence[Paint]) -> dict[str, float]:
    """By the id of a paint the ml of it that all roles take, of those that are known."""
    known = {paint.id: paint for paint in paints}
    found: dict[str, float] = {}
    for role in roles:
        for coat in role.coats:
            for name, drops in coat.drops.items():
                if name in known:
                    found[name] = found.get(name, 0.0) + drops / known[name].drops_a_ml
    return found


def _role(
    role: str, of_it: RoleArea, colour: RoleColour | None, paints: Mapping[str, Paint], bare: str, unsaid: str
) -> RoleSum:
    coats = tuple(_coat(coat, of_it.area, paints) for coat in colour.coats) if colour and not colour.bare else ()
    stays = bool(colour and colour.bare)
    return RoleSum(
        role=role, area_mm2=of_it.area, seen=of_it.seen, recesses=of_it.recesses, edges=of_it.edges,
        colour=role_colour(colour, paints, bare, unsaid), bare=stays, coats=coats,
        ml=sum(one.ml for one in coats), drops=sum(sum(one.drops.values()) for one in coats),
        money=sum(one.money for one in coats), minutes=sum(one.minutes for one in coats),
    )  # fmt: skip


def _coat(coat: Coat, area: float, paints: Mapping[str, Paint]) -> CoatSum:
    paint = _paint_of(coat, paints)
    covered = area * coat.share
    minutes = coat.coats * (covered / (_MM2_A_MINUTE[coat.kind] * _FASTER[coat.tool]) + _READY_MIN)
    if paint is None:
        return CoatSum(
            kind=coat.kind, called=coat.paint, area_mm2=covered, ml=0.0, drops={}, money=0.0, minutes=minutes,
            wait_min=coat.wait_min or 0.0,
        )  # fmt: skip
    ml = coat.coats * (covered / paint.mm2_a_ml * _PAST[coat.tool] + _LEFT_ML[coat.tool]) * (1 - coat.thinned)
    parts = dict(coat.drops) or {paint.id: 1.0}
    whole = sum(parts.values())
    drops = {name: ml * share / whole * paints[name].drops_a_ml for name, share in parts.items() if name in paints}
    money = sum(count / paints[name].drops_a_ml * paints[name].price_a_ml for name, count in drops.items())
    wait = paint.recoat_min if coat.wait_min is None else coat.wait_min
    called = coat.paint if coat.drops else paint.name
    return CoatSum(
        kind=coat.kind, called=called, area_mm2=covered, ml=ml, drops=drops, money=money, minutes=minutes,
        wait_min=wait * coat.coats,
    )  # fmt: skip


def _paint_of(coat: Coat, paints: Mapping[str, Paint]) -> Paint | None:
    """The paint of a coat; of a mix the one there is most of."""
    if coat.drops:
        known = [name for name in coat.drops if name in paints]
        return paints[max(known, key=lambda name: coat.drops[name])] if len(known) == len(coat.drops) else None
    return paints.get(coat.paint)
