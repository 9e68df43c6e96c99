"""Colours as screens write them, as light, and as the eye tells them apart."""

import warnings

import numpy as np

from ulvet.core.geometry.mesh import Floats

__all__ = ["difference", "hex_of", "lab_of", "light_of"]

_XYZ = np.array(
    [[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.0721750], [0.0193339, 0.1191920, 0.9503041]]
)
"""Linear sRGB to CIE XYZ under D65 (IEC 61966-2-1)."""
_WHITE = np.array([0.95047, 1.0, 1.08883])
"""XYZ of white under D65."""


def light_of(colour: str) -> Floats:
    """Linear red, green and blue (3,), 0 to 1, of a colour in hex (IEC 61966-2-1)."""
    value = np.array([int(colour[at : at + 2], 16) for at in (1, 3, 5)]) / 255
    return np.where(value <= 0.04045, value / 12.92, ((value + 0.055) / 1.055) ** 2.4)


def hex_of(light: Floats) -> str:
    """The colour in hex of linear light (3,)."""
    light = np.clip(light, 0, 1)
    value = np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)
    return "#" + "".join(f"{round(float(one) * 255):02x}" for one in value)


def lab_of(light: Floats) -> Floats:
    """CIE L*a*b* (..., 3) under D65 of linear light (..., 3)."""
    ratio = light @ _XYZ.T / _WHITE
    root = np.where(ratio > (6 / 29) ** 3, np.cbrt(ratio), ratio / (3 * (6 / 29) ** 2) + 4 / 29)
    x, y, z = root[..., 0], root[..., 1], root[..., 2]
    return np.stack([116 * y - 16, 500 * (x - y), 200 * (y - z)], axis=-1)


def difference(first: Floats, second: Floats) -> Floats:
    """How unlike colours (..., 3) in L*a*b* look, CIEDE2000; 1 is just seen side by side."""
    with warnings.catch_warnings():
        # It warns that it draws nothing where a library for that is not there.
        warnings.simplefilter("ignore")
        from colour.difference import delta_E_CIE2000  # takes a second to load, which nothing else waits for

    return np.asarray(delta_E_CIE2000(first, second))
