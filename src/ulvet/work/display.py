"""What the browser draws: a light mesh with its walls, in raw little-endian numbers."""

import struct
from dataclasses import replace

import fast_simplification
import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulvet.core.gauge.detail.detail import Detail
from ulvet.core.gauge.walls.thickness import Thickness, sample_walls
from ulvet.core.geometry.mesh import Floats, Mesh, bounds, flipped, volume
from ulvet.core.geometry.topology import without_collapsed_faces

__all__ = [
    "MOST_TRIANGLES",
    "colour_display_bytes",
    "detail_display_bytes",
    "display_bytes",
    "display_from",
    "first_look_bytes",
    "soundings_bytes",
]

MOST_TRIANGLES = 120_000
"""More are not seen on a screen and slow drawing in software."""
_HEAD = struct.Struct("<4sII")
_NO_WALL = 1e6
"""Wall (mm) that stands for none, as the browser reads it."""
_SOUNDED = 8_000
"""Places of a first look at which the wall is measured (bench default)."""
_BESIDE = 8
"""Of so many of them about a vertex the least wall is told, as charts tell depths."""
_ACROSS = (9, 18, 36)
"""Cells to the longest side of a figure, for soundings that fill in as one comes nearer."""


def display_bytes(mesh: Mesh, thickness: Thickness) -> bytes:
    """Head (magic "ULD1", vertices n, triangles m), positions n x 3 float32, walls n float32, corners m x 3 uint32.

    Positions and walls in figure mm; a vertex without a wall has 1e6.
    """
    walls = thickness.walls[: len(mesh.vertices)]
    seen = without_collapsed_faces(mesh)
    vertices, faces = seen.vertices, seen.faces
    if len(faces) > MOST_TRIANGLES:
        # The simplifier works in float32 and follows the order of faces, which canonical meshes fix.
        middle = bounds(seen).mean(axis=0)
        points, faces = fast_simplification.simplify(
            (vertices - middle).astype(np.float32), np.array(faces), target_count=MOST_TRIANGLES
        )
        vertices = points + middle
        walls = walls[cKDTree(seen.vertices).query(vertices)[1]]
    walls = np.where(np.isfinite(walls), walls, _NO_WALL)
    head = _HEAD.pack(b"ULD1", len(vertices), len(faces))
    return b"".join(
        [head, vertices.astype("<f4").tobytes(), walls.astype("<f4").tobytes(), faces.astype("<u4").tobytes()]
    )


def display_from(data: bytes | memoryview) -> tuple[Mesh, Floats]:
    """Mesh and walls (n,) of what ``display_bytes`` gives; a wall that is not known is infinite."""
    _, n, m = _HEAD.unpack_from(data)
    at = _HEAD.size
    vertices = np.frombuffer(data, "<f4", 3 * n, at).reshape(-1, 3)
    walls = np.frombuffer(data, "<f4", n, at + 12 * n).astype(float)
    faces = np.frombuffer(data, "<u4", 3 * m, at + 16 * n).reshape(-1, 3)
    return Mesh(vertices.astype(float), faces.astype(np.int32)), np.where(walls >= _NO_WALL, np.inf, walls)


def first_look_bytes(mesh: Mesh) -> bytes:
    """A display mesh made in a moment, with coarse walls, to be looked at while the figure is measured.

    A mesh of too many triangles is rounded to a grid, the coarser the more it has; what shrinks to nothing falls away.
    Walls are the least of some points near by, sounded on the whole mesh as if it looked outward.
    """
    seen = mesh
    low, high = bounds(mesh)
    size = float((high - low).max()) or 1.0
    # A surface as large as the sides of its box is crossed by about six cells squared, of two triangles each.
    cells = (MOST_TRIANGLES / 12) ** 0.5 * 1.6
    while len(seen.faces) > MOST_TRIANGLES:
        across = int(cells)
        place = np.minimum((mesh.vertices - low) * (across / size), across - 1).astype(np.int32)
        cell = (place[:, 0] * across + place[:, 1]) * across + place[:, 2]
        speaks = np.zeros(across**3, np.int32)
        speaks[cell[::-1]] = np.arange(len(cell) - 1, -1, -1, dtype=np.int32)  # the first vertex in a cell for all
        corners = speaks[cell][mesh.faces]
        a, b, c = corners.T
        corners = corners[(a != b) & (b != c) & (c != a)]
        used, corners = np.unique(corners, return_inverse=True)
        seen = Mesh(mesh.vertices[used], corners.reshape(-1, 3).astype(np.int32))
        cells *= min(0.9, 0.97 * (MOST_TRIANGLES / max(len(seen.faces), 1)) ** 0.5)
    where, walls = sample_walls(mesh if volume(mesh) > 0 else flipped(mesh), _SOUNDED)
    near = cKDTree(where).query(seen.vertices, min(_BESIDE, len(where)))[1].reshape(len(seen.vertices), -1)
    return display_bytes(seen, replace(Thickness.unknown(seen), walls=walls[near].min(axis=1)))


def detail_display_bytes(display: bytes, detail: Detail, factor: float) -> bytes:
    """What ``display_bytes`` gave, its walls the share of the detail's size that would show, in figure mm as if shares
    were print mm: 1 is 1 mm. What shows, or has no detail, has 1e6."""
    n = _HEAD.unpack_from(display)[1]
    at = _HEAD.size
    vertices = np.frombuffer(display, "<f4", 3 * n, at).reshape(-1, 3)
    needs = detail.needs[cKDTree(detail.points).query(vertices * factor)[1]]
    shares = np.where(needs > 1, 1 / np.maximum(needs, 1) / factor, _NO_WALL)
    return b"".join([display[: at + 12 * n], shares.astype("<f4").tobytes(), display[at + 16 * n :]])


def colour_display_bytes(display: bytes, mesh: Mesh, of_face: NDArray[np.int64]) -> bytes:
    """What ``display_bytes`` gave of a mesh, its walls the region (m,) of each face of it; 1e6 where there is none. A
    vertex between regions is there once for each, so that nothing lies between two colours."""
    drawn, _ = display_from(display)
    middles = mesh.vertices[mesh.faces].mean(axis=1)
    nearest = cKDTree(middles).query(drawn.vertices[drawn.faces].mean(axis=1))[1]
    labels = np.repeat(of_face[nearest], 3)
    pairs, corners = np.unique(np.stack([drawn.faces.ravel(), labels], axis=1), axis=0, return_inverse=True)
    walls = np.where(pairs[:, 1] >= 0, pairs[:, 1], _NO_WALL)
    head = _HEAD.pack(b"ULD1", len(pairs), len(drawn.faces))
    points = drawn.vertices[pairs[:, 0]].astype("<f4").tobytes()
    return b"".join([head, points, walls.astype("<f4").tobytes(), corners.astype("<u4").tobytes()])


def soundings_bytes(mesh: Mesh, thickness: Thickness, count: int = 900) -> bytes:
    """Walls at points spread over the surface: for each its point, its normal and its wall as 7 float32, figure mm.

    First come a few far apart, then more between them, each time the thinner the earlier, so that a chart prints as
    many as there is room for. The figure is divided into cells, each time half as large; each gives the sample with its
    median wall, so that a sounding speaks for its neighbourhood.
    """
    usable = np.flatnonzero(np.isfinite(thickness.walls))
    chosen = np.empty(0, np.int64)
    for across in _ACROSS:
        more = np.setdiff1d(_medians(mesh, thickness, usable, across), chosen)
        chosen = np.concatenate([chosen, more[np.argsort(thickness.walls[more], kind="stable")]])
    chosen = chosen[:count]
    rows = (thickness.points[chosen], thickness.normals[chosen], thickness.walls[chosen, None])
    return np.concatenate(rows, axis=1).astype("<f4").tobytes()


def _medians(mesh: Mesh, thickness: Thickness, usable: NDArray[np.int64], across: int) -> NDArray[np.int64]:
    """Of each cell, so many to the longest side, the sample with the median wall."""
    low, high = bounds(mesh)
    cell = max(float((high - low).max()) / across, 1e-9)
    place = np.clip(((thickness.points[usable] - low) // cell).astype(np.int64), 0, 63)
    # Opposite walls in one cell are told apart by the side they look to.
    side = (thickness.normals[usable] > 0).astype(np.int64) @ np.array([1, 2, 4])
    key = np.ravel_multi_index((*place.T, side), (64, 64, 64, 8))
    order = np.lexsort((thickness.walls[usable], key))
    _, first, size = np.unique(key[order], return_index=True, return_counts=True)
    return usable[order[(first + size // 2)[size >= 3]]]
