"""The cross-section of one limb: the closed line in which a plane meets it, walked from face to face."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Floats, Mesh, Points
from ulvet.core.geometry.rods import tangents_of
from ulvet.core.geometry.topology import Edges, paired_half_edges
from ulvet.core.kernels import kernel, typed

__all__ = ["Section", "Sections"]

Ints = NDArray[np.int64]

_LONGEST = 20_000
"""Crossings of a section's line, for memory."""
_ALIKE = 1.02
"""Ratio of the principal moments up to which a section is round (bench default)."""
_WAYS = 36
"""Directions in which a section is bent: one every five degrees of a half turn."""
_FLATTEST = 1e-3
"""Area against that of a circle of the same girth; what has less runs to and fro on itself (bench default)."""


@dataclass(frozen=True)
class Section:
    """A flat section, in mm: its middle and unit normal (3,), area, girth, second moment and section modulus about the
    axis it bends about the easiest, how wide it is across it and along it, and ``aside`` (3,), the way across."""

    middle: Points
    normal: Points
    area: float
    girth: float
    moment: float
    modulus: float
    across: float
    along: float
    aside: Points


class Sections:
    """The sections of a mesh whose edges have two faces each; where they have not, there is no section."""

    def __init__(self, mesh: Mesh, edges: Edges) -> None:
        halves = paired_half_edges(edges)
        beside = np.full(len(edges.of_half), -1, np.int64)
        beside[halves[:, 0]], beside[halves[:, 1]] = halves[:, 1], halves[:, 0]
        self._beside = beside
        self._vertices = mesh.vertices.copy()
        self._faces = mesh.faces.astype(np.int64)

    def at(self, point: Points, normal: Points, among: Ints) -> Section | None:
        """The section through ``point`` (3,) square to the unit ``normal`` (3,), along the closed line that begins in
        that of the faces ``among`` (k,) nearest to the point; None where there is none."""
        start = _start(self._vertices, self._faces, among, point, normal)
        if start < 0:
            return None
        line = np.empty((_LONGEST, 3))
        count = _walked(self._vertices, self._faces, self._beside, start, point, normal, line)
        return _measured(line[:count], normal) if count >= 3 else None


def _measured(line: Points, normal: Points) -> Section | None:
    """Area and moments by Green's theorem along the line."""
    u, v = (axis[0] for axis in tangents_of(normal[None]))
    base = line.mean(axis=0)
    x, y = (line - base) @ u, (line - base) @ v
    x1, y1 = np.roll(x, -1), np.roll(y, -1)
    cross = x * y1 - x1 * y
    area = cross.sum() / 2
    girth = float(np.hypot(x1 - x, y1 - y).sum())
    # Walked so, the line has what is solid on its right; one about a hole has it on its left.
    if not 4 * np.pi * -area > _FLATTEST * girth**2:
        return None
    cx, cy = ((x + x1) * cross).sum() / 6 / area, ((y + y1) * cross).sum() / 6 / area
    ixx = ((y**2 + y * y1 + y1**2) * cross).sum() / 12 - area * cy**2
    iyy = ((x**2 + x * x1 + x1**2) * cross).sum() / 12 - area * cx**2
    ixy = ((x * y1 + 2 * x * y + 2 * x1 * y1 + x1 * y) * cross).sum() / 24 - area * cx * cy
    area, ixx, iyy, ixy = -area, -ixx, -iyy, -ixy
    mean, apart = (ixx + iyy) / 2, np.hypot((ixx - iyy) / 2, ixy)
    if mean + apart > _ALIKE * (mean - apart):
        easiest = np.array([np.arctan2(-2 * ixy, ixx - iyy) / 2 + np.pi / 2])
    else:
        easiest = np.arange(_WAYS) * np.pi / _WAYS
    # About an axis at this angle the section reaches so far to either side.
    reach = np.abs(np.outer(np.cos(easiest), y - cy) - np.outer(np.sin(easiest), x - cx))
    wide = np.outer(np.cos(easiest), x - cx) + np.outer(np.sin(easiest), y - cy)
    least = int(reach.max(axis=1).argmin())
    off = np.cos(easiest[least]) * (y - cy) - np.sin(easiest[least]) * (x - cx)
    moment = float(mean - apart)
    if moment <= 0:
        return None
    return Section(
        middle=base + cx * u + cy * v,
        normal=normal,
        area=float(area),
        girth=girth,
        moment=moment,
        modulus=moment / float(reach[least].max()),
        across=float(np.ptp(off)),
        along=float(np.ptp(wide[least])),
        aside=np.cos(easiest[least]) * v - np.sin(easiest[least]) * u,
    )


@kernel(
    typed.int64(typed.float64[:, ::1], typed.int64[:, ::1], typed.int64[::1], typed.float64[::1], typed.float64[::1])
)
def _start(vertices: Points, faces: Ints, among: Ints, point: Floats, normal: Floats) -> int:
    """The half-edge, of a face nearest to the point, over which the plane is crossed from below to above."""
    best, nearest = -1, np.inf
    for j in range(len(among)):
        f = among[j]
        for k in range(3):
            a, b = faces[f, k], faces[f, (k + 1) % 3]
            da, db, away = 0.0, 0.0, 0.0
            for axis in range(3):
                da += (vertices[a, axis] - point[axis]) * normal[axis]
                db += (vertices[b, axis] - point[axis]) * normal[axis]
            if da < 0.0 and db >= 0.0:
                share = da / (da - db)
                for axis in range(3):
                    at = vertices[a, axis] + share * (vertices[b, axis] - vertices[a, axis])
                    away += (at - point[axis]) ** 2
                if away < nearest:
                    best, nearest = 3 * f + k, away
    return best


@kernel(
    typed.int64(
        typed.float64[:, ::1],
        typed.int64[:, ::1],
        typed.int64[::1],
        typed.int64,
        typed.float64[::1],
        typed.float64[::1],
        typed.float64[:, ::1],
    )
)
def _walked(
    vertices: Points, faces: Ints, beside: Ints, start: int, point: Floats, normal: Floats, line: Points
) -> int:
    """Fill in the crossings from one half-edge round to it again, and say how many; 0 where the line does not close."""
    half, count = start, 0
    far = np.empty(3)
    while count < len(line):
        f, k = half // 3, half % 3
        for corner in range(3):
            far[corner] = 0.0
            for axis in range(3):
                far[corner] += (vertices[faces[f, corner], axis] - point[axis]) * normal[axis]
        here, there = far[k], far[(k + 1) % 3]
        share = here / (here - there)
        for axis in range(3):
            a, b = vertices[faces[f, k], axis], vertices[faces[f, (k + 1) % 3], axis]
            line[count, axis] = a + share * (b - a)
        count += 1
        # Entered upward, a face is left downward by the one other side that crosses.
        last = far[(k + 2) % 3]
        leave = 3 * f + ((k + 1) % 3 if last < 0.0 else (k + 2) % 3)
        half = beside[leave]
        if half < 0:
            return 0
        if half == start:
            return count
    return 0
