"""Numbers sunk into the faces of a joint, so that nobody has to guess what goes where. Print mm."""

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from ulvet.core.geometry.mesh import Floats
from ulvet.core.part.caps import Embossed

__all__ = ["number_bars", "place_for_number"]

_DEEP = 0.3
"""Depth of a sunk bar: seen by eye, lost under no primer (bench default)."""
_TALL = (2.4, 1.8, 1.3)
"""Heights of a digit that are tried, the largest first (bench defaults)."""
_WIDE, _BAR, _APART = 0.55, 0.16, 0.3
"""Shares of a digit's height: its width, the width of a bar, and the space to the next digit."""
_FREE = 0.3
"""Mm that a number keeps from rims and keys (bench default)."""
_ACROSS = 40
"""Places across a joint that are tried."""
_CUT_SHORT = 0.06
"""Share of a digit's height by which bars end before they meet, so that each is a shape by itself."""
_BARS = {
    "a": ((0, 1), (1, 1)),
    "b": ((1, 0.5), (1, 1)),
    "c": ((1, 0), (1, 0.5)),
    "d": ((0, 0), (1, 0)),
    "e": ((0, 0), (0, 0.5)),
    "f": ((0, 0.5), (0, 1)),
    "g": ((0, 0.5), (1, 0.5)),
}
"""Ends of the seven bars of a digit, in shares of its width and height."""
_DIGITS = ("abcdef", "bc", "abdeg", "abcdg", "bcfg", "acdfg", "acdefg", "abc", "abcdefg", "abcdfg")
Polygon = Any


def place_for_number(outline: Polygon, number: int) -> tuple[Floats, float] | None:
    """The middle (2,) of a place where a number fits a face, and the height of its digits; None where it has none."""
    low, high = np.array(shapely.bounds(outline)).reshape(2, 2)
    steps = [np.linspace(a, b, _ACROSS) for a, b in zip(low, high, strict=True)]
    grid = np.stack(np.meshgrid(*steps, indexing="ij"), axis=-1).reshape(-1, 2)
    for tall in _TALL:
        half = np.array([_width(number, tall), tall]) / 2 + _FREE
        boxes = shapely.box(*(grid - half).T, *(grid + half).T)
        fits = np.flatnonzero(shapely.covers(outline, boxes))
        if len(fits):
            # Nearest to the middle of the face.
            away = ((grid[fits] - shapely.get_coordinates(outline.centroid)[0]) ** 2).sum(axis=1)
            return grid[fits[np.argmin(away)]], tall
    return None


def number_bars(number: int, middle: Floats, tall: float) -> Sequence[Embossed]:
    """The bars of a number about a middle (2,), each sunk by itself."""
    digits = str(number)
    left = middle - np.array([_width(number, tall), tall]) / 2
    made = []
    for place, digit in enumerate(digits):
        corner = left + np.array([place * (_WIDE + _APART) * tall, 0.0])
        for bar in _DIGITS[int(digit)]:
            start, end = (corner + np.array(point) * [_WIDE * tall, tall] for point in _BARS[bar])
            along = (end - start) / np.linalg.norm(end - start)
            start, end = start + along * _short(tall), end - along * _short(tall)
            across = np.array([-along[1], along[0]]) * _BAR * tall / 2
            ring = np.array([start - across, end - across, end + across, start + across])
            made.append(Embossed((ring, ring), (0.0, -_DEEP)))
    return made


def _short(tall: float) -> float:
    """By how much a bar ends before the corner, past half the width of the bar that crosses there."""
    return (_BAR / 2 + _CUT_SHORT) * tall


def _width(number: int, tall: float) -> float:
    digits = len(str(number))
    return (digits * _WIDE + (digits - 1) * _APART) * tall
