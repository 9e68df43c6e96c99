"""Recesses and edges of a surface: where a wash gathers, and what a highlight goes along.

A surface bends as much as normals turn over the distance they turn in. Where that is tighter than a round of a given
radius, faces count whole; beside an edge that is sharp a strip counts, however large the faces are.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulvet.core.finish.regions import Ints, Mask, OpenedMesh
from ulvet.core.geometry.mesh import Points, area, face_normals
from ulvet.core.geometry.samples import spread_points

__all__ = ["Relief", "relief_of"]

_TIGHT_MM = 1.5
"""Radius, print mm, of the widest round that counts as a recess or an edge (bench default)."""
_SHARP = 25.0
"""Degrees by which the surface turns at an edge that counts however large its faces are (bench default)."""
_STRIP_MM = 0.5
"""How far a wash or a highlight reaches from a sharp edge on each side, print mm (bench default)."""
_RAW = 0.5
"""Of the bend of normals made even, how much their own normals have to bend: beside a sharp edge evened ones bend where
the surface is flat (bench default)."""
_MOST_PLACES = 150_000
"""Places of a surface that are looked at; of a larger one they lie farther apart (bench default)."""
_LEAST_PLACES = 4_000
"""The same of a small one (bench default)."""


@dataclass(frozen=True)
class Relief:
    """Places (n,) spread evenly over a surface: the face of each, and whether it lies in a recess or on an edge."""

    faces: Ints
    recess: Mask
    edge: Mask


def relief_of(opened: OpenedMesh, factor: float) -> Relief:
    """Recesses and edges of a mesh that is printed at ``factor``."""
    mesh, (first, second) = opened.mesh, opened.pairs.T
    strip, tight = _STRIP_MM / factor, _TIGHT_MM / factor
    across = opened.middles[second] - opened.middles[first]
    apart = np.maximum(np.einsum("ij,ij->i", across, across), 1e-12)
    normals = face_normals(mesh)
    raw = np.einsum("ij,ij->i", normals[second] - normals[first], across) / apart
    sharp = opened.turns >= _SHARP
    soft = ~sharp & (np.abs(opened.bends) * tight >= 1) & (raw * np.sign(opened.bends) * tight >= _RAW)
    count = int(np.clip(area(mesh) / (strip / 3) ** 2, _LEAST_PLACES, _MOST_PLACES))
    points, faces = spread_points(mesh, count)

    def there(outward: Mask, softly: Mask) -> Mask:
        whole = np.zeros(len(mesh.faces), bool)
        whole[opened.pairs[soft & softly].ravel()] = True
        return whole[faces] | _beside(points, _along(mesh.vertices[opened.ends[sharp & outward]], strip / 2), strip)

    return Relief(faces, there(raw < 0, opened.bends < 0), there(raw > 0, opened.bends > 0))


def _along(ends: NDArray[np.float64], step: float) -> Points:
    """Points (k, 3) along edges (n, 2, 3), no farther apart than a step."""
    if not len(ends):
        return np.zeros((0, 3))
    pieces = np.ceil(np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1) / step).astype(np.int64).clip(1)
    edge = np.repeat(np.arange(len(ends)), pieces + 1)
    number = np.arange(len(edge)) - np.repeat(np.cumsum(pieces + 1) - pieces - 1, pieces + 1)
    share = (number / pieces[edge])[:, None]
    return np.asarray(ends[edge, 0] * (1 - share) + ends[edge, 1] * share)


def _beside(points: Points, lines: Points, strip: float) -> Mask:
    """Which points (n,) lie within a strip beside points of lines."""
    if not len(lines):
        return np.zeros(len(points), bool)
    distance, _ = cKDTree(lines).query(points, distance_upper_bound=strip)
    return np.asarray(np.isfinite(distance))
