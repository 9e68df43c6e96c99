"""What kind of wall a thin place is: held on both sides, free-standing, a pin, or an edge."""

from enum import IntEnum

import numpy as np
from numpy.typing import NDArray

from ulvet.core.bench.limits import WallLimit, WallLimits
from ulvet.core.gauge.walls.thickness import Thickness
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.rods import tangents_of

__all__ = ["Kind", "few_of", "kind_among", "kinds_of", "limit_field", "limit_for"]

_WAYS = 24
"""Directions in which a wall is followed across."""
_PIN = 2.0
"""How many times as wide as it is thick what counts as a pin may be (bench default)."""
_SLENDER = 3.0
"""How many times as long as it is wide a pin is at least (bench default)."""
_ASIDE = np.cos(np.deg2rad(60.0))
"""Cosine under which what a ray meets is the rim of a wall, 60°."""
_ASKED = 30
"""Samples of a place that are asked what kind of wall it is (bench default)."""
_HELD = 1.8
"""Where a wall ends in something so many times as thick, it is held there (bench default)."""


class Kind(IntEnum):
    """The kinds of wall, as they stand in files."""

    HELD = 0
    FREE = 1
    PIN = 2
    EDGE = 3


def kind_among(kinds: NDArray[np.int8]) -> Kind:
    """Give the most frequent kind; edges count only where there is nothing else, since they take their wall from the
    side."""
    own = kinds[kinds != Kind.EDGE]
    return Kind(int(np.bincount(own if len(own) else kinds).argmax()))


def limit_for(walls: WallLimits, kind: Kind) -> WallLimit:
    """What a kind of wall has to have."""
    found: WallLimit = getattr(walls, limit_field(kind))
    return found


def limit_field(kind: Kind) -> str:
    """The field of ``WallLimits`` that a kind of wall is held to."""
    return {Kind.HELD: "held", Kind.PIN: "pin"}.get(kind, "free_standing")


def few_of(samples: NDArray[np.int64]) -> NDArray[np.int64]:
    """Choose about thirty samples spread over a place, by which its kind is judged."""
    return samples[:: max(1, len(samples) // _ASKED)]


def kinds_of(
    mesh: Mesh,
    thickness: Thickness,
    most: float,
    among: NDArray[np.int64] | None = None,
    rays: Rays | None = None,
) -> NDArray[np.int8]:
    """The kind of every sample whose wall is under ``most`` (figure mm); all others count as held, those without a wall
    of their own as edges; where some samples ``among`` all are named, only those are asked. ``rays`` are those of the
    mesh, where they are made already.

    From the middle of the wall rays go out along it, twenty-four ways. A pin is at most twice as wide as it is thick
    the narrowest way and three times as long across that. A wall is free-standing when there is no pair of ways,
    opposite each other within 15°, in which it goes on: becomes 1.8 times as thick, or bends away, instead of coming
    to a rim.
    """
    kinds = np.full(len(thickness.walls), Kind.HELD, np.int8)
    kinds[~np.isfinite(thickness.walls)] = Kind.EDGE
    asked_for = np.arange(len(kinds)) if among is None else among
    thin = asked_for[thickness.walls[asked_for] < most]
    if not len(thin):
        return kinds
    rays = rays or Rays(mesh)
    normals, walls = thickness.normals[thin], thickness.walls[thin]
    middle = thickness.points[thin] - normals * walls[:, None] / 2
    u, v = tangents_of(normals)
    reach, goes_on = np.empty((_WAYS, len(thin))), np.empty((_WAYS, len(thin)), bool)
    for k in range(_WAYS):
        angle = 2 * np.pi * k / _WAYS
        ways = np.cos(angle) * u + np.sin(angle) * v
        reach[k], face = rays.leaves(middle, ways)
        # What bends away is left through one of its own sides, which look as the wall does.
        rim = (face >= 0) & (np.abs(np.einsum("ij,ij->i", rays.normals[face], normals)) < _ASIDE)
        asked = np.flatnonzero(rim)
        before = middle[asked] + ways[asked] * np.maximum(reach[k, asked] - walls[asked] / 2, 0)[:, None]
        there = sum(rays.leaves(before, side * normals[asked])[0] for side in (1, -1))
        goes_on[k] = ~rim
        goes_on[k, asked] = there > _HELD * walls[asked]
    half = _WAYS // 2
    across = reach[:half] + reach[half:]
    narrow = across.argmin(axis=0)
    width = across[narrow, np.arange(len(thin))]
    length = across[(narrow + half // 2) % half, np.arange(len(thin))]
    pin = (width <= _PIN * walls) & (length >= _SLENDER * width)
    opposite = np.roll(goes_on, half, axis=0)
    opposite |= np.roll(opposite, 1, axis=0) | np.roll(opposite, -1, axis=0)
    held = (goes_on & opposite).any(axis=0)
    kinds[thin] = np.where(pin, Kind.PIN, np.where(held, Kind.HELD, Kind.FREE))
    return kinds
