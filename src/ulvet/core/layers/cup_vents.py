"""Where a vent cures a cup: at its plate end, through the thinnest wall there."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import distance_transform_edt, label

from ulvet.core.geometry.mesh import Points
from ulvet.core.layers.cups import Cup
from ulvet.core.layers.raster import LayerStack

__all__ = ["VENT_DIAMETER", "Vent", "vent_for"]

VENT_DIAMETER = 2.0
"""Mm: a vent of a few millimetres breathes and is soon filled (bench default)."""
_UNDER_FLOOR = 0.1
"""Mm by which a vent lies deeper than the floor of its cup, so that it breathes from the first layer on (bench
default)."""
_LONGEST = 12.0
"""Mm of wall beyond which no drill is sent (bench default)."""


@dataclass(frozen=True)
class Vent:
    """A vent: where it comes out on the skin and the way out, (3,), mm above the lowest layer, and its diameter."""

    point: Points
    way: Points
    diameter: float


def vent_for(stack: LayerStack, cup: Cup) -> Vent | None:
    """The vent of a cup, level through the wall; None where the wall is too thick, or the cup too shallow.

    The vent lies as near to the plate end as its diameter lets it.
    """
    depth = (cup.last - cup.first + 1) * stack.layer
    diameter = min(VENT_DIAMETER, 0.8 * depth)
    up = max(diameter / 2 - _UNDER_FLOOR, 0.0)
    k = min(cup.first + int(up / stack.layer), cup.last)
    empty = np.pad(~_pixels(stack, k), 1, constant_values=True)
    groups, _ = label(empty)
    outside = groups == groups[0, 0]
    at = np.array([(cup.y - stack.origin[1]) / stack.pixel, (cup.x - stack.origin[0]) / stack.pixel]) + 1
    inside = np.argwhere(empty & ~outside)
    if not len(inside):
        return None
    nearest = inside[((inside + 0.5 - at) ** 2).sum(axis=1).argmin()]
    room = groups == groups[tuple(nearest)]
    away, which = distance_transform_edt(~outside, return_indices=True)
    away = np.where(room, away, np.inf)
    y, x = np.unravel_index(int(away.argmin()), away.shape)
    wall = float(away[y, x]) * stack.pixel
    if wall > _LONGEST:
        return None
    out = which[:, y, x]
    way = np.array([float(out[1] - x), float(out[0] - y), 0.0])
    point = np.array([
        stack.origin[0] + (out[1] - 0.5) * stack.pixel,
        stack.origin[1] + (out[0] - 0.5) * stack.pixel,
        (k + 0.5) * stack.layer,
    ])  # fmt: skip
    return Vent(point, way / np.linalg.norm(way), round(diameter, 2))


def _pixels(stack: LayerStack, k: int) -> NDArray[np.bool_]:
    """The solid pixels of a layer, (rows, columns)."""
    runs = slice(int(stack.starts[k]), int(stack.starts[k + 1]))
    edges = np.zeros((stack.shape[0], stack.shape[1] + 1), np.int32)
    np.add.at(edges, (stack.row[runs], stack.begin[runs]), 1)
    np.add.at(edges, (stack.row[runs], np.minimum(stack.end[runs], stack.shape[1])), -1)
    return np.cumsum(edges[:, :-1], axis=1) > 0
