"""The inscribed sphere at a point of a surface, found by rays."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import (
    Floats,
    Mesh,
    Points,
)
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.rods import tangents_of

__all__ = ["THICK_SHARE", "Ints", "Skin", "walls_at"]

Ints = NDArray[np.int64]
_CONE = np.deg2rad(14.0)
"""Angle (radians) of the cone of inward rays, 14° (bench default)."""
_ROUND = 6
"""Rays of that cone."""
_OPPOSED, _OPPOSED_ASLANT = np.cos(np.deg2rad(120.0)), np.cos(np.deg2rad(150.0))
"""Cosines up to which the skin that a ray meets faces back, 120° for a straight ray and 150° for a slanting one."""
_AIMED = 2
"""Times that a ray is aimed anew at where the sphere would touch."""
_STRAIGHT = -np.cos(np.deg2rad(4.0))
"""Cosine from which the two sides are parallel and the straight ray is enough, 4°."""
_HIDDEN = 1.05
"""Times the wall within which another sphere counts as no larger (rounding of rays)."""
THICK_SHARE = 0.08
"""Wall, of the figure's longest side, beyond which the straight ray alone is asked (bench default)."""
_CLEARLY_LESS = 0.85
"""Share of the straight wall under which a slanting one counts (bench default)."""


@dataclass(frozen=True)
class Skin:
    """A surface with the normal at each vertex (n, 3), and which of its vertices have one worth following."""

    mesh: Mesh
    rays: Rays
    at_vertices: Points
    smooth: NDArray[np.bool_]
    whole: bool
    """Whether what a ray does not meet is not there, rather than farther than the piece reaches."""

    def normals_at(self, points: Points, faces: Ints) -> Points:
        """Normals at points (p, 3) of faces (p,): between those at the corners where all of them are smooth, so that
        facets of something round count as round."""
        normals = self.rays.normals[faces]
        corners = self.mesh.faces[faces]
        round_ones = np.flatnonzero(self.smooth[corners].all(axis=1) & (faces >= 0))
        a, b, c = (self.mesh.vertices[corners[round_ones, k]] for k in range(3))
        across, over = np.cross(b - a, c - a), points[round_ones] - a
        square = np.maximum(np.einsum("ij,ij->i", across, across), 1e-300)
        v = np.clip(np.einsum("ij,ij->i", np.cross(over, c - a), across) / square, 0, 1)
        w = np.clip(np.einsum("ij,ij->i", np.cross(b - a, over), across) / square, 0, 1)
        weights = np.stack([np.clip(1 - v - w, 0, 1), v, w], axis=1)
        between = np.einsum("pk,pkx->px", weights, self.at_vertices[corners[round_ones]])
        normals[round_ones] = between / np.maximum(np.linalg.norm(between, axis=1), 1e-300)[:, None]
        return normals


def walls_at(skin: "Skin", points: Points, normals: Points) -> tuple[Floats, Ints]:
    """Give the wall and the opposite face, (p,) each.

    It casts the straight ray first, then rays aimed at where the sphere would touch, and the cone only where neither
    settles it.
    """
    walls, across = _straight(skin, points, normals)
    asked = np.flatnonzero(~(walls > THICK_SHARE * skin.rays.size) | ((across < 0) & skin.whole))
    u, v = tangents_of(normals[asked])
    inward, straight = -np.cos(_CONE) * normals[asked], walls[asked]
    for turn in np.arange(_ROUND) * 2 * np.pi / _ROUND:
        ways = inward + np.sin(_CONE) * (np.cos(turn) * u + np.sin(turn) * v)
        sphere, face, _ = _spheres(skin, points[asked], normals[asked], ways, _OPPOSED_ASLANT)
        better = (sphere < _CLEARLY_LESS * straight) & (sphere < walls[asked])
        walls[asked[better]], across[asked[better]] = sphere[better], face[better]
    return walls, across


def _straight(skin: "Skin", points: Points, normals: Points) -> tuple[Floats, Ints]:
    """Wall and face by the straight ray; where the sphere that touches the plane there would touch it far from where
    the ray went, by a ray to that place, and again from there: the surface may have curved away."""
    walls, across, facing = _spheres(skin, points, normals, -normals, _OPPOSED)
    for _ in range(_AIMED):
        bent = np.einsum("ij,ij->i", normals, facing) > _STRAIGHT
        asked = np.flatnonzero((across >= 0) & bent)
        ways = facing[asked] - normals[asked]
        ways /= np.linalg.norm(ways, axis=1)[:, None]
        sphere, face, looks = _spheres(skin, points[asked], normals[asked], ways, _OPPOSED)
        # What lies farther was hidden by what is nearer, and does not bound the sphere.
        nearer = sphere < _HIDDEN * walls[asked]
        kept = asked[nearer]
        walls[kept], across[kept], facing[kept] = sphere[nearer], face[nearer], looks[nearer]
    return walls, across


def _spheres(skin: "Skin", points: Points, normals: Points, ways: Points, most: float) -> tuple[Floats, Ints, Points]:
    """Diameter of the sphere that touches at each point and passes through where a ray along each way leaves by an
    opposed face, that face and how the surface looks there; inf and -1 where there is none."""
    rays = skin.rays
    distance, face = rays.leaves(points - normals * rays.grain, ways)
    opposed = (face >= 0) & (np.einsum("ij,ij->i", normals, rays.normals[face]) <= most)
    distance = np.where(opposed, distance, 0.0) + rays.grain
    facing = skin.normals_at(points + distance[:, None] * ways, face)
    cosine = np.maximum(-np.einsum("ij,ij->i", normals, ways), 1e-3)
    return np.where(opposed, distance / cosine, np.inf), np.where(opposed, face, -1), facing
