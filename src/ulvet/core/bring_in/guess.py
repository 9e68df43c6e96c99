"""Guessing the unit and the up axis of a file that does not say them, with the reason."""

from dataclasses import dataclass
from typing import Generic, Literal, TypeVar

import numpy as np

from ulvet.core.mesh import Mesh, bounds, face_cross

__all__ = ["UNITS", "UNIT_NAMES", "Axis", "Guess", "Unit", "guess_unit", "guess_up"]

Unit = Literal["mm", "cm", "m", "in"]
Axis = Literal["x", "y", "z"]
T = TypeVar("T")

UNITS: dict[Unit, float] = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4}
"""Millimetres in each unit."""

UNIT_NAMES: dict[Unit, str] = {"mm": "millimetres", "cm": "centimetres", "m": "metres", "in": "inches"}

_USUAL_MM = 75.0
_SURELY_MM = (10.0, 2000.0)
_FLAT_SHARE = 0.02


@dataclass(frozen=True)
class Guess(Generic[T]):
    """A guess with the sentence that gives its reason; ``sure`` when nothing else is likely."""

    value: T
    sure: bool
    reason: str


def guess_unit(mesh: Mesh) -> Guess[Unit]:
    """The unit of a file, from its longest side.

    From 10 to 2000 it is taken as millimetres. Otherwise the unit that brings it nearest to 75 mm, the middle
    of what figures are printed at, by ratio (bench default), and the guess is not sure.
    """
    longest = float(np.ptp(bounds(mesh), axis=0).max())
    low, high = _SURELY_MM
    if low <= longest <= high:
        return Guess("mm", True, f"{longest:.4g} long: millimetres")
    if longest > high:
        return Guess(
            "mm",
            False,
            f"{longest:.4g} long: as millimetres {longest / 1000:.3g} m, larger than any printer here",
        )
    unit = min(UNITS, key=lambda name: abs(np.log(longest * UNITS[name] / _USUAL_MM)))
    return Guess(
        unit,
        False,
        f"{longest:.3g} long: as millimetres too small for a figure, "
        f"as {UNIT_NAMES[unit]} {longest * UNITS[unit]:.3g} mm",
    )


def guess_up(mesh: Mesh) -> Guess[Axis]:
    """The up axis: z, unless the figure is longest along y and has a flat base there and none along z.

    A base is flat where faces that look down lie within 0.2 % of the lowest point and cover at least 2 % of
    the box beneath (bench defaults).
    """
    size = np.ptp(bounds(mesh), axis=0)
    if size[1] > size[2] * 1.05 and size[1] >= size[0] and _has_base(mesh, 1) and not _has_base(mesh, 2):
        return Guess("y", False, "longest along y, with a flat base there and none along z: y up?")
    return Guess("z", True, "z up, as is usual")


def _has_base(mesh: Mesh, axis: int) -> bool:
    low, high = bounds(mesh)
    size = high - low
    height = mesh.vertices[:, axis] - low[axis]
    flat = (height[mesh.faces] <= 0.002 * size.max()).all(axis=1)
    looks_down = -face_cross(mesh)[flat, axis] / 2
    beneath = np.prod(np.delete(size, axis))
    return bool(beneath > 0 and looks_down[looks_down > 0].sum() > _FLAT_SHARE * beneath)
