"""Which places are held, from which side, and how strongly."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulvet.core.bench.support_limits import SupportLimits
from ulvet.core.geometry.mesh import Floats, Points
from ulvet.core.geometry.rays import Rays
from ulvet.core.stand.clearance_grid import ClearanceGrid

__all__ = ["Tips", "find_tips", "load_borne", "loads_of", "spread_contacts", "strongest_load", "tip_for"]

_LENGTHS = (1.0, 0.7, 1.5)  # of the usual tip
_TILTS = (25.0, 45.0)  # degrees from straight down
_AROUND = 8
"""Directions about the skin's normal in which a tip is tried."""
_STEEPEST = 45.0
"""Degrees from straight down at which a tip may leave the skin (bench default)."""
_SKEWEST = 0.3  # cosine between tip and skin's normal
_SKEW_COST = 8.0  # mm of way that a tip along the skin instead of square to it is worth
_STUB = 1.6  # usual tips high
_LOW = 4.0  # mm above the lowest point within which contacts stand closer
_CLOSER = 0.7
"""Spacing near the lowest point, of the usual: the first layers are torn hardest (bench default)."""
Bools = NDArray[np.bool_]


@dataclass(frozen=True)
class Tips:
    """For every place (n): where its tip ends and the column begins (n, 3), and whether there is such a place."""

    heads: Points
    found: Bools


def find_tips(points: Points, normals: Points, rays: Rays, room: ClearanceGrid, holding: SupportLimits) -> Tips:
    """For skin at ``points`` (n, 3) looking along ``normals``, the best tip that a column can come to from the plate.

    Tried are the skin's own normal, straight down, and eight ways about at two tilts, in three lengths; best is the
    cheapest way down among those square enough to the skin that meet nothing.
    """
    count = len(points)
    heads, best = points.copy(), np.full(count, np.inf)
    reach = holding.column / 2
    start = points + normals * rays.grain * 4
    for ways in _tilted(normals):
        square = np.einsum("ij,ij->i", ways, normals)
        for part in _LENGTHS:
            length = part * holding.tip_length
            ends = points + ways * length
            cost = room.cost_at(ends) + _SKEW_COST * (1 - square) + abs(part - 1)
            high = ends[:, 2] > holding.column
            able = np.flatnonzero(high & (square >= _SKEWEST) & (cost < best) & (room.air_at(ends) >= room.need))
            if not len(able):
                continue
            free = rays.first(start[able], ways[able])[0] > length + reach
            able = able[free]
            best[able], heads[able] = cost[able], ends[able]
    # So close to the plate that no tip of the usual length fits: a stub straight down.
    low = _STUB * holding.tip_length + holding.column
    stubs = np.flatnonzero(np.isinf(best) & (points[:, 2] < low) & (points[:, 2] > 0))
    down = np.broadcast_to([0.0, 0, -1], (len(stubs), 3))
    stubs = stubs[rays.first(start[stubs], down)[0] > start[stubs, 2]]
    heads[stubs] = points[stubs] * [1, 1, 0.5]
    best[stubs] = 0
    return Tips(heads, np.isfinite(best))


def spread_contacts(points: Points, able: Bools, taken: Points, spacing: float, low: float) -> list[int]:
    """Numbers of the places (n, 3), sorted from below, to be held so that none is farther than ``spacing`` mm from
    one; ``taken`` (t, 3) are held already. Nearer to each other close to ``low``, where the figure begins."""
    reach = np.where(points[:, 2] < low + _LOW, _CLOSER * spacing, spacing)
    open_ = able.copy()
    if len(taken):
        open_ &= cKDTree(taken).query(points)[0] > reach
    chosen = []
    # Every round takes the lowest that is left and closes what it holds.
    while (left := np.flatnonzero(open_)).size:
        first = int(left[0])
        chosen.append(first)
        open_[left[np.linalg.norm(points[left] - points[first], axis=1) <= reach[left]]] = False
    return chosen


def loads_of(heights: Floats, shares: Floats, areas: Floats, layer: float, plate: float, pull: float) -> Floats:
    """Greatest pull on every contact, (c,) N.

    ``heights`` (c,) mm above the lowest point; ``shares`` (c,) mm² each holds; ``areas`` (layers,) mm² of the figure's
    layers; ``plate`` mm² lies on the plate itself. While a layer is torn off with ``pull`` N/mm² of its area, every
    contact begun below it bears its share, so that together they bear all of it: the figure is taken as stiff.
    """
    if not len(heights):
        return np.empty(0)
    begun = np.clip((heights / layer).astype(np.int64), 0, max(len(areas) - 1, 0))
    together = plate + np.cumsum(np.bincount(begun, shares, minlength=len(areas)))
    ratio = np.where(together > 0, areas / np.maximum(together, 1e-9), 0.0)
    worst = np.maximum.accumulate(ratio[::-1])[::-1]
    return np.asarray(pull * shares * worst[begun])


def tip_for(loads: Floats, holding: SupportLimits) -> Floats:
    """Diameter of the tip that bears each load, (c,) mm, within the process's limits: load times safety over strength
    is the area of its section."""
    wanted = np.sqrt(4 * loads * holding.safety / (np.pi * holding.strength))
    return np.asarray(np.clip(wanted, holding.tip_least, holding.tip_most))


def strongest_load(holding: SupportLimits) -> float:
    """Load that the thickest tip bears, N."""
    return load_borne(holding.tip_most, holding)


def load_borne(tip: float, holding: SupportLimits) -> float:
    """Load that a tip of some width (mm) bears, N."""
    return float(np.pi / 4 * tip**2 * holding.strength / holding.safety)


def _tilted(normals: Points) -> list[Points]:
    """Ways (n, 3) to leave the skin, each no more than 45° from straight down."""
    across = normals[:, :2]
    length = np.linalg.norm(across, axis=1)
    steepest = np.radians(_STEEPEST)
    lean = np.minimum(np.arctan2(length, np.maximum(-normals[:, 2], 1e-9)), steepest)
    aside = across / np.maximum(length, 1e-12)[:, None] * np.sin(lean)[:, None]
    ways = [np.column_stack([aside, -np.cos(lean)]), np.broadcast_to([0.0, 0, -1], normals.shape)]
    for tilt in np.radians(_TILTS):
        for turn in np.arange(_AROUND) * 2 * np.pi / _AROUND:
            way = [np.sin(tilt) * np.cos(turn), np.sin(tilt) * np.sin(turn), -np.cos(tilt)]
            ways.append(np.broadcast_to(way, normals.shape))
    return ways
