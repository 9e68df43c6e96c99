"""The outline of a shadow, to be drawn."""

import numpy as np
import shapely
from skimage.measure import find_contours

from ulvet.core.geometry.mesh import Floats
from ulvet.core.plates.packing import Lying
from ulvet.core.plates.shadow import Shadow

__all__ = ["outline_on_plate", "outlines_of"]

_ROUNDED = 0.15
"""Mm by which a drawn outline may be off (bench default)."""


def outlines_of(shadow: Shadow) -> list[Floats]:
    """Closed outlines of a shadow, (n, 2) mm about its middle; holes in it are left out."""
    found = find_contours(np.pad(shadow.solid.astype(float), 1), 0.5)
    # Rows run along y; the padding moved all by one pixel.
    rings = [(one[:, ::-1] - 0.5) * shadow.pixel + shadow.origin - shadow.middle for one in found if len(one) > 3]
    whole = shapely.union_all([shapely.Polygon(ring).buffer(0) for ring in rings])
    pieces = shapely.get_parts(shapely.simplify(whole, _ROUNDED))
    return [shapely.get_coordinates(piece.exterior) for piece in pieces if piece.area > 0]


def outline_on_plate(outline: Floats, one: Lying) -> Floats:
    """An outline where a part lies on its plate, (n, 2) mm from the left front corner of the room."""
    angle = np.deg2rad(one.turn)
    turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    return np.asarray(outline @ turn.T + [one.x, one.y])
