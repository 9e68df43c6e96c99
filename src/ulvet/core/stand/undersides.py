"""Where a figure wants holding: its undersides, sampled by rays from the plate up."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulvet.core.bench.support_limits import SupportLimits
from ulvet.core.geometry.mesh import Floats, Mesh, Points, bounds
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.topology import connected_groups

__all__ = ["Undersides", "skin_above", "undersides_of"]

_A_SPACING = 6  # rays between two contacts
_MOST_RAYS = 60_000
"""Rays from the plate, for time."""
_SURFACES = 60
"""Surfaces that a ray goes through."""
_STEEPEST = 65.0  # degrees from level: as far as more contacts are sought where a few would tear
_OFF_GRID = np.array([0.4142, 0.7321])  # so that no ray runs along an edge of a figure drawn on round numbers
Bools = NDArray[np.bool_]


@dataclass(frozen=True)
class Undersides:
    """Places (s, 3) on outer undersides with their normals (s, 3), print mm, the lowest first.

    ``wanting`` those flat and wide enough to want holding; each stands for ``cell`` mm² of projected area.
    """

    points: Points
    normals: Points
    wanting: Bools
    cell: float


def undersides_of(mesh: Mesh, rays: Rays, holding: SupportLimits, plate: float) -> Undersides:
    """The undersides of a mesh in print mm above its plate; what lies within ``plate`` mm of it is held by it.

    Inner surfaces of overlapping shells are passed over. A patch of less area than the square of the bridge holds on
    to its surroundings.
    """
    low, high = bounds(mesh)
    size = high - low
    step = max(holding.spacing / _A_SPACING, float(np.sqrt(size[0] * size[1] / _MOST_RAYS)))
    x, y = (np.arange(low[k] + step * _OFF_GRID[k], high[k], step) for k in range(2))
    across, along = np.meshgrid(x, y)
    start = np.stack([across.ravel(), along.ravel(), np.full(across.size, low[2] - 1.0)], axis=1)
    points, face = _entries(rays, start)
    normals = rays.normals[face]
    leaning = -normals[:, 2]
    kept = (leaning > np.cos(np.radians(_STEEPEST))) & (points[:, 2] > plate)
    points, normals, leaning = points[kept], normals[kept], leaning[kept]
    order = np.lexsort((points[:, 1], points[:, 0], points[:, 2]))
    points, normals = points[order], normals[order]
    wanting = leaning[order] > np.cos(np.radians(holding.flattest))
    wanting[wanting] = _patch_area(points[wanting], step) >= holding.bridge**2
    return Undersides(points, normals, wanting, step**2)


def skin_above(rays: Rays, places: Points, below: float) -> tuple[Points, Points]:
    """Skin (n, 3) straight above places (n, 3), sought from ``below`` mm under them, and its normals.

    Where a ray meets no underside within twice that, the place itself, looking down.
    """
    start = places - [0, 0, below]
    distance, face = rays.first(start, np.broadcast_to([0.0, 0, 1], start.shape))
    normals = np.where(face[:, None] >= 0, rays.normals[face], [0, 0, -1.0])
    met = (distance <= 2 * below) & (normals[:, 2] < 0)
    points = start + np.where(met, distance, 0)[:, None] * [0, 0, 1.0]
    return np.where(met[:, None], points, places), np.where(met[:, None], normals, [0, 0, -1.0])


def _entries(rays: Rays, start: Points) -> tuple[Points, NDArray[np.int64]]:
    """Where upward rays enter solid from air, and through which face, however often they do."""
    up = np.array([0.0, 0, 1])
    at = start.copy()
    depth = np.zeros(len(start), np.int64)
    going = np.arange(len(start))
    points, faces = [], []
    for _ in range(_SURFACES):
        step, hit = rays.first(at[going], np.broadcast_to(up, (len(going), 3)))
        landed = hit >= 0
        going, step, hit = going[landed], step[landed], hit[landed]
        if not len(going):
            break
        at[going, 2] += step
        entering = rays.normals[hit, 2] < 0
        outer = entering & (depth[going] <= 0)
        points.append(at[going[outer]])
        faces.append(hit[outer])
        # Never below nothing: an open surface must not hide what is above it.
        depth[going] = np.maximum(depth[going] + np.where(entering, 1, -1), 0)
        at[going, 2] += rays.grain
    return (
        np.concatenate([np.empty((0, 3)), *points]),
        np.concatenate([np.empty(0, np.int64), *faces]),
    )


def _patch_area(points: Points, step: float) -> Floats:
    """Area of the connected patch that each place (n, 3) belongs to, mm²."""
    if not len(points):
        return np.empty(0)
    pairs = cKDTree(points).query_pairs(1.9 * step, output_type="ndarray").astype(np.int64)
    _, group = connected_groups(len(points), pairs.reshape(-1, 2))
    return np.asarray(np.bincount(group)[group] * step**2)
