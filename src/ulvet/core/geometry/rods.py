"""Round rods with any axis, to drill with and to plug with."""

import manifold3d
import numpy as np

from ulvet.core.geometry.mesh import Points
from ulvet.core.geometry.solids import Body

__all__ = ["ROD_SIDES", "rod_body", "tangents_of"]

ROD_SIDES = 48
"""Sides of a drilled hole and of a base: 0.2 % less wide than a circle."""


def tangents_of(normals: Points) -> tuple[Points, Points]:
    """Give two unit vectors (p, 3) perpendicular to each normal (p, 3) and to each other."""
    helper = np.zeros_like(normals)
    helper[np.arange(len(normals)), np.abs(normals).argmin(axis=1)] = 1
    u = np.cross(normals, helper)
    u /= np.maximum(np.linalg.norm(u, axis=1), 1e-300)[:, None]
    return u, np.cross(normals, u)


def rod_body(at: Points, way: Points, radius: float, length: float, end_radius: float | None = None) -> Body:
    """A round rod from a point (3,) on along a unit vector (3,), mm; tapered where its end has another radius."""
    u, v = (axis[0] for axis in tangents_of(way[None]))
    turn = np.stack([u, v, way] if np.dot(np.cross(u, v), way) > 0 else [v, u, way], axis=1)
    last = radius if end_radius is None else end_radius
    return manifold3d.Manifold.cylinder(length, radius, last, circular_segments=ROD_SIDES).transform(
        np.hstack([turn, at[:, None]])
    )
