"""How much of each wall sanding removes."""

from dataclasses import replace

import numpy as np

from ulvet.core.gauge.walls.thickness import Thickness
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.topology import edges_of, face_shells

__all__ = ["sanded"]

_ROOM = 2.0
"""Print mm before a surface that a sanding stick needs to get there (bench default)."""


def sanded(mesh: Mesh, thickness: Thickness, taken: float, factor: float, most: float) -> Thickness:
    """The thickness once ``taken`` figure mm are sanded off wherever a stick gets to; walls over ``most`` stay.

    A side is sanded when there is 2 mm of room before it, and it is not that of a cavity which is shut.
    """
    thin = np.flatnonzero((thickness.walls < most + 2 * taken) & ~thickness.buried & (thickness.across >= 0))
    if taken <= 0 or not len(thin):
        return thickness
    rays = Rays(mesh)
    outside = _outside(mesh)
    own, normals = thickness.points[thin], thickness.normals[thin]
    facing = rays.normals[thickness.across[thin]]
    there = own - normals * thickness.walls[thin, None]
    n = len(mesh.vertices)
    face_at = np.empty(n, np.int64)
    face_at[mesh.faces.ravel()] = np.repeat(np.arange(len(mesh.faces)), 3)
    face = np.where(
        thin < n,
        face_at[np.minimum(thin, n - 1)],
        thickness.face_of[np.maximum(thin - n, 0)] if len(thickness.face_of) else 0,
    )
    sides = np.zeros(len(thin))
    for points, ways, faces in ((own, normals, face), (there, facing, thickness.across[thin])):
        free = rays.first(points + ways * 2 * rays.grain, ways)[0] * factor >= _ROOM
        sides += free & outside[faces]
    walls = thickness.walls.copy()
    walls[thin] = np.maximum(walls[thin] - sides * taken, 0)
    return replace(thickness, walls=walls)


def _outside(mesh: Mesh) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    """Which faces (m,) are of no cavity: of shells that enclose something rather than leave it out."""
    count, shell = face_shells(mesh, edges_of(mesh))
    corners = mesh.vertices[mesh.faces]
    solid = np.bincount(shell, np.einsum("ij,ij->i", corners[:, 0], mesh.cross) / 6, count)
    return np.asarray(solid[shell] > 0)
