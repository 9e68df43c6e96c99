"""From the corners and faces that a reader found to a mesh with shared vertices."""

from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from ulvet.core.io.errors import UnreadableFile
from ulvet.core.mesh import Mesh, Points
from ulvet.core.welding import weld_corners

__all__ = ["mesh_of_corners", "mesh_of_faces"]


def mesh_of_corners(path: Path, corners: NDArray[np.float32]) -> Mesh:
    """Loose triangles (m, 9) as a mesh whose corners at equal coordinates are joined.

    Raises UnreadableFile for coordinates that are not finite.
    """
    # A float64 sum of float32 cannot overflow: it is finite just when every coordinate is.
    if not np.isfinite(corners.sum(dtype=np.float64)):
        raise UnreadableFile(
            f"{path.name} holds coordinates that are not numbers (NaN or infinite): "
            "mend or export the figure again in the program it comes from."
        )
    return Mesh(*weld_corners(corners))


def mesh_of_faces(path: Path, points: Points, faces: NDArray[np.int64]) -> Mesh:
    """Points (n, 3) and faces (m, 3) as a mesh whose corners at equal float32 coordinates are joined.

    Raises UnreadableFile for faces that point nowhere and coordinates that are not finite.
    """
    if len(faces) and (faces.min() < 0 or faces.max() >= len(points)):
        raise UnreadableFile(f"{path.name} has a face that points to a corner it does not hold: export it again.")
    return mesh_of_corners(path, points[faces].reshape(-1, 9).astype(np.float32))
