"""How a joint bears bending. Print mm."""

from typing import Any

import numpy as np
import shapely

from ulvet.core.geometry.mesh import Floats

__all__ = ["GRAVITY", "bending_modulus"]

GRAVITY = 9.81e-3
"""Newtons a gram."""
Polygon = Any


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
