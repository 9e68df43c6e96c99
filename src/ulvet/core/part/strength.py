"""The push at which a joint opens. An estimate: print mm, newtons, N/mm²."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from ulvet.core.geometry.mesh import Floats
from ulvet.core.part.ways_round import FlatKey

__all__ = ["GRAVITY", "JointHold", "bending_modulus", "hold_of"]

GRAVITY = 9.81e-3
"""Newtons a gram."""
_NOTCH = 1.4
"""Times by which the corner at the root of a peg lowers the stress that it bears (bench default)."""
Polygon = Any


@dataclass(frozen=True)
class JointHold:
    """What holds a joint against a push square to it at ``lever`` mm: the moments that its glue and its pegs bear,
    N mm, and the push at which it opens, less what its own weight takes."""

    glue: float
    pegs: float
    lever: float
    opens: float


def bending_modulus(outline: Polygon) -> float:
    """The section modulus (mm³) of an outline about the weaker of its principal axes.

    As a beam bends: the second moment of area over the distance of the farthest fibre (Timoshenko 1955).
    """
    rings = [
        (sign, shapely.get_coordinates(ring))
        for piece in shapely.get_parts(outline)
        for sign, ring in [(1, piece.exterior), *((-1, inner) for inner in piece.interiors)]
    ]
    area, first, second = 0.0, np.zeros(2), np.zeros((2, 2))
    for sign, ring in rings:
        a, m, s = _moments(ring)
        turned = sign * np.sign(a)
        area, first, second = area + turned * a, first + turned * m, second + turned * s
    if area <= 0:
        return 0.0
    middle = first / area
    about = second - area * np.outer(middle, middle)
    # About its principal axes a section bends straight.
    inertia, ways = np.linalg.eigh(about)
    farthest = np.abs((shapely.get_coordinates(outline) - middle) @ ways).max(axis=0)
    return float((inertia / np.maximum(farthest, 1e-12)).min())


def _moments(ring: Floats) -> tuple[float, Floats, Floats]:
    """Area, first and second moments of a closed ring about the origin, by Green's theorem."""
    (x0, y0), (x1, y1) = ring[:-1].T, ring[1:].T
    cross = x0 * y1 - x1 * y0
    first = np.array([((x0 + x1) * cross).sum(), ((y0 + y1) * cross).sum()]) / 6
    xx = ((x0 * x0 + x0 * x1 + x1 * x1) * cross).sum() / 12
    yy = ((y0 * y0 + y0 * y1 + y1 * y1) * cross).sum() / 12
    xy = ((x0 * y1 + 2 * x0 * y0 + 2 * x1 * y1 + x1 * y0) * cross).sum() / 24
    return float(cross.sum() / 2), first, np.array([[xx, xy], [xy, yy]])


def hold_of(
    outline: Polygon, keys: Sequence[FlatKey], glue: float, peg: float, lever: float, weight: float = 0.0
) -> JointHold:
    """What a joint bears: its glue over its ``outline`` with a strength of ``glue`` N/mm², and its pegs, of a material
    that bears ``peg`` N/mm² along them, against a push at ``lever`` mm; ``weight`` is the moment, N mm, of what hangs
    on it.

    Glue cracks before a peg bends, so they do not add up: the joint opens when the stronger of both gives way.
    """
    of_glue = glue * bending_modulus(outline)
    of_pegs = sum(peg / _NOTCH * bending_modulus(key.outline()) for key in keys)
    bears = max(of_glue, of_pegs)
    return JointHold(of_glue, of_pegs, lever, max(0.0, bears - weight) / max(lever, 1e-9))
