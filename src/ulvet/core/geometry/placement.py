"""How a source comes to stand: millimetres, z up, centred over the origin, lowest point on the ground."""

from dataclasses import dataclass

import numpy as np

from ulvet.core.geometry.mesh import Mesh, Points, bounds
from ulvet.core.units import UNITS, Axis, Unit

__all__ = ["Placement", "placement_of"]

_TURNS: dict[Axis, Points] = {
    "x": np.array([[0.0, 1, 0], [0, 0, 1], [1, 0, 0]]),
    "y": np.array([[1.0, 0, 0], [0, 0, -1], [0, 1, 0]]),
    "z": np.eye(3),
}
"""Rotations that bring an axis up, as rows."""


@dataclass(frozen=True)
class Placement:
    """From file coordinates to figure mm: ``unit_mm * turn @ point - lift``."""

    turn: Points
    unit_mm: float
    lift: Points

    def placed(self, mesh: Mesh) -> Mesh:
        """The source as the figure stands, in figure mm."""
        return Mesh(mesh.vertices @ self.turn.T * self.unit_mm - self.lift, mesh.faces)

    def in_file(self, points: Points) -> Points:
        """Figure points (..., 3) in mm, in the file's own axes and from its own origin."""
        return np.asarray((np.asarray(points) + self.lift) @ self.turn)


def placement_of(mesh: Mesh, unit: Unit, up: Axis) -> Placement:
    """The placement of a source read in ``unit`` with axis ``up`` pointing up."""
    turn, unit_mm = _TURNS[up], UNITS[unit]
    corners = np.sort(bounds(mesh) @ turn.T * unit_mm, axis=0)
    lift = corners.mean(axis=0)
    lift[2] = corners[0, 2]
    return Placement(turn, unit_mm, lift)
