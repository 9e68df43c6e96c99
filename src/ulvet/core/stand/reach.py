"""Whether a tool reaches a place on a figure: along some straight line, thick as it is."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Points
from ulvet.core.geometry.samples import even_directions
from ulvet.core.lengths import PrintMM
from ulvet.core.stand.clearance_grid import ClearanceGrid

__all__ = ["CUTTERS", "Tool", "reached"]

_WAYS = 128
"""Directions in which a tool is tried, spread evenly (bench default)."""


@dataclass(frozen=True)
class Tool:
    """A tool as a cone that ends in a cylinder: so wide at its tip, so wide from some way on, so long."""

    tip: PrintMM
    width: PrintMM
    tapers: PrintMM
    length: PrintMM


CUTTERS = Tool(tip=PrintMM(1.0), width=PrintMM(7.0), tapers=PrintMM(16.0), length=PrintMM(80.0))
"""Flush cutters as they lie on most benches (bench default)."""


def reached(room: ClearanceGrid, places: Points, tool: Tool) -> NDArray[np.bool_]:
    """Whether the tool comes to each of some places (n, 3) in the air about a figure: from straight below or in any of
    127 directions more.

    Beyond the grid there is nothing; the plate is gone by the time that supports are cut.
    """
    ways = np.concatenate([[[0.0, 0, -1]], even_directions(_WAYS - 1)])
    found = np.zeros(len(places), bool)
    step = room.pitch
    for way in ways:
        left = np.flatnonzero(~found)
        if not len(left):
            break
        free = left
        for ahead in np.arange(step, tool.length + step, step):
            at = places[free] + ahead * way
            wide = tool.tip + (tool.width - tool.tip) * min(ahead / tool.tapers, 1.0)
            air = room.air_at(np.maximum(at, [-np.inf, -np.inf, 0])) + step / 2
            # All of a figure lies above its plate.
            free = free[np.maximum(air, -at[:, 2]) >= wide / 2]
            if not len(free):
                break
        found[free] = True
    return found
