"""What a mix of paints dries to, and which mix comes nearest to a colour.

One constant a paint and channel: its absorption over its scattering, as its dried swatch shows it (Kubelka and Munk
1931; mixed by share as in Duncan 1940). An estimate: what a mix dried to replaces it.
"""

from collections.abc import Mapping, Sequence
from itertools import combinations

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

from ulvet.core.bench.paints import Paint
from ulvet.core.finish.colour import difference, hex_of, lab_of, light_of
from ulvet.core.geometry.mesh import Floats

__all__ = ["MOST_DROPS", "Proposal", "mixed_colour", "proposals", "strength_from"]

MOST_DROPS = 20
"""Drops of a mix that is proposed, at most: more cannot be counted out (bench default)."""
_MOST_PAINTS = 3
"""Paints of a mix that is proposed; more turn to mud (bench default)."""
_DARKEST = 1e-3
"""Light that the blackest paint still throws back (of gloss black paint, some per mille)."""
Ints = NDArray[np.int64]
_STRENGTHS = np.geomspace(0.05, 20, 400)
"""Strengths that are tried for a paint."""


class Proposal(BaseModel):
    """A mix in whole drops by the id of its paints, what it dries to, and how unlike the colour wanted that is
    (CIEDE2000); an estimate."""

    model_config = ConfigDict(frozen=True)

    drops: dict[str, int]
    colour: str
    difference: float


def mixed_colour(paints: Mapping[str, Paint], drops: Mapping[str, float]) -> str:
    """What a mix of known paints dries to, in hex.

    Raises ValueError for a mix of nothing.
    """
    used = [(paints[name], count) for name, count in drops.items() if count > 0]
    if not used:
        raise ValueError("A mix holds at least one drop of something.")
    amounts = np.array([[count * paint.strength for paint, count in used]])
    return hex_of(_dried(amounts, _constants([paint for paint, _ in used]))[0])


def proposals(want: str, paints: Sequence[Paint], count: int = 5) -> tuple[Proposal, ...]:
    """The mixes in whole drops that come nearest to a colour in hex, of all that hold up to three paints and twenty
    drops; of mixes in the same shares only the smallest. Paints of one base alone are mixed."""
    wanted = lab_of(light_of(want))
    found: list[Proposal] = []
    for base in dict.fromkeys(paint.base for paint in paints):
        own = [one for one in paints if one.base == base and one.kind == "paint"]
        found += _of_base(wanted, own, count)
    return tuple(sorted(found, key=lambda one: (one.difference, sum(one.drops.values())))[:count])


def strength_from(paint: Paint, others: Mapping[str, Paint], drops: Mapping[str, float], dried: str) -> float:
    """How strongly a paint tints, from what a mix of it with known ones dried to: the strength under which the model
    comes nearest."""
    names = list(drops)
    known = [paint if name == paint.id else others[name] for name in names]
    amounts = np.array(
        [[count if name == paint.id else count * others[name].strength for name, count in drops.items()]]
    ).repeat(len(_STRENGTHS), axis=0)
    amounts[:, names.index(paint.id)] *= _STRENGTHS
    away = difference(lab_of(_dried(amounts, _constants(known))), lab_of(light_of(dried)))
    return float(_STRENGTHS[int(np.argmin(away))])


def _of_base(wanted: Floats, paints: Sequence[Paint], count: int) -> list[Proposal]:
    best: list[tuple[float, tuple[int, ...], Ints]] = []
    for many in range(1, min(_MOST_PAINTS, len(paints)) + 1):
        shares = _shares(many)
        for chosen in combinations(range(len(paints)), many):
            of = [paints[at] for at in chosen]
            amounts = shares * np.array([paint.strength for paint in of])
            away = difference(lab_of(_dried(amounts, _constants(of))), wanted)
            best += [(float(away[at]), chosen, shares[at]) for at in np.argsort(away, kind="stable")[:count]]
    best.sort(key=lambda one: (one[0], int(one[2].sum())))
    found = []
    for unlike, chosen, drops in best[:count]:
        of = [paints[at] for at in chosen]
        amounts = (drops * np.array([paint.strength for paint in of]))[None]
        named = {paint.id: int(many) for paint, many in zip(of, drops, strict=True)}
        found.append(Proposal(drops=named, colour=hex_of(_dried(amounts, _constants(of))[0]), difference=unlike))
    return found


def _shares(many: int) -> Ints:
    """Every number of drops (n, many) of so many paints, each in it, that is no multiple of a smaller one."""
    grids = np.meshgrid(*[np.arange(1, MOST_DROPS + 1)] * many, indexing="ij")
    drops = np.stack([grid.ravel() for grid in grids], axis=1)
    drops = drops[drops.sum(axis=1) <= MOST_DROPS]
    return drops[np.gcd.reduce(drops, axis=1) == 1]


def _constants(paints: Sequence[Paint]) -> Floats:
    """Absorption over scattering (paints, 3) of dried swatches."""
    light = np.clip(np.array([light_of(paint.dry) for paint in paints]), _DARKEST, 1.0)
    return (1 - light) ** 2 / (2 * light)


def _dried(amounts: Floats, constants: Floats) -> Floats:
    """Linear light (n, 3) of mixes with so much of each paint (n, paints), by strength."""
    mixed = amounts @ constants / amounts.sum(axis=1, keepdims=True)
    return 1 + mixed - np.sqrt(mixed**2 + 2 * mixed)
