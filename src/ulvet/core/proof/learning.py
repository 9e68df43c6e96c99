"""What proofs and coupons teach of a setting: estimates with their ranges, each with the data it comes from."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict

from ulvet.core.bench.setup import Setup
from ulvet.core.lengths import spoken
from ulvet.core.proof.bounds_learnt import bounds_learnt
from ulvet.core.proof.learnt import Learnt
from ulvet.core.proof.proof import Length, Proof
from ulvet.core.proof.robust import SURE, robust_fit, share_between

__all__ = ["FitsTold", "learnt_of"]

_READING_MM = 0.005
"""Standard deviation of a caliper's reading: half of its last digit (bench default)."""
_READING_SHARE = 0.002
"""Of hours and material, as they are read off a printer or a scale (bench default)."""
_FEWEST_PLATES = 10
"""Plates under which the rate of failure stays the bench's (bench default)."""
_AXES = ("across", "deep", "up")


class FitsTold(BaseModel):
    """What a printed ladder of gaps told, air a side, mm: the least gap that is pressed in by hand, that slides, and
    that turns freely; and the step of its ladder. None where nothing on it did."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    press: float | None = None
    slide: float | None = None
    free: float | None = None
    step: float


@dataclass(frozen=True)
class _Reading:
    value: float
    proof: int | None
    says: str


def learnt_of(
    setup: Setup,
    proofs: Sequence[tuple[int, Proof]],
    lengths: Sequence[Length] = (),
    fits: Sequence[FitsTold] = (),
    walls: Sequence[tuple[Literal["free_standing", "pin"], float]] = (),
) -> tuple[Learnt, ...]:
    """What proofs of a setting, with their numbers, teach of it, with lengths, fits and least walls of its coupons."""
    mine = [(number, proof) for number, proof in proofs if proof.setting == setup.setting.id]
    readings = [(length, number) for number, proof in mine for length in proof.came.lengths]
    found = [
        *_factor(setup, mine, "times.factor", "hours, of what is told", "seconds", setup.setting.times.factor),
        *_factor(setup, mine, "material_factor", "material, of what is told", "ml", setup.setting.material_factor),
        *_lengths(setup, [*readings, *((length, None) for length in lengths)]),
        *_fits(setup, fits),
        *_least_walls(setup, walls),
        *_failures(setup, mine),
        *bounds_learnt(setup, mine),
    ]
    return tuple(found)


def _factor(
    setup: Setup, proofs: Sequence[tuple[int, Proof]], path: str, title: str, what: Literal["seconds", "ml"], now: float
) -> list[Learnt]:
    """A ratio of what came to what was told, which is told with the factor that the bench had then."""
    readings = []
    for number, proof in proofs:
        came, told = getattr(proof.came, what), getattr(proof.told, what)
        if came and told > 0 and (what == "seconds" or not proof.failed):
            factor = getattr(proof.told, f"{what}_factor")
            readings.append(_Reading(float(np.log(came / told * factor)), number, f"proof {number}, {came / told:.2f}"))
    if not readings:
        return []
    fit = robust_fit(np.ones((len(readings), 1)), np.array([one.value for one in readings]), _READING_SHARE)
    middle, half = float(fit.values[0]), float(fit.halves[0])
    known = np.isfinite(half)
    return [
        Learnt(
            thing=setup.setting.id, path=path, title=title, unit="times", value=float(np.exp(middle)),
            low=float(np.exp(middle - half)) if known else None, high=float(np.exp(middle + half)) if known else None,
            count=len(readings), now=now, **_from(readings, fit.left_out),
        )
    ]  # fmt: skip


def _lengths(setup: Setup, lengths: Sequence[tuple[Length, int | None]]) -> list[Learnt]:
    """Shrink by axis and growth of edges, all at once: a length comes out as drawn, less its shrink along the axes it
    runs along, with edges that grow on both sides of it."""
    if not lengths:
        return []
    drawn = np.array([float(one.drawn) for one, _ in lengths])
    ways = np.array([one.direction for one, _ in lengths]) ** 2
    sides = np.array([{"outside": 2.0, "inside": -2.0, "step": 0.0}[one.over] for one, _ in lengths])
    # Layers do not grow upwards: edges grow across only.
    design = np.column_stack([-drawn[:, None] * ways, sides * (1 - ways[:, 2])])
    readings = [
        _Reading(float(one.measured - one.drawn), number, f"{one.name or 'a length'}, {spoken(one.measured)} "
                 f"for {spoken(one.drawn)} mm") for one, number in lengths
    ]  # fmt: skip
    told = [k for k in range(4) if np.abs(design[:, k]).max() > 0]
    told = _told_apart(design, told)
    if not told:
        return []
    fit = robust_fit(design[:, told], np.array([one.value for one in readings]), _READING_MM)
    paths = [*(f"shrink.{axis}" for axis in _AXES), "edge_growth"]
    titles = [*(f"shrinks {axis}" for axis in _AXES), "edges grow, per side"]
    now = [*setup.shrink, float(setup.setting.edge_growth)]
    source = _from(readings, fit.left_out)
    return [
        Learnt(
            thing=setup.setting.id, path=paths[k], title=titles[k], unit="mm" if k == 3 else "share",
            value=float(fit.values[at]), low=_or_none(fit.values[at] - fit.halves[at]),
            high=_or_none(fit.values[at] + fit.halves[at]), count=len(readings), now=now[k], **source,
        )
        for at, k in enumerate(told)
    ]  # fmt: skip


def _told_apart(design: np.ndarray, wanted: Sequence[int]) -> list[int]:
    """Those of the values that the readings tell apart, growth of edges last."""
    kept: list[int] = []
    for k in wanted:
        if np.linalg.matrix_rank(design[:, [*kept, k]]) == len(kept) + 1 and len(design) > len(kept):
            kept.append(k)
    return kept


def _fits(setup: Setup, fits: Sequence[FitsTold]) -> list[Learnt]:
    """What fitted on ladders: between the last gap that did not and the first that did."""
    found = []
    titles = {"press": "gap that is pressed in", "slide": "gap that slides", "free": "gap that turns freely"}
    for name, title in titles.items():
        told = [(float(value), one.step) for one in fits if (value := getattr(one, name)) is not None]
        if not told:
            continue
        # What fitted lies anywhere up to a step under the gap that was ticked.
        middles = np.array([value - step / 2 for value, step in told])
        step = max(step for _, step in told)
        fit = robust_fit(np.ones((len(told), 1)), middles, step / np.sqrt(12))
        half = float(fit.halves[0]) if np.isfinite(fit.halves[0]) else SURE * step / 2
        middle = float(fit.values[0])
        readings = [_Reading(value, None, f"{value:.2f} mm") for value, _ in told]
        found.append(
            Learnt(
                thing=setup.setting.id, path=f"fits.{name}", title=title, unit="mm", value=middle, low=middle - half,
                high=middle + half, count=len(told), now=float(getattr(setup.setting.fits, name)),
                **_from(readings, fit.left_out),
            )
        )  # fmt: skip
    return found


def _least_walls(setup: Setup, walls: Sequence[tuple[Literal["free_standing", "pin"], float]]) -> list[Learnt]:
    """The thinnest wall and pin that came out on every ladder."""
    found = []
    titles: dict[Literal["free_standing", "pin"], str] = {"free_standing": "thinnest wall", "pin": "thinnest pin"}
    for kind, title in titles.items():
        told = [value for of, value in walls if of == kind]
        if told:
            found.append(
                Learnt(
                    thing=setup.setting.id, path=f"walls.{kind}.stop", title=f"{title} that came out", unit="mm",
                    value=max(told), low=min(told), high=max(told), count=len(told), proofs=(),
                    now=float(getattr(setup.walls, kind).stop), says="the thickest of those that were told",
                )
            )  # fmt: skip
    return found


def _failures(setup: Setup, proofs: Sequence[tuple[int, Proof]]) -> list[Learnt]:
    seen = [(number, proof) for number, proof in proofs if proof.came.copies]
    if not seen:
        return []
    failed = sum(proof.failed for _, proof in seen)
    low, high = share_between(failed, len(seen))
    enough = len(seen) >= _FEWEST_PLATES
    return [
        Learnt(
            thing=setup.setting.id, path="fails" if enough else "", title="plates that fail", unit="share",
            value=failed / len(seen), low=low, high=high, count=len(seen), proofs=tuple(number for number, _ in seen),
            now=setup.setting.fails,
            says="" if enough else f"under {_FEWEST_PLATES} plates the bench's own rate is used",
        )
    ]  # fmt: skip


def _from(readings: Sequence[_Reading], left_out: Iterable[bool]) -> dict[str, tuple[int, ...] | tuple[str, ...]]:
    """The proofs that readings come from, and those that were left out."""
    out = list(left_out)
    proofs = sorted({one.proof for one in readings if one.proof is not None})
    return {
        "proofs": tuple(proofs),
        "outliers": tuple(one.says for one, gone in zip(readings, out, strict=True) if gone),
    }


def _or_none(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None
