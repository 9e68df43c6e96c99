"""A mesh made anew by volume: what is inside is asked on a grid, and a new surface drawn round it."""

from collections.abc import Callable
from typing import Any, TypeAlias

import igl  # its module under a copyleft licence is never imported
import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import binary_dilation

from ulvet.core.geometry.level_set import level_set
from ulvet.core.geometry.mesh import Floats, Mesh, Points, bounds
from ulvet.core.kernels import kernel, typed

__all__ = ["GridTooFine", "voxel_remesh", "voxel_remesh_box", "voxel_remesh_open"]

_BAND = 1.8
"""Grid steps about the surface in which its distance is known: a cell that it passes has no corner farther off."""
_ON = 1e-6
"""Share of the pitch by which a node on the surface is put inside."""
_COARSEST = 8
"""Steps of the coarsest grid in the search."""
_ACCURACY = 1.0
"""Of the winding number's far field: the side of a half that a node lies on bears less than the usual 2."""
_MOST_NODES = 400_000_000
"""Nodes of the grid, for memory."""
_ASKEW = np.array([0.3137, 0.2713, 0.4159])
"""By which share of a step the grid is set off, so that no column of it passes an edge of a figure built on round
numbers."""

_f, _i = typed.float64, typed.int64
_corners = typed.float64[:, :, ::1]


_BLOCK = 200_000
"""Triangles, or nodes, between two looks at the clock: some seconds at most."""

Look: TypeAlias = Callable[[], None]
"""Called now and then, it may raise to end the work."""


def _unhurried() -> None:
    """No limit of time."""


class GridTooFine(ValueError):
    """A grid that would have too many nodes; its text is for the user."""


def voxel_remesh(mesh: Mesh, pitch: float, look: Look = _unhurried) -> Mesh:
    """The surface round all that a closed mesh encloses, drawn on a grid of ``pitch`` mm.

    Inside is where upright rays have entered more often than left, so shells in and through each other become one, and
    cavities stay. Corners sharper than the pitch are rounded by about half of it. Raises GridTooFine.
    """
    low, high = bounds(mesh)
    return voxel_remesh_box(mesh, pitch, low - 3 * pitch, high + 3 * pitch, look)


def voxel_remesh_box(mesh: Mesh, pitch: float, low: Points, high: Points, look: Look = _unhurried) -> Mesh:
    """The same for what of it lies in a box, whose sides close it.

    Raises GridTooFine.
    """
    origin = low - (1 - _ASKEW) * pitch
    shape = np.ceil((high - origin) / pitch).astype(np.int64) + 2
    if float(np.prod(shape.astype(float))) > _MOST_NODES:
        raise GridTooFine(
            f"A grid of {pitch:g} mm over {', '.join(f'{side:.0f}' for side in high - low)} mm has too many nodes: "
            "give a coarser pitch; nothing was changed."
        )
    corners = np.ascontiguousarray((mesh.vertices[mesh.faces] - origin) / pitch)
    near = _near(corners, shape, look)
    inside = np.zeros(tuple(shape), np.int16)
    _windings(corners, inside)
    look()
    near[inside > 0] *= -1
    sides = (low - origin) / pitch, (high - origin) / pitch
    for axis in range(3):
        k = np.arange(shape[axis])
        beyond = np.maximum(sides[0][axis] - k, k - sides[1][axis]).astype(np.float32)
        np.maximum(near, beyond.reshape([-1 if other == axis else 1 for other in range(3)]), out=near)
    nodes = np.argwhere(np.abs(near) < _BAND)
    value = near[tuple(nodes.T)] * pitch
    # Right on a surface inside the solid is inside.
    value[(value == 0) & (inside[tuple(nodes.T)] > 0)] = -_ON * pitch
    return level_set(nodes, value, pitch, origin, banded=True)


def voxel_remesh_open(mesh: Mesh, pitch: float, look: Look = _unhurried) -> Mesh:
    """The same of a mesh with open rims: inside is where its winding number (Jacobson et al. 2013; evaluated after
    Barill et al. 2018) is above a half, so that a surface is drawn over each rim about as it would be stretched there.

    The number is asked only in a narrow band: on a grid eight times as coarse everywhere, from there on about what
    separates inside from outside, and about the surface. Raises GridTooFine.
    """
    low, high = bounds(mesh)
    origin = low - (4 - _ASKEW) * pitch
    shape = np.ceil((high - origin) / pitch).astype(np.int64) + 4
    shape += -shape % _COARSEST + 1
    if float(np.prod(shape.astype(float))) > _MOST_NODES:
        raise GridTooFine(f"A grid of {pitch:g} mm has too many nodes here: give a coarser pitch; nothing was changed.")
    corners = np.ascontiguousarray((mesh.vertices[mesh.faces] - origin) / pitch)
    near = _near(corners, shape, look)
    field = igl.FastWindingNumberBVH()
    field.init((mesh.vertices - origin) / pitch, mesh.faces.astype(np.int64))
    nodes = _between(near, field, look)
    winding = _winding_at(nodes.astype(np.float64), field, look)
    away = np.minimum(near[tuple(nodes.T)], _BAND).astype(np.float64)
    # Beside the surface the number jumps and this is the distance; over a rim it passes a half without a jump.
    value = (1 - 2 * np.clip(winding, 0, 1)) * np.maximum(away, _ON) * pitch
    return level_set(nodes, value, pitch, origin, banded=True)


def _near(corners: NDArray[np.float64], shape: NDArray[np.int64], look: Look) -> NDArray[Any]:
    """How far the nodes of a grid are from the nearest triangle, in steps; infinite beyond the band."""
    near = np.full(tuple(shape), np.float32(np.inf))
    for block in np.array_split(corners, 1 + len(corners) // _BLOCK):
        look()
        _distances(block, near, _BAND)
    return near


def _winding_at(points: Points, field: igl.FastWindingNumberBVH, look: Look) -> Floats:
    """The winding number (n,) at points (n, 3)."""
    found = np.empty(len(points))
    for start in range(0, len(points), _BLOCK):
        look()
        found[start : start + _BLOCK] = field.winding_number(points[start : start + _BLOCK], _ACCURACY)
    return found


def _between(near: NDArray[np.float32], field: igl.FastWindingNumberBVH, look: Look) -> NDArray[np.int64]:
    """Nodes (n, 3) of cells with inside and outside at their corners, and of those the surface passes."""
    shape = np.array(near.shape)
    step = _COARSEST
    asked = np.ones(tuple((shape - 1) // step + 1), bool)
    while step > 1:
        inside = np.zeros(asked.shape, np.int8)
        nodes = np.argwhere(asked)
        inside[tuple(nodes.T)] = _winding_at(nodes.astype(np.float64) * step, field, look) > 0.5
        number = _over_cells(np.add, inside)
        mixed = (number > 0) & (number < 8) & _over_cells(np.logical_and, asked)
        # What a cell hides is looked for in its neighbours too.
        cells = binary_dilation(mixed, np.ones((3, 3, 3), bool))
        step //= 2
        asked = np.zeros(tuple((shape - 1) // step + 1), bool)
        for x, y, z in np.ndindex(3, 3, 3):
            view = asked[x : x + 2 * cells.shape[0] : 2, y : y + 2 * cells.shape[1] : 2, z : z + 2 * cells.shape[2] : 2]
            view |= cells
    asked |= near < _BAND
    return np.argwhere(asked)


def _over_cells(join: np.ufunc, nodes: NDArray[Any]) -> NDArray[Any]:
    """The eight corners of every cell of a grid, joined."""
    for axis in range(3):
        whole = [slice(None)] * 3
        low, high = list(whole), list(whole)
        low[axis], high[axis] = slice(None, -1), slice(1, None)
        nodes = join(nodes[tuple(low)], nodes[tuple(high)])
    return nodes


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
