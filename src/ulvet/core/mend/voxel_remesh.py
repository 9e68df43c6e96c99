"""A mesh made anew by volume: what is inside is asked on a grid, and a new surface drawn round it."""

from typing import Any

import igl  # its module under a copyleft licence is never imported
import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import binary_dilation

from ulvet.core.geometry.level_set import level_set
from ulvet.core.geometry.mesh import Floats, Mesh, Points, bounds
from ulvet.core.geometry.voxels import ASKEW, BLOCK, Look, surface_distances, unhurried, winding_depths

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


class GridTooFine(ValueError):
    """A grid that would have too many nodes; its text is for the user."""


def voxel_remesh(mesh: Mesh, pitch: float, look: Look = unhurried) -> Mesh:
    """The surface round all that a closed mesh encloses, drawn on a grid of ``pitch`` mm.

    Inside is where upright rays have entered more often than left, so shells in and through each other become one, and
    cavities stay. Corners sharper than the pitch are rounded by about half of it. Raises GridTooFine.
    """
    low, high = bounds(mesh)
    return voxel_remesh_box(mesh, pitch, low - 3 * pitch, high + 3 * pitch, look)


def voxel_remesh_box(mesh: Mesh, pitch: float, low: Points, high: Points, look: Look = unhurried) -> Mesh:
    """The same for what of it lies in a box, whose sides close it.

    Raises GridTooFine.
    """
    origin = low - (1 - ASKEW) * pitch
    shape = np.ceil((high - origin) / pitch).astype(np.int64) + 2
    if float(np.prod(shape.astype(float))) > _MOST_NODES:
        raise GridTooFine(
            f"A grid of {pitch:g} mm over {', '.join(f'{side:.0f}' for side in high - low)} mm has too many nodes: "
            "give a coarser pitch; nothing was changed."
        )
    corners = np.ascontiguousarray((mesh.vertices[mesh.faces] - origin) / pitch)
    near = surface_distances(corners, shape, _BAND, look)
    inside = winding_depths(corners, shape)
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


def voxel_remesh_open(mesh: Mesh, pitch: float, look: Look = unhurried) -> Mesh:
    """The same of a mesh with open rims: inside is where its winding number (Jacobson et al. 2013; evaluated after
    Barill et al. 2018) is above a half, so that a surface is drawn over each rim about as it would be stretched there.

    The number is asked only in a narrow band: on a grid eight times as coarse everywhere, from there on about what
    separates inside from outside, and about the surface. Raises GridTooFine.
    """
    low, high = bounds(mesh)
    origin = low - (4 - ASKEW) * pitch
    shape = np.ceil((high - origin) / pitch).astype(np.int64) + 4
    shape += -shape % _COARSEST + 1
    if float(np.prod(shape.astype(float))) > _MOST_NODES:
        raise GridTooFine(f"A grid of {pitch:g} mm has too many nodes here: give a coarser pitch; nothing was changed.")
    corners = np.ascontiguousarray((mesh.vertices[mesh.faces] - origin) / pitch)
    near = surface_distances(corners, shape, _BAND, look)
    field = igl.FastWindingNumberBVH()
    field.init((mesh.vertices - origin) / pitch, mesh.faces.astype(np.int64))
    nodes = _between(near, field, look)
    winding = _winding_at(nodes.astype(np.float64), field, look)
    away = np.minimum(near[tuple(nodes.T)], _BAND).astype(np.float64)
    # Beside the surface the number jumps and this is the distance; over a rim it passes a half without a jump.
    value = (1 - 2 * np.clip(winding, 0, 1)) * np.maximum(away, _ON) * pitch
    return level_set(nodes, value, pitch, origin, banded=True)


def _winding_at(points: Points, field: igl.FastWindingNumberBVH, look: Look) -> Floats:
    """The winding number (n,) at points (n, 3)."""
    found = np.empty(len(points))
    for start in range(0, len(points), BLOCK):
        look()
        found[start : start + BLOCK] = field.winding_number(points[start : start + BLOCK], _ACCURACY)
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
