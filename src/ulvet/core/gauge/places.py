"""Thin samples grouped into places."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulvet.core.gauge.thickness import Thickness
from ulvet.core.mesh import Mesh, Points
from ulvet.core.rays import Rays
from ulvet.core.topology import joined_groups

__all__ = ["ThinPlace", "thin_places"]

Ints = NDArray[np.int64]
_AS_THIN = 1.02
_SHORTEST = 0.5
_SHARE = 0.03
_WIDE = 1.5


@dataclass(frozen=True)
class ThinPlace:
    """A connected thin region, in figure mm.

    ``wall`` is the least that holds over more than a sharp end, ``point`` and ``normal`` where that is, ``extent`` and
    ``along`` how long the region is and in which direction, ``reach`` how far it lies from the point.
    """

    wall: float
    point: Points
    normal: Points
    extent: float
    along: Points
    reach: float


def thin_places(mesh: Mesh, thickness: Thickness, limit: float) -> list[ThinPlace]:
    """Places whose wall is under ``limit`` (figure mm), the thinnest first.

    Every point and edge ends in nothing, so a place shorter than half the limit is left out, and the least wall is that
    which holds over 3 % of the place, at least over a disc half the limit across, at most over a square one and a half
    times the limit wide (bench defaults).
    Samples belong together when they share a face or lie opposite each other through the wall. Samples buried
    in another shell are left out: the wall there is that of both together.
    """
    thin = np.flatnonzero(thickness.walls < limit)
    if len(thin):
        thin = thin[~_buried(mesh, thickness, thin)]
    if not len(thin):
        return []
    group = _groups(mesh, thickness, thin)
    order = np.lexsort((thickness.walls[thin], group))
    starts = np.flatnonzero(np.diff(group[order], prepend=-1))
    places = [_place(thickness, members, limit) for members in np.split(thin[order], starts[1:])]
    long = [place for place in places if place.extent >= _SHORTEST * limit]
    return sorted(long, key=lambda place: place.wall)


def _buried(mesh: Mesh, thickness: Thickness, thin: Ints) -> NDArray[np.bool_]:
    rays = Rays(mesh)
    normals = thickness.normals[thin]
    return rays.buried(thickness.points[thin] + normals * 2 * rays.grain, normals)


def _groups(mesh: Mesh, thickness: Thickness, thin: Ints) -> Ints:
    """Group of each thin sample: nodes are vertices, faces and samples, joined where both ends are thin."""
    n, m = len(mesh.vertices), len(mesh.faces)
    is_thin_vertex = np.zeros(n, bool)
    is_thin_vertex[thin[thin < n]] = True
    inner = thin[thin >= n]
    faces = thickness.face_of[inner - n]
    # A face counts as thin when a sample in it is, or any of its corners.
    touched = np.asarray(is_thin_vertex[mesh.faces].any(axis=1))
    touched[faces] = True
    corners = np.argwhere(is_thin_vertex[mesh.faces] & touched[:, None])
    to_corner = np.stack([n + corners[:, 0], mesh.faces[corners[:, 0], corners[:, 1]]], axis=1)
    to_sample = np.stack([n + faces, n + m + np.arange(len(inner))], axis=1)
    node = np.concatenate([thin[thin < n], n + m + np.arange(len(inner))])
    opposite = thickness.across[np.concatenate([thin[thin < n], inner])]
    facing = (opposite >= 0) & touched[opposite]
    to_opposite = np.stack([n + opposite[facing], node[facing]], axis=1)
    _, group = joined_groups(n + m + len(inner), np.concatenate([to_corner, to_sample, to_opposite]).astype(np.int64))
    return group[node]


def _place(thickness: Thickness, members: Ints, limit: float) -> ThinPlace:
    walls = thickness.walls[members]
    covered = np.cumsum(thickness.areas[members])
    disc, square = np.pi / 4 * (_SHORTEST * limit) ** 2, (_WIDE * limit) ** 2
    held = int(np.searchsorted(covered, max(disc, min(_SHARE * covered[-1], square))))
    wall = float(walls[min(held, len(walls) - 1)])
    # Of many samples as thin, the one amid them speaks for the place, not a corner of it.
    worst_ones = members[(walls <= wall * _AS_THIN) & (walls >= wall / _AS_THIN)]
    amid = thickness.points[worst_ones] - thickness.points[worst_ones].mean(axis=0)
    worst = worst_ones[np.einsum("ij,ij->i", amid, amid).argmin()]
    points = thickness.points[members]
    centred = points - points.mean(axis=0)
    spread, axes = np.linalg.eigh(centred.T @ centred)
    along = axes[:, 2] if spread[2] > 0 else np.array([0.0, 0, 1])
    reach = centred @ along
    return ThinPlace(
        wall=wall,
        point=thickness.points[worst],
        normal=thickness.normals[worst],
        extent=float(np.ptp(reach)),
        along=along,
        reach=float(np.linalg.norm(points - thickness.points[worst], axis=1).max()),
    )
