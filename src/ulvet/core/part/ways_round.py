"""In how many ways the keys of a joint go into its holes. Print mm."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from shapely import affinity

from ulvet.core.geometry.mesh import Floats
from ulvet.core.part.key_shapes import NARROWEST, key_ring, reach_of
from ulvet.core.recipe.seams import KeyShape

__all__ = ["FlatKey", "ways_round"]

_AIR = 3.0
"""Times its gap that a key may have on a side and still counts as going in."""
Polygon = Any


@dataclass(frozen=True)
class FlatKey:
    """A key as it lies in the plane of its joint: its middle (2,), its own width and the turn of its outline, radians,
    with the air a side of its hole."""

    shape: KeyShape
    middle: Floats
    size: float
    turned: float
    gap: float

    def outline(self, grow: float = 0.0) -> Polygon:
        """What it takes of the plane, grown by so much a side."""
        return shapely.Polygon(self.middle + key_ring(self.shape, self.size, grow, self.turned))


@dataclass(frozen=True)
class _Hole:
    """A hole with all the air it may have: its middle, how far it reaches, and its outline."""

    middle: Floats
    reach: float
    outline: Polygon

    def may_hold(self, key: FlatKey, middle: Floats) -> bool:
        """Whether a key at a place is near enough and small enough, by its narrowest half."""
        return float(np.hypot(*(middle - self.middle))) + key.size / 2 * NARROWEST <= self.reach


def ways_round(keys: Sequence[FlatKey], flips: bool) -> int | None:
    """In how many ways all keys at once lie in holes of the joint, moved and turned in its plane, and turned over where
    both sides of the joint are alike (``flips``); None where it may be turned freely, 0 without keys.

    Every degree is tried with the first key over every hole.
    """
    if not keys:
        return 0
    count, free = 0, False
    holes = [
        _Hole(key.middle, reach_of(key.shape, key.size) + _AIR * key.gap, key.outline(_AIR * key.gap)) for key in keys
    ]
    for mirrored in (False, True)[: 1 + flips]:
        found = set[int]()
        for degrees in range(360):
            moved = [_turned(key, np.deg2rad(degrees), mirrored) for key in keys]
            for hole in keys:
                shift = hole.middle - moved[0].middle
                if _all_go_in(moved, shift, holes):
                    found.add(degrees)
                    break
        free |= len(found) == 360
        count += _runs(found)
    return None if free else count


def _turned(key: FlatKey, by: float, mirrored: bool) -> FlatKey:
    middle = key.middle * ([-1, 1] if mirrored else [1, 1])
    turned = np.pi - key.turned if mirrored else key.turned
    c, s = np.cos(by), np.sin(by)
    return FlatKey(key.shape, np.array([[c, -s], [s, c]]) @ middle, key.size, turned + by, key.gap)


def _all_go_in(moved: Sequence[FlatKey], shift: Floats, holes: Sequence[_Hole]) -> bool:
    # What cannot be by its distance alone is not looked at.
    near = [[hole for hole in holes if hole.may_hold(key, key.middle + shift)] for key in moved]
    return all(near) and all(
        any(hole.outline.covers(affinity.translate(key.outline(), shift[0], shift[1])) for hole in some)
        for key, some in zip(moved, near, strict=True)
    )


def _runs(found: set[int]) -> int:
    """How many runs of degrees there are: neighbours are one way with a little play."""
    return sum((degrees - 1) % 360 not in found for degrees in found)
