"""How a surface compares with what was captured of it."""

import numpy as np
from pydantic import BaseModel, ConfigDict
from scipy.spatial import cKDTree

from ulvet.core.geometry.deviation import distance_to
from ulvet.core.geometry.mesh import Floats, Mesh, Points, bounds, face_areas, vertex_normals

__all__ = ["Captured", "compare_captured"]

_BINS = 21
"""Bands of the histogram of distances."""
_REACH_CELLS = 4.0
"""Spacings of captured points within which a surface counts as captured (bench default)."""


class Captured(BaseModel):
    """A surface against the points it was made from, mm.

    ``mean`` and ``most`` (95 in a hundred) are how far points lie from it, without those farther than ``reach``, which
    belong to what was taken off. ``invented`` (mm²) is surface farther than that from every point. The histogram counts
    points by their distance, outside it above 0, between ``edges`` (one more than ``counts``).
    """

    model_config = ConfigDict(frozen=True)

    mean: float
    most: float
    reach: float
    invented: float
    counts: tuple[int, ...]
    edges: tuple[float, ...]


def compare_captured(mesh: Mesh, points: Points) -> tuple[Captured, Floats]:
    """Compare a surface with captured points (n, 3), both in figure mm; also how far each vertex lies from the nearest
    of them.

    The reach is four times the usual spacing of the points (bench default).
    """
    spacing = float(np.median(cKDTree(points).query(points[:: max(len(points) // 20_000, 1)], k=2)[0][:, 1]))
    reach = _REACH_CELLS * spacing
    beside, _ = cKDTree(points).query(mesh.vertices, workers=2)
    low, high = bounds(mesh)
    here = points[((points > low - reach) & (points < high + reach)).all(axis=1)]
    far = distance_to(mesh, here)
    near = far < reach
    _, at = cKDTree(mesh.vertices).query(here[near], workers=2)
    side = np.sign(np.einsum("ij,ij->i", here[near] - mesh.vertices[at], vertex_normals(mesh)[at]))
    most = float(np.percentile(far[near], 95)) if near.any() else 0.0
    span = max(2 * most, 1e-6)
    counts, edges = np.histogram(np.clip(far[near] * side, -span, span), _BINS, (-span, span))
    # A face that only partly lies within reach counts by its corners that do not.
    unseen = (beside > reach)[mesh.faces].mean(axis=1)
    return (
        Captured(
            mean=float(far[near].mean()) if near.any() else 0.0,
            most=most,
            reach=reach,
            invented=float(face_areas(mesh) @ unseen),
            counts=tuple(map(int, counts)),
            edges=tuple(map(float, edges)),
        ),
        np.asarray(beside),
    )
