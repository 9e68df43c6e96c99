"""Outlines of keys, of the holes they go into, and both as what is set out of a joint or sunk into it. Print mm."""

import numpy as np

from ulvet.core.geometry.mesh import Floats
from ulvet.core.part.caps import Embossed
from ulvet.core.recipe.seams import KeyShape

__all__ = ["NARROWEST", "TIP_CLEAR", "key_ring", "lead_in", "peg_of", "pin_of", "pocket_of", "reach_of", "socket_of"]

_LEAD_IN = 0.3
"""By which a hole is wider at its mouth, and a peg narrower at its tip, on each side (bench default)."""
TIP_CLEAR = 0.2
"""Between the tip of a peg and the floor of its hole (bench default)."""
_SIDES = 96
"""Corners of a ring: 0.05 % less wide than a circle, so that gaps are kept to some micrometres."""
_ON_FLAT = 4
"""Corners along the flat of a flat-sided key."""
NARROWEST = 0.6
"""Of the half width of a flat-sided key: so far from its middle the flat lies (bench default)."""
_TAPER = np.tan(np.deg2rad(3.0))
"""By which a tapered key gets narrower a side, mm a mm (bench default: it still holds by friction)."""
_GROOVE_DEEP, _GROOVE_HALF = 0.3, 0.3
"""Depth and half width of the groove along a hole by which air and glue get out (bench defaults)."""
_LEAST_TIP = 0.4
"""Of its width there that a peg keeps at its tip, at least."""


def key_ring(shape: KeyShape, size: float, grow: float = 0.0, turned: float = 0.0, grooved: bool = False) -> Floats:
    """The outline (n, 2) of a key ``size`` wide about its middle, grown by ``grow`` a side, counter-clockwise.

    ``turned`` in radians; the flat of a flat-sided key looks to where it is turned. A groove lies on the far side.
    """
    half, flat = size / 2 + grow, NARROWEST * size / 2 + grow
    # As wide an angle for every ring of one key, so that all have as many corners, one above the other.
    wide = _GROOVE_HALF / (size / 2)
    if shape == "flat-sided":
        corner = float(np.arccos(min(flat / half, 1.0)))
        angles = np.concatenate(
            [
                np.linspace(-corner, corner, _ON_FLAT, endpoint=False),
                np.linspace(corner, 2 * np.pi - corner, _SIDES)[:-1],
            ]
        )
    else:
        angles = np.arange(_SIDES) * 2 * np.pi / _SIDES
    out = np.zeros(len(angles))
    if grooved:
        # Of a flat-sided key the groove takes the place of the same corners in every ring.
        far = np.argsort(np.abs(angles - np.pi), kind="stable")[: 2 * int(np.ceil(wide * _SIDES / 2 / np.pi)) + 1]
        angles = np.concatenate([np.delete(angles, far), np.pi + wide * np.array([-1.0, -0.6, 0.6, 1.0])])
        out = np.concatenate([np.zeros(len(angles) - 4), [0.0, _GROOVE_DEEP, _GROOVE_DEEP, 0.0]])
        order = np.argsort(angles, kind="stable")
        angles, out = angles[order], out[order]
    away = _radius(shape, half, flat, angles) + out
    return away[:, None] * np.stack([np.cos(angles + turned), np.sin(angles + turned)], axis=1)


def _radius(shape: KeyShape, half: float, flat: float, angles: Floats) -> Floats:
    """How far the outline is from its middle at each angle."""
    if shape == "square":
        return np.asarray(half / np.maximum(np.abs(np.cos(angles)), np.abs(np.sin(angles))))
    if shape == "flat-sided":
        cosine = np.cos(angles)
        return np.where(cosine > 0, np.minimum(half, flat / np.maximum(cosine, 1e-9)), half)
    return np.full(len(angles), half)


def reach_of(shape: KeyShape, size: float) -> float:
    """How far the outline of a key reaches from its middle."""
    return size / 2 * (np.sqrt(2) if shape == "square" else 1.0)


def lead_in(deep: float) -> float:
    """How deep the lead-in of a hole is, and by how much it is wider there a side."""
    return min(_LEAD_IN, deep / 4)


def peg_of(shape: KeyShape, size: float, deep: float, turned: float) -> Embossed:
    """A peg, narrower at its tip so that it finds its hole."""
    narrowest = size / 2 * (NARROWEST if shape == "flat-sided" else 1.0) - _narrower(shape, deep)
    lead = min(lead_in(deep), (1 - _LEAST_TIP) * narrowest)
    narrower = _narrower(shape, deep)
    rings = [
        key_ring(shape, size, 0.0, turned),
        key_ring(shape, size, -_narrower(shape, deep - lead), turned),
        key_ring(shape, size, -narrower - lead, turned),
    ]
    return Embossed(tuple(rings), (0.0, deep - lead, deep))


def socket_of(shape: KeyShape, size: float, deep: float, gap: float, turned: float) -> Embossed:
    """The hole of such a peg, ``gap`` wider a side, with a lead-in at its mouth, a groove for air and glue, and a floor
    that the tip does not reach."""
    floor = deep + TIP_CLEAR
    lead = lead_in(deep)
    rings = [
        _grooved(shape, size, gap + lead, turned),
        _grooved(shape, size, gap - _narrower(shape, lead), turned),
        _grooved(shape, size, gap - _narrower(shape, floor), turned),
    ]
    return Embossed(tuple(rings), (0.0, -lead, -floor))


def pin_of(shape: KeyShape, size: float, deep: float, turned: float) -> Embossed:
    """A pin that goes as deep into both sides, narrower at both ends."""
    peg = peg_of(shape, size, deep, turned)
    return Embossed((*peg.rings[:0:-1], *peg.rings[1:]), (-deep, -peg.heights[1], peg.heights[1], deep))


def pocket_of(size: float, deep: float) -> Embossed:
    """A round pocket with upright walls."""
    ring = key_ring("round", size)
    return Embossed((ring, ring), (0.0, -deep))


def _grooved(shape: KeyShape, size: float, grow: float, turned: float) -> Floats:
    return key_ring(shape, size, grow, turned, grooved=True)


def _narrower(shape: KeyShape, deep: float) -> float:
    """By how much a key is narrower a side so far from its root."""
    return float(_TAPER * deep) if shape == "tapered" else 0.0
