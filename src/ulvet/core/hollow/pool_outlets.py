"""Where a vent lets resin out that would stay."""

import numpy as np

from ulvet.core.geometry.mesh import Points
from ulvet.core.geometry.rays import Rays
from ulvet.core.hollow.opening_cuts import CannotOpen, mouth_at
from ulvet.core.hollow.opening_proposals import LEAST_DIAMETER
from ulvet.core.hollow.retained_resin import Pool
from ulvet.core.hollow.spaces import Mouth

__all__ = ["outlet_for"]

_WAYS = 400
"""Directions that are looked at, spread evenly over a ball (Fibonacci lattice; González 2010)."""
_STEEP = 0.3
"""Cosine from straight down, at least, so that resin runs to it."""
_LONGEST = 6.0
"""Mm of wall beyond which no vent is proposed (bench default)."""
_FREE = 20.0
"""Mm of room for a drill outside (bench default)."""
_SLANTS = 4.0
"""What it costs to go aslant, as mm of wall (bench default)."""
_TRIED = 12
"""Places that are tried, the best first."""


def outlet_for(rays: Rays, pool: Pool, down: Points) -> Mouth | None:
    """The vent from the deepest place of a pool (print mm) through the thinnest wall under it; None where there is
    none."""
    turn = np.arange(_WAYS) + 0.5
    z, angle = 1 - 2 * turn / _WAYS, np.pi * (1 + 5**0.5) * turn
    across = np.sqrt(1 - z**2)
    ways = np.stack([across * np.cos(angle), across * np.sin(angle), z], axis=1)
    ways = ways[ways @ down > _STEEP]
    start = np.broadcast_to(pool.point, ways.shape)
    inner, _ = rays.first(start, ways)
    inside = start + ways * (np.where(np.isfinite(inner), inner, 0) + rays.grain)[:, None]
    wall, _ = rays.first(inside, ways)
    out = inside + ways * (np.where(np.isfinite(wall), wall, 0) + rays.grain * 2)[:, None]
    free, _ = rays.first(out, ways)
    may = np.isfinite(inner) & (wall < _LONGEST) & (free > _FREE)
    cost = inner + wall + _SLANTS * (1 - ways @ down)
    for k in np.flatnonzero(may)[np.argsort(cost[may], kind="stable")][:_TRIED]:
        try:
            drill, _ = mouth_at(rays, None, out[k], ways[k], LEAST_DIAMETER)
        except CannotOpen:
            continue
        return drill.mouth
    return None
