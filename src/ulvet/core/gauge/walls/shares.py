"""The share of the surface by wall thickness."""

from collections.abc import Sequence

import numpy as np
from pydantic import BaseModel, ConfigDict

from ulvet.core.bench.limits import WallLimits
from ulvet.core.gauge.walls.thickness import Thickness
from ulvet.core.geometry.mesh import Floats

__all__ = ["WallShares", "wall_cap", "wall_shares", "walls_up_to"]

_CAP = 4.0
"""Print mm up to which walls are told at least, and times the material's larger limit (bench default)."""
_BINS = 40
"""Bands of the histogram."""


class WallShares(BaseModel):
    """A histogram of walls: the share of the measured surface in each band, ``upto_mm`` its upper end, print mm.

    What is thicker than the last band is ``beyond``; under the two limits of free-standing
    walls are ``stops`` and ``wants_care``.
    """

    model_config = ConfigDict(frozen=True)

    upto_mm: tuple[float, ...]
    shares: tuple[float, ...]
    beyond: float
    stops: float
    wants_care: float


def wall_cap(limits: WallLimits) -> float:
    """Print mm up to which walls are told as they are."""
    return max(_CAP, 4 * float(limits.thin_from))


def wall_shares(thickness: Sequence[Thickness], factor: float, limits: WallLimits) -> WallShares | None:
    """The walls of all parts together; None where none was measured."""
    walls, areas = _measured(thickness)
    if not len(walls):
        return None
    ends = np.linspace(0, wall_cap(limits), _BINS + 1)
    held, _ = np.histogram(walls * factor, ends, weights=areas)
    shares = held / areas.sum()
    free = limits.free_standing
    stops, cares = (float(areas[walls * factor < limit].sum() / areas.sum()) for limit in (free.stop, free.caution))
    return WallShares(
        upto_mm=tuple(ends[1:].tolist()),
        shares=tuple(shares.tolist()),
        beyond=float(1 - shares.sum()),
        stops=stops,
        wants_care=cares,
    )


def walls_up_to(thickness: Thickness, cap: float, shares: Sequence[float]) -> list[float | None]:
    """The walls (mm, at most ``cap``) that such shares of the measured surface do not exceed; None where there are
    none."""
    walls, areas = _measured([thickness])
    if not len(walls):
        return [None] * len(shares)
    order = np.argsort(walls)
    covered = np.cumsum(areas[order]) / areas.sum()
    at = np.minimum(np.searchsorted(covered, shares), len(order) - 1)
    return np.minimum(walls[order[at]], cap).tolist()


def _measured(thickness: Sequence[Thickness]) -> tuple[Floats, Floats]:
    """Walls and the surface each speaks for, of all samples that have one of their own."""
    known = [np.isfinite(one.walls) & ~one.buried for one in thickness]
    walls = [one.walls[kept] for one, kept in zip(thickness, known, strict=True)]
    areas = [one.areas[kept] for one, kept in zip(thickness, known, strict=True)]
    return np.concatenate([np.empty(0), *walls]), np.concatenate([np.empty(0), *areas])
