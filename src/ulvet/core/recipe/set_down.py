"""Parts set down on the ground again after they were turned, grown or cut."""

from dataclasses import replace

import numpy as np

from ulvet.core.geometry.mesh import Mesh, Points, bounds
from ulvet.core.recipe.receipt import Receipt
from ulvet.core.recipe.step import Part, StepResult

__all__ = ["set_down"]

_EYE = np.eye(3)
"""No turn."""


def set_down(
    parts: tuple[Part, ...], meshes: list[Mesh], receipt: Receipt, turn: Points = _EYE, factor: float = 1.0
) -> StepResult:
    """Parts with new meshes, set down again so that all of them stand on the ground, centred over the origin.

    What was captured of them is turned and grown as they were.
    """
    corners = np.array([bounds(mesh) for mesh in meshes if len(mesh.faces)])
    low, high = corners[:, 0].min(axis=0), corners[:, 1].max(axis=0)
    drop = np.array([(low[0] + high[0]) / 2, (low[1] + high[1]) / 2, low[2]])
    placed = []
    for part, mesh in zip(parts, meshes, strict=True):
        seen = part.captured and Mesh(part.captured.vertices @ turn.T * factor - drop, part.captured.faces)
        placed.append(replace(part, mesh=Mesh(mesh.vertices - drop, mesh.faces), captured=seen))
    return StepResult(tuple(placed), receipt)
