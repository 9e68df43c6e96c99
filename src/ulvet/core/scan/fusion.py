"""One surface from the points of all passes; what no pass saw stays open."""

import numpy as np
from scipy.ndimage import binary_dilation
from scipy.spatial import cKDTree
from skimage.measure import marching_cubes

from ulvet.core.geometry.degenerate_faces import drop_faces
from ulvet.core.geometry.mesh import Mesh, Points
from ulvet.core.geometry.topology import without_unused_vertices
from ulvet.core.progress import Progress, no_progress
from ulvet.core.scan.registration import cells_of
from ulvet.core.sources.scan import NothingToFuse

__all__ = ["fuse_points", "pitch_for", "without_outliers"]

_NEIGHBOURS = 12
"""Points that the surface is fitted to at a place."""
_SUPPORT = 1.7
"""A place farther than so many pitches from every point was not seen."""
_KERNEL = 0.9
"""Width of the weight, in grid steps (bench default)."""
_BAND = 2
"""Grid steps about the points in which the surface is sought."""
_MOST_CELLS = 30_000_000
"""Cells of the grid, for memory."""
_CELLS_ACROSS = 210
"""Cells along the longest side (bench default)."""
_LONELY = 4
"""Neighbours that look the same way without which a point is an outlier."""
_SLIVER = 1e-6
"""Height (mm of the file) under which a face has no area."""


def pitch_for(points: Points) -> float:
    """Grid for a cloud: a 210th of its longest side, outliers aside (bench default), mm."""
    return float(np.ptp(np.percentile(points, [0.5, 99.5], axis=0), axis=0).max()) / _CELLS_ACROSS


def without_outliers(points: Points, normals: Points, pitch: float) -> tuple[Points, Points, int]:
    """Points averaged over cells, without cells that have hardly any others near; and how many points were dropped.

    A cell stays when at least three others within two and a half pitches look its way, and the surface through them
    passes it no farther off than a pitch and a half.
    """
    middle, way, count = cells_of(points, normals, 0.7 * pitch)
    away, near = cKDTree(middle).query(middle, k=_NEIGHBOURS, distance_upper_bound=2.5 * pitch, workers=2)
    there = np.isfinite(away)
    near = np.where(there, near, 0)
    alike = there & (np.einsum("ij,ikj->ik", way, way[near]) > 0.3)
    off = np.abs(np.einsum("ikj,ikj->ik", middle[:, None] - middle[near], way[near]))
    weight = alike * count[near]
    weight[:, 0] = 0  # itself
    mean_off = (off * weight).sum(axis=1) / np.maximum(weight.sum(axis=1), 1e-12)
    kept = (alike.sum(axis=1) >= _LONELY) & (mean_off < 1.5 * pitch)
    return middle[kept], way[kept], int(count[~kept].sum())


def fuse_points(points: Points, normals: Points, pitch: float, progress: Progress = no_progress) -> Mesh:
    """The surface through points with normals (n, 3), on a grid of ``pitch`` mm; open where no points are near.

    At each grid point near the cloud the distance from the surface is the weighted mean of its distances from the
    tangent planes of the nearest points (implicit moving least squares; Kolluri 2008), and marching cubes
    follow its zero.

    Raises NothingToFuse when nothing is left to make a surface of.
    """
    if len(points) < 4:
        raise NothingToFuse("too few points are left to make a surface of")
    low = points.min(axis=0) - 4 * pitch
    shape = tuple(np.ceil((points.max(axis=0) + 4 * pitch - low) / pitch).astype(int) + 1)
    if np.prod(shape, dtype=float) > _MOST_CELLS:
        return fuse_points(points, normals, pitch * 1.2, progress)
    progress(0.1, "gathering what was seen")
    near = np.zeros(shape, bool)
    near[tuple(np.round((points - low) / pitch).astype(int).T)] = True
    near = binary_dilation(near, np.ones((3, 3, 3), bool), iterations=_BAND)
    grid = np.argwhere(near)
    at = grid * pitch + low
    progress(0.2, "measuring distances")
    away, which = cKDTree(points).query(at, k=_NEIGHBOURS, distance_upper_bound=3 * pitch, workers=2)
    there = np.isfinite(away)
    which = np.where(there, which, 0)
    weight = np.where(there, np.exp(-((away / (_KERNEL * pitch)) ** 2)), 0.0)
    # Far from all, the nearest still tells the side.
    weight[:, 0] = np.maximum(weight[:, 0], np.where(there[:, 0], 1e-9, 0))
    plane = np.einsum("ikj,ikj->ik", at[:, None] - points[which], normals[which])
    total = weight.sum(axis=1)
    value = (plane * weight).sum(axis=1) / np.maximum(total, 1e-300)
    known = there[:, 0] & (away[:, 0] <= (_SUPPORT + _BAND - 1) * pitch)
    field = np.full(shape, np.inf, np.float32)
    field[tuple(grid[known].T)] = value[known]
    progress(0.7, "drawing the surface")
    seen = np.isfinite(field)
    field[~seen] = 4 * pitch
    vertices, faces, _, _ = marching_cubes(field, 0.0, mask=binary_dilation(seen), allow_degenerate=False)
    before, after = np.floor(vertices).astype(int), np.ceil(vertices).astype(int)
    sure = seen[tuple(before.T)] & seen[tuple(after.T)]
    place = vertices * pitch + low
    sure &= cKDTree(points).query(place, distance_upper_bound=_SUPPORT * pitch, workers=2)[0] < np.inf
    faces = faces[sure[faces].all(axis=1)]
    if not len(faces):
        raise NothingToFuse("the points lie too far apart to make a surface of")
    return drop_faces(without_unused_vertices(Mesh(place.astype(float), faces.astype(np.int32))), _SLIVER)[0]
