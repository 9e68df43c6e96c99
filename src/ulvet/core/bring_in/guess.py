"""Guessing the unit and the up axis of a file that does not say them, with the reason."""

from dataclasses import dataclass
from typing import Generic, TypeVar

import numpy as np

from ulvet.core.geometry.mesh import Mesh, bounds, face_cross
from ulvet.core.units import UNIT_NAMES, UNITS, Axis, Unit

__all__ = ["Guess", "guess_unit", "guess_up"]

T = TypeVar("T")

_USUAL_MM = 75.0
"""Height (mm) that figures are most often sculpted for (bench default)."""
_SURELY_MM = (10.0, 2000.0)
"""Longest sides (mm) between which millimetres are not doubted (bench default)."""
_FLAT = 5e-4
"""Height over the lowest point, of the longest side, in which a face lies on the base (rounding of files)."""


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
        f"{longest:.4g} long: as millimetres too small for a figure, "
        f"as {UNIT_NAMES[unit]} {longest * UNITS[unit]:.3g} mm",
    )


def guess_up(mesh: Mesh) -> Guess[Axis]:
    """The up axis: z, unless the figure is longest along y and has its flat base there.

    A base is the share of the box beneath an axis that is covered by faces lying flat at its lowest point; y wins with
    at least a tenth of it and four times that of z (bench defaults).
    """
    size = np.ptp(bounds(mesh), axis=0)
    longest_along_y = size[1] > size[2] * 1.05 and size[1] >= size[0]
    if longest_along_y and _base_share(mesh, 1) > max(0.1, 4 * _base_share(mesh, 2)):
        return Guess("y", False, "longest along y, with a flat base there and hardly one along z: y up?")
    return Guess("z", True, "z up, as is usual")


def _base_share(mesh: Mesh, axis: int) -> float:
    low, high = bounds(mesh)
    size = high - low
    beneath = float(np.prod(np.delete(size, axis)))
    height = mesh.vertices[:, axis] - low[axis]
    lying = (height[mesh.faces] <= _FLAT * size.max()).all(axis=1)
    covered = float(np.maximum(-face_cross(Mesh(mesh.vertices, mesh.faces[lying]))[:, axis] / 2, 0).sum())
    return covered / beneath if beneath > 0 else 0.0
