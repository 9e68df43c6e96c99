"""Struts: supports that stand on the figure itself, for places from which no way leads down to the plate."""

import numpy as np

from ulvet.core.bench.support_limits import SupportLimits
from ulvet.core.geometry.mesh import Points
from ulvet.core.geometry.rays import Rays
from ulvet.core.stand.columns import Column

__all__ = ["pin_below", "strut_below"]

_TILTS = (0.0, 15.0, 30.0, 45.0)
"""Degrees from straight down at which a strut is tried."""
_AROUND = 12
"""Directions about the upright in which a strut is tried."""
_LONGEST = 60.0
"""Millimetres of a strut at most (bench default)."""
_SKEWEST = 0.25
"""Cosine to the skin at which a strut still meets it squarely enough (bench default)."""
_INTO = 0.12
"""Millimetres that a strut reaches into the skin, so that it holds."""


def strut_below(point: Points, normal: Points, rays: Rays, holding: SupportLimits) -> Column | None:
    """The shortest strut from skin at ``point`` (3,), looking along ``normal`` (3,), to skin below that looks up.

    No more than 45° from upright and 60 mm long; None where there is no such skin. Its middle is as thick as a slim
    column where it is long enough, and both ends taper to the least tip.
    """
    ways = np.array([
        [np.sin(tilt) * np.cos(turn), np.sin(tilt) * np.sin(turn), -np.cos(tilt)]
        for tilt in np.radians(_TILTS)
        for turn in np.arange(_AROUND if tilt else 1) * 2 * np.pi / _AROUND
    ])  # fmt: skip
    start = np.broadcast_to(point + normal * rays.grain * 4, ways.shape)
    distance, face = rays.first(start, ways)
    square = np.einsum("ij,ij->i", -rays.normals[face], ways)
    usable = (face >= 0) & (square > _SKEWEST) & (distance < _LONGEST) & (ways @ normal > _SKEWEST)
    if not usable.any():
        return None
    best = int(np.where(usable, distance, np.inf).argmin())
    way, length = ways[best], float(distance[best])
    tip = holding.tip_least / 2
    middle = max(min(holding.column * 0.3, length / 8), tip)
    at = np.array([-_INTO, 0.0, 0.3 * length, 0.7 * length, length, length + _INTO])
    return Column(point + at[:, None] * way, np.array([tip, tip, middle, middle, tip, tip]), 0.0)


def pin_below(place: Points, rays: Rays, holding: SupportLimits, layer: float) -> Column:
    """A pin straight down from where an island begins at ``place`` (3,), to whatever lies there first, or to the plate.

    The last way when no other is left: it is as thin as a tip and may touch the figure beside it.
    """
    start = place - [0, 0, layer]
    distance, face = rays.first(start[None], np.array([[0.0, 0, -1]]))
    foot = start[2] - float(distance[0]) if face[0] >= 0 else 0.0
    x, y, z = place
    ends = np.array([[x, y, z + _INTO + layer], [x, y, max(foot - _INTO, 0.0)]])
    return Column(ends, np.full(2, holding.tip_least / 2), 0.0)
