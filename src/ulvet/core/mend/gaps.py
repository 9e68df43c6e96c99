"""Narrow gaps between surfaces, which print as one."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulvet.core.bench.setup import Setup
from ulvet.core.geometry.mesh import Mesh, Points, face_areas
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.topology import Edges, connected_groups, paired_faces
from ulvet.core.lengths import PrintMM
from ulvet.core.mend.diagnosis import Diagnosis

__all__ = ["Gap", "gaps_in", "least_gap"]

Ints = NDArray[np.int64]
_PIXELS = 4.0
"""Light and swelling close what is narrower in resin (bench default)."""
_FACING = np.cos(np.deg2rad(150.0))
"""Of a groove whose walls lean apart by more the bottom is narrow anyhow, and meant."""
_SPREAD = np.array([(1, 1, 1), (6, 1, 1), (1, 6, 1), (1, 1, 6), (4, 4, 1), (1, 4, 4), (4, 1, 4)], float)
_SPREAD = _SPREAD / _SPREAD.sum(axis=1)[:, None]


@dataclass(frozen=True)
class Gap:
    """One narrow place: its least width, mm, and the points (k, 3) of the surface that bound it."""

    width: float
    points: Points


def least_gap(setup: Setup) -> PrintMM:
    """The narrowest gap that stays open in a print: four pixels of a resin printer, a line of a filament printer (bench
    default)."""
    return PrintMM(max(setup.line, setup.pixel * _PIXELS))


def gaps_in(found: Diagnosis, rays: Rays, limit: float) -> list[Gap]:
    """The gaps under ``limit`` mm of a mesh that was looked over, the narrowest first; none where it looks the wrong
    way or is mostly open, since it has no outside then to measure through."""
    winding = found.winding
    if winding.against.any() or winding.inverted.any() or found.edges.mostly_open:
        return []
    return _thin_gaps(found.mesh, found.edges, rays, limit, np.isin(found.shells.of, found.shells.voids))


def _thin_gaps(mesh: Mesh, edges: Edges, rays: Rays, limit: float, left_out: NDArray[np.bool_]) -> list[Gap]:
    """Places where surfaces face each other through less than ``limit`` mm of nothing, the narrowest first.

    From the middle of every face, and from seven points of large ones, a ray goes out along the normal. What is shorter
    than the limit is no place, nor are sides that lean together until they meet. ``left_out`` (m,) are faces that are
    not asked. The mesh looks outward.
    """
    faces, starts = _samples(mesh, limit, left_out)
    ways = rays.normals[faces]
    width, hit = rays.first(starts + ways * rays.grain, ways)
    width = width + rays.grain
    near = (hit >= 0) & (width < limit)
    near[near] = np.einsum("ij,ij->i", rays.normals[hit[near]], ways[near]) < _FACING
    if not near.any():
        return []
    faces, starts, width, hit = faces[near], starts[near], width[near], hit[near]
    narrow = np.zeros(len(mesh.faces), bool)
    narrow[faces] = narrow[hit] = True
    beside = paired_faces(edges)[0]
    pairs = np.concatenate([beside[narrow[beside].all(axis=1)], np.stack([faces, hit], axis=1)])
    _, group = connected_groups(len(mesh.faces), pairs)
    _, group = np.unique(group[faces], return_inverse=True)
    order = np.argsort(group, kind="stable")
    parts = np.split(order, np.cumsum(np.bincount(group))[:-1])
    # Where a side faces one that it touches, the two lean together and meet: a crease, which closes anyhow.
    touch = (mesh.faces[faces][:, :, None] == mesh.faces[hit][:, None]).any(axis=(1, 2))
    gaps = [Gap(float(width[part].min()), starts[part]) for part in parts if not touch[part].any()]
    wide = [gap for gap in gaps if np.ptp(gap.points, axis=0).max() >= limit]
    return sorted(wide, key=lambda gap: gap.width)


def _samples(mesh: Mesh, limit: float, left_out: NDArray[np.bool_]) -> tuple[Ints, Points]:
    """Faces and a point (s, 3) on each; large faces come several times."""
    areas = face_areas(mesh)
    asked = np.flatnonzero((areas > 0) & ~left_out)
    large = asked[areas[asked] > limit**2]
    corners = mesh.vertices[mesh.faces[large]]
    spread = np.einsum("pc,fcx->fpx", _SPREAD, corners).reshape(-1, 3)
    small = np.setdiff1d(asked, large)
    faces = np.concatenate([small, np.repeat(large, len(_SPREAD))])
    return faces, np.concatenate([mesh.vertices[mesh.faces[small]].mean(axis=1), spread])
