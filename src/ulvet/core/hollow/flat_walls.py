"""Flat or slightly bent walls of a space: how wide they are for their thickness, and how wide its roof is."""

from dataclasses import dataclass

import edt
import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Mesh, Points, face_areas, face_normals
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.rods import tangents_of
from ulvet.core.geometry.samples import spread_points
from ulvet.core.geometry.topology import connected_groups, edges_of, paired_faces, submesh

__all__ = ["FlatWall", "flat_walls", "widest_roof"]

_SECTORS = 6
"""Directions along each side of a cube by which normals are sorted: walls within about fifteen degrees are one."""
_LEAST_WIDTH = 10.0
"""Mm from which a flat wall is looked at (bench default)."""
_LEAST_ROOF = 1.0
"""Mm from which a roof is looked at (bench default)."""
_STEPS = 60
"""Cells across a patch when its width is measured."""
_SAMPLES = 12
"""Points a cell."""
_ASKED = 200
"""Rays by which the wall of a patch is measured."""
_ROOF = 0.7
"""Cosine from straight up from which the inside hangs over nothing: 45 degrees."""


@dataclass(frozen=True)
class FlatWall:
    """A patch of a wall, mm: the width of the widest disc in it, the wall there, the disc's middle (3,) on the inside,
    and the way out (3,)."""

    width: float
    wall: float
    point: Points
    way: Points


def flat_walls(rays: Rays, space: Mesh) -> list[FlatWall]:
    """The flat walls of a space that are at least 10 mm wide, the widest first; ``rays`` are of the part it is in."""
    normals = face_normals(space)
    # The sector of a cube's surface that a normal points to.
    largest = np.abs(normals).argmax(axis=1)
    on_cube = normals / np.maximum(np.abs(normals).max(axis=1), 1e-12)[:, None]
    cell = np.clip(((on_cube + 1) / 2 * _SECTORS).round(), 0, _SECTORS).astype(np.int64)
    sector = largest + 3 * (cell @ np.array([1, _SECTORS + 1, (_SECTORS + 1) ** 2]))
    found = []
    for faces in _patches(space, sector, np.ones(len(sector), bool)):
        way = _mean_way(space, faces)
        disc = _widest_disc(space, faces, way)
        if disc is not None:
            width, point = disc
            found.append(FlatWall(width, _wall(rays, space, faces, way), point, way))
    return sorted(found, key=lambda one: -one.width)


def widest_roof(space: Mesh, up: Points) -> float:
    """The width of the widest disc, mm, that the inside of a space hangs over, printed with ``up`` (3,) up; 0 without
    any of 1 mm or more."""
    hangs = face_normals(space) @ up > _ROOF
    widths = [
        disc[0]
        for faces in _patches(space, np.zeros(len(hangs), np.int64), hangs)
        if (disc := _widest_disc(space, faces, up, least=_LEAST_ROOF)) is not None
    ]
    return max(widths, default=0.0)


def _patches(space: Mesh, sector: NDArray[np.int64], among: NDArray[np.bool_]) -> list[NDArray[np.int64]]:
    """Faces that hang together over edges and are of one sector, of those that count; large enough to hold a disc."""
    pairs, _ = paired_faces(edges_of(space))
    alike = (sector[pairs[:, 0]] == sector[pairs[:, 1]]) & among[pairs].all(axis=1)
    _, group = connected_groups(len(space.faces), pairs[alike])
    areas = np.bincount(group, face_areas(space) * among)
    large = np.flatnonzero(areas > np.pi / 4)
    return [np.flatnonzero((group == one) & among) for one in large]


def _mean_way(space: Mesh, faces: NDArray[np.int64]) -> Points:
    way = (face_normals(space)[faces] * face_areas(space)[faces, None]).sum(axis=0)
    return np.asarray(way / max(float(np.linalg.norm(way)), 1e-12))


def _widest_disc(
    space: Mesh, faces: NDArray[np.int64], way: Points, least: float = _LEAST_WIDTH
) -> tuple[float, Points] | None:
    """Width and middle of the widest disc in a patch, seen along ``way``; None where it is narrower than ``least``."""
    u, v = (axis[0] for axis in tangents_of(way[None]))
    corners = space.vertices[space.faces[faces]].reshape(-1, 3)
    flat = np.stack([corners @ u, corners @ v], axis=1)
    low, size = flat.min(axis=0), np.ptp(flat, axis=0)
    if size.min() < least:
        return None
    step = float(size.max()) / _STEPS
    shape = np.ceil(size / step).astype(np.int64) + 3
    patch, _ = submesh(space, faces)
    points, _ = spread_points(patch, int(_SAMPLES * np.prod(shape)))
    at = np.floor((np.stack([points @ u, points @ v], axis=1) - low) / step).astype(np.int64) + 1
    covered = np.zeros(tuple(shape), bool)
    covered[tuple(at.T)] = True
    away = edt.edt(covered, black_border=True)
    widest = np.unravel_index(int(away.argmax()), away.shape)
    width = 2 * float(away.max()) * step - step
    if width < least:
        return None
    middle = (np.array(widest) - 0.5) * step + low
    nearest = np.linalg.norm(np.stack([points @ u, points @ v], axis=1) - middle, axis=1).argmin()
    return width, np.array(points[nearest])


def _wall(rays: Rays, space: Mesh, faces: NDArray[np.int64], way: Points) -> float:
    points, _ = spread_points(space, _ASKED, faces)
    distance, _ = rays.first(points + way * rays.grain * 2, np.broadcast_to(way, points.shape))
    known = distance[np.isfinite(distance)]
    return float(np.median(known)) if len(known) else 0.0
