"""From the corners and faces that a reader found to a mesh with shared vertices."""

from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.geometry.mesh import Mesh, Points
from ulvet.core.geometry.precision import offset_beyond_precision
from ulvet.core.geometry.welding import weld_corners

__all__ = ["mesh_of_corners", "mesh_of_faces"]


def mesh_of_corners(path: Path, corners: NDArray[np.floating]) -> Mesh:
    """Loose triangles (m, 9) as a mesh whose corners at equal float32 coordinates are joined.

    What lies far from the origin in double precision is compared and rounded about its own middle, and stays there.
    Raises UnreadableFile for coordinates that are not finite.
    """
    points = corners.reshape(-1, 3)
    off = np.zeros(3) if corners.dtype == np.float32 else offset_beyond_precision(points.astype(np.float64, copy=False))
    with np.errstate(over="ignore", invalid="ignore"):
        near = (points - off if off.any() else points).astype(np.float32, copy=False)
    # A float64 sum of float32 cannot overflow: it is finite just when every coordinate is.
    if not np.isfinite(near.sum(dtype=np.float64)):
        raise UnreadableFile(
            f"{path.name} holds coordinates that are not numbers (NaN or infinite): "
            "mend or export the figure again in the program it comes from."
        )
    vertices, faces = weld_corners(near.reshape(-1, 9))
    return Mesh(vertices + off if off.any() else vertices, faces)


def mesh_of_faces(path: Path, points: Points, faces: NDArray[np.int64]) -> Mesh:
    """Points (n, 3) and faces (m, 3) as a mesh whose corners at equal float32 coordinates are joined.

    Raises UnreadableFile for faces that point nowhere and coordinates that are not finite.
    """
    if len(faces) and (faces.min() < 0 or faces.max() >= len(points)):
        raise UnreadableFile(f"{path.name} has a face that points to a corner it does not hold: export it again.")
    return mesh_of_corners(path, points[faces].reshape(-1, 9))
