"""A mesh on a grid: how far its nodes lie from the surface, and how deep inside."""

from collections.abc import Callable
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from ulvet.core.kernels import kernel, typed

__all__ = ["ASKEW", "BLOCK", "Look", "surface_distances", "unhurried", "winding_depths"]

ASKEW = np.array([0.3137, 0.2713, 0.4159])
"""By which share of a step the grid is set off, so that no column of it passes an edge of a figure built on round
numbers."""

BLOCK = 200_000
"""Triangles, or nodes, between two looks at the clock: some seconds at most."""

Look: TypeAlias = Callable[[], None]
"""Called now and then, it may raise to end the work."""

_f = typed.float64
_corners = typed.float64[:, :, ::1]


def unhurried() -> None:
    """No limit of time."""


def surface_distances(
    corners: NDArray[np.float64], shape: NDArray[np.int64], band: float, look: Look = unhurried
) -> NDArray[np.float32]:
    """How far the nodes of a grid of ``shape`` are from the nearest triangle, in steps; infinite beyond ``band``.

    ``corners`` (m, 3, 3) are those of the triangles, in steps from the grid's first node.
    """
    near = np.full(tuple(shape), np.float32(np.inf))
    for block in np.array_split(corners, 1 + len(corners) // BLOCK):
        look()
        _distances(block, near, band)
    return near


def winding_depths(corners: NDArray[np.float64], shape: NDArray[np.int64]) -> NDArray[np.int16]:
    """How often upright rays have entered the closed surface more often than left it, up to each node of a grid."""
    inside = np.zeros(tuple(shape), np.int16)
    _windings(corners, inside)
    return inside


@kernel(typed.void(_corners, typed.float32[:, :, ::1], _f))
def _distances(corners, near, band):  # type: ignore[no-untyped-def]  # compiled: the signature above is its type
    # Every triangle is held against the nodes in the box about it (the nearest point after Ericson 2004, 5.1.5).
    nx, ny, nz = near.shape
    for t in range(len(corners)):
        ax, ay, az = corners[t, 0, 0], corners[t, 0, 1], corners[t, 0, 2]
        bx, by, bz = corners[t, 1, 0] - ax, corners[t, 1, 1] - ay, corners[t, 1, 2] - az
        cx, cy, cz = corners[t, 2, 0] - ax, corners[t, 2, 1] - ay, corners[t, 2, 2] - az
        bb, cc, bc = bx * bx + by * by + bz * bz, cx * cx + cy * cy + cz * cz, bx * cx + by * cy + bz * cz
        mx, my, mz = by * cz - bz * cy, bz * cx - bx * cz, bx * cy - by * cx
        mm = mx * mx + my * my + mz * mz
        i0 = max(int(np.ceil(ax + min(0.0, bx, cx) - band)), 0)
        i1 = min(int(np.floor(ax + max(0.0, bx, cx) + band)), nx - 1)
        j0 = max(int(np.ceil(ay + min(0.0, by, cy) - band)), 0)
        j1 = min(int(np.floor(ay + max(0.0, by, cy) + band)), ny - 1)
        k0 = max(int(np.ceil(az + min(0.0, bz, cz) - band)), 0)
        k1 = min(int(np.floor(az + max(0.0, bz, cz) + band)), nz - 1)
        for i in range(i0, i1 + 1):
            for j in range(j0, j1 + 1):
                for k in range(k0, k1 + 1):
                    px, py, pz = i - ax, j - ay, k - az
                    off = px * mx + py * my + pz * mz
                    if off * off > band * band * mm:
                        continue
                    d1, d2 = bx * px + by * py + bz * pz, cx * px + cy * py + cz * pz
                    d3, d4 = d1 - bb, d2 - bc
                    d5, d6 = d1 - bc, d2 - cc
                    vc, vb, va = d1 * d4 - d3 * d2, d5 * d2 - d1 * d6, d3 * d6 - d5 * d4
                    if d1 <= 0 and d2 <= 0:
                        s, w = 0.0, 0.0
                    elif d3 >= 0 and d4 <= d3:
                        s, w = 1.0, 0.0
                    elif vc <= 0 and d1 >= 0 and d3 <= 0:
                        s, w = d1 / (d1 - d3), 0.0
                    elif d6 >= 0 and d5 <= d6:
                        s, w = 0.0, 1.0
                    elif vb <= 0 and d2 >= 0 and d6 <= 0:
                        s, w = 0.0, d2 / (d2 - d6)
                    elif va <= 0 and d4 - d3 >= 0 and d5 - d6 >= 0:
                        w = (d4 - d3) / ((d4 - d3) + (d5 - d6))
                        s = 1.0 - w
                    else:
                        s, w = vb / (va + vb + vc), vc / (va + vb + vc)
                    dx, dy, dz = px - s * bx - w * cx, py - s * by - w * cy, pz - s * bz - w * cz
                    d = np.sqrt(dx * dx + dy * dy + dz * dz)
                    near[i, j, k] = min(near[i, j, k], d)


@kernel(typed.void(_corners, typed.int16[:, :, ::1]))
def _windings(corners, inside):  # type: ignore[no-untyped-def]
    # Each triangle over a column enters or leaves there; summed upwards that is how deep inside a node lies. An edge
    # is asked the same way from both its faces, so that a column passes one of them and never both.
    nx, ny, nz = inside.shape
    for t in range(len(corners)):
        i0 = max(int(np.ceil(min(corners[t, 0, 0], corners[t, 1, 0], corners[t, 2, 0]))), 0)
        i1 = min(int(np.floor(max(corners[t, 0, 0], corners[t, 1, 0], corners[t, 2, 0]))), nx - 1)
        j0 = max(int(np.ceil(min(corners[t, 0, 1], corners[t, 1, 1], corners[t, 2, 1]))), 0)
        j1 = min(int(np.floor(max(corners[t, 0, 1], corners[t, 1, 1], corners[t, 2, 1]))), ny - 1)
        for i in range(i0, i1 + 1):
            for j in range(j0, j1 + 1):
                up = down = 0
                shares = np.zeros(3)
                for e in range(3):
                    p, q, sign = e, (e + 1) % 3, 1.0
                    if corners[t, p, 0] > corners[t, q, 0] or (
                        corners[t, p, 0] == corners[t, q, 0] and corners[t, p, 1] > corners[t, q, 1]
                    ):
                        p, q, sign = q, p, -1.0
                    det = (corners[t, q, 0] - corners[t, p, 0]) * (j - corners[t, p, 1]) - (
                        corners[t, q, 1] - corners[t, p, 1]
                    ) * (i - corners[t, p, 0])
                    left = sign if det >= 0 else -sign
                    shares[(e + 2) % 3] = abs(det)
                    if left > 0:
                        up += 1
                    else:
                        down += 1
                total = shares[0] + shares[1] + shares[2]
                if (up != 3 and down != 3) or total == 0.0:
                    continue
                height = 0.0
                for e in range(3):
                    height += corners[t, e, 2] * (shares[e] / total)
                k = max(int(np.ceil(height)), 0)
                if k < nz:
                    inside[i, j, k] += -1 if up == 3 else 1
    for i in range(nx):
        for j in range(ny):
            for k in range(1, nz):
                inside[i, j, k] += inside[i, j, k - 1]
