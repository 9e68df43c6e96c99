"""The largest at which a figure fits a box when it may be turned any way."""

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict
from scipy.optimize import minimize

from ulvet.core.geometry.samples import even_directions
from ulvet.core.recipe.stance import Vector, turn_to
from ulvet.core.size.build_volume import room_for
from ulvet.core.stand.screening import DIRECTIONS

__all__ = ["Turned", "largest_turned"]

_SPINS = 24
"""Turns about the upright that are tried, over half a turn."""
_REFINED = 12
"""Best ways that are refined."""
_AT_ONCE = 64
"""Ways worked out at a time, for memory."""


class Turned(BaseModel):
    """How a figure is turned to fit: which of its directions points up, the turn about that, the factor it allows."""

    model_config = ConfigDict(frozen=True)

    up: Vector
    spin: float
    factor: float

    @property
    def lean(self) -> float:
        """Degrees between the figure's own upright and the printer's."""
        return float(np.degrees(np.arccos(np.clip(self.up[2], -1, 1))))


def largest_turned(hull: NDArray[np.float64], volume: NDArray[np.float64]) -> Turned:
    """The turn of corners ``hull`` (h, 3) at which they fit a box ``volume`` (3,) largest.

    Ways spread evenly over the sphere and round the upright, the best dozen refined (Nelder and Mead 1965); the figure
    as it stands is among them, so that it is never worse.
    """
    middle = (hull.min(axis=0) + hull.max(axis=0)) / 2
    points = hull - middle
    spread = even_directions(DIRECTIONS)
    # Upside down takes the same room.
    ups = np.concatenate([np.eye(3)[::-1], spread[spread[:, 2] > 0]])
    turns = np.array([turn_to(up) for up in ups])
    spins = np.arange(_SPINS) * (np.pi / _SPINS)
    room = np.empty((len(ups), _SPINS))
    for begin in range(0, len(ups), _AT_ONCE):
        turned = np.einsum("nij,hj->nih", turns[begin : begin + _AT_ONCE], points)
        tall = np.ptp(turned[:, 2], axis=1)
        for k, spin in enumerate(spins):
            wide = np.ptp(np.cos(spin) * turned[:, 0] - np.sin(spin) * turned[:, 1], axis=1)
            deep = np.ptp(np.sin(spin) * turned[:, 0] + np.cos(spin) * turned[:, 1], axis=1)
            room[begin : begin + _AT_ONCE, k] = room_for(np.stack([wide, deep, tall], axis=1), volume)
    best: tuple[float, NDArray[np.float64], float] = (-1.0, ups[0], 0.0)
    for place in np.argsort(-room.ravel(), kind="stable")[:_REFINED]:
        row, column = np.divmod(place, _SPINS)
        best = max(best, _refined(points, volume, ups[row], float(spins[column])), key=lambda one: one[0])
    factor, up, spin = best
    x, y, z = map(float, up)
    return Turned(up=(x, y, z), spin=float(spin), factor=float(factor))


def _refined(
    points: NDArray[np.float64], volume: NDArray[np.float64], up: NDArray[np.float64], spin: float
) -> tuple[float, NDArray[np.float64], float]:
    back = turn_to(up)

    def tilted(a: float, b: float) -> NDArray[np.float64]:
        way = np.array([a, b, 1.0]) @ back
        return np.asarray(way / np.linalg.norm(way))

    def lack(move: NDArray[np.float64]) -> float:
        size = np.ptp(points @ turn_to(tilted(move[0], move[1]), spin + move[2]).T, axis=0)
        return -float(room_for(size[None], volume)[0])

    start = np.vstack([np.zeros(3), 0.08 * np.eye(3)])
    found = minimize(lack, np.zeros(3), method="Nelder-Mead", options={"initial_simplex": start, "maxiter": 120})
    a, b, more = found.x if found.fun < lack(np.zeros(3)) else np.zeros(3)
    return -lack(np.array([a, b, more])), tilted(a, b), spin + float(more)
