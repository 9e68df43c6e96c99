"""What a file holds, and what it says of itself."""

from dataclasses import dataclass

from ulvet.core.mesh import Mesh
from ulvet.core.units import Axis, Unit

__all__ = ["MOST_TRIANGLES", "Reading"]

MOST_TRIANGLES = 20_000_000
"""More than this no reader unfolds from a file that repeats its parts (bench default)."""


@dataclass(frozen=True)
class Reading:
    """The mesh of a file in its own units and axes; ``unit`` and ``up`` are None where the file does not say them."""

    mesh: Mesh
    unit: Unit | None = None
    up: Axis | None = None
