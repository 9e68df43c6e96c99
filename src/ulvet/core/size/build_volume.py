"""How much room a box leaves."""

import numpy as np

from ulvet.core.bench.printers import Printer
from ulvet.core.geometry.mesh import Floats, Points

__all__ = ["fits_standing", "room_for"]


def room_for(sizes: Points, volume: Points) -> Floats:
    """Factors (...) by which standing boxes (..., 3) mm could grow in a ``volume`` (3,), in the better of two quarter
    turns."""
    sizes, volume = np.maximum(sizes, 1e-9), np.maximum(volume, 0)
    return np.asarray(np.maximum((volume / sizes).min(axis=-1), (volume[[1, 0, 2]] / sizes).min(axis=-1)))


def fits_standing(size: Points, printer: Printer) -> bool:
    """Whether a box ``size`` (3,) mm fits a printer as it stands, turned by a quarter if need be."""
    return bool(room_for(size, np.array(printer.room)) >= 1)
