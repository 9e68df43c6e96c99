"""The depth tints of walls, and a figure painted with them."""

from collections.abc import Sequence

import numpy as np

from ulvet.core.bench.limits import WallLimits
from ulvet.core.formats.tinted import tinted_zip_bytes
from ulvet.core.geometry.mesh import Floats, Mesh
from ulvet.core.geometry.placement import Placement
from ulvet.core.lengths import PrintMM

__all__ = ["STONE", "TINTS", "tint_levels", "walls_zip_bytes"]

STONE = (226, 219, 200)
"""RGB of walls that are thick enough."""
TINTS = ((47, 107, 148), (104, 158, 192), (160, 198, 216), (208, 226, 228))
"""From thin to less thin; what is deep is stone."""


def tint_levels(limits: WallLimits) -> tuple[PrintMM, PrintMM, PrintMM, PrintMM]:
    """Walls at which the tints change: the two limits of free-standing walls, then steps that read well beyond (bench
    default)."""
    free = limits.free_standing
    stop, caution = free.stop, free.caution
    return stop, caution, PrintMM(1.6 * caution), PrintMM(2.5 * caution)


def walls_zip_bytes(
    parts: Sequence[tuple[str, Mesh, Floats]], placement: Placement, limits: WallLimits, factor: float
) -> bytes:
    """Parts in their tints as a ZIP with an OBJ, where the source lies in its own file, so that it covers the sculpt.

    A part is its name, its mesh in figure mm and the wall at every vertex, (n,) figure mm.
    """
    placed = [
        (name, Mesh(placement.in_file(mesh.vertices) / placement.unit_mm, mesh.faces), np.asarray(walls))
        for name, mesh, walls in parts
    ]
    levels = [float(level.in_figure(factor)) for level in tint_levels(limits)]
    return tinted_zip_bytes(placed, levels, [*TINTS, STONE], "walls")
