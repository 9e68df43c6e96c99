"""Mend: explain and repair a mesh, with a receipt and without moving what was right."""

from ulvet.core.mend.check import check_mesh
from ulvet.core.mend.faces import doubled_faces, drop_faces, zero_area_faces
from ulvet.core.mend.holes import Hole, close_holes, holes_of
from ulvet.core.mend.winding import Winding, orient_faces, winding_of

__all__ = [
    "Hole",
    "Winding",
    "check_mesh",
    "close_holes",
    "doubled_faces",
    "drop_faces",
    "holes_of",
    "orient_faces",
    "winding_of",
    "zero_area_faces",
]
