"""Which printers hold a part some way up."""

from collections.abc import Sequence

import numpy as np
from scipy.spatial import ConvexHull, QhullError

from ulvet.core.bench.printers import Printer
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.size.turning import largest_turned

__all__ = ["printers_that_hold"]


def printers_that_hold(mesh: Mesh, factor: float, printers: Sequence[Printer]) -> tuple[str, ...]:
    """Names of the printers in whose room, clear of its edges, a mesh fits when it may be turned any way."""
    points = mesh.vertices * factor
    try:
        points = points[ConvexHull(points).vertices]
    except QhullError:  # flat: all of it counts
        points = points[:1000]
    across = np.sort(np.ptp(points, axis=0))
    found = []
    for printer in printers:
        room = np.array(printer.room, dtype=float)
        # As it lies it may fit already, which is told at once.
        if (across <= np.sort(room)).all() or largest_turned(points, room).factor >= 1:
            found.append(printer.name)
    return tuple(found)
