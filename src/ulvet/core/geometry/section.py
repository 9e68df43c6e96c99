"""Cutting a mesh with a plane, for drawings."""

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Mesh, Points

__all__ = ["Plane", "cut_section", "plane_through"]


@dataclass(frozen=True)
class Plane:
    """A drawing plane: ``across`` and ``up`` are its unit directions, (3,), ``origin`` its middle in figure mm."""

    origin: Points
    across: Points
    up: Points


def plane_through(point: Points, normal: Points | None = None, along: Points | None = None) -> Plane:
    """The plane that shows a place best: through its surface normal, drawn upward, and along its length.

    Without a normal the plane stands upright, facing the front.
    """
    up = np.array([0.0, 0, 1]) if normal is None else _unit(np.asarray(normal, float))
    for way in (along, (1.0, 0, 0), (0.0, 1, 0), (0.0, 0, 1)):
        if way is None:
            continue
        flat = np.asarray(way, float) - np.dot(way, up) * up
        if np.linalg.norm(flat) > 0.2:
            return Plane(np.asarray(point, float), _unit(flat), up)
    raise ValueError("Three axes cannot all lie along one normal.")


def cut_section(mesh: Mesh, plane: Plane, reach: float) -> list[NDArray[np.float64]]:
    """Outlines (n, 2) in the plane's directions, from its origin, that pass within ``reach`` mm of it.

    Outlines run with the solid on their left, and are whole: one that closes ends where it begins, one that does not
    shows where the surface is open. A vertex exactly in the plane counts as above it.
    """
    normal = np.cross(plane.across, plane.up)
    height = (mesh.vertices - plane.origin) @ normal
    below = height < 0
    crossing = below[mesh.faces].sum(axis=1) % 3 > 0
    faces = mesh.faces[crossing]
    if not len(faces):
        return []
    sides = np.stack([faces, np.roll(faces, -1, axis=1)], axis=2)
    starts_below, ends_below = below[sides[:, :, 0]], below[sides[:, :, 1]]
    rising = sides[starts_below & ~ends_below]
    falling = sides[~starts_below & ends_below]
    # From the lower end whichever face asks, so that neighbours meet in the same point.
    head = _crossings(mesh, height, rising, plane)
    tail = _crossings(mesh, height, falling[:, ::-1], plane)
    lines = shapely.linestrings(np.stack([tail, head], axis=1))
    whole = shapely.get_parts(shapely.line_merge(shapely.multilinestrings(lines), directed=True))
    boxes = shapely.bounds(whole)
    near = (boxes[:, :2] < reach).all(axis=1) & (boxes[:, 2:] > -reach).all(axis=1)
    return [shapely.get_coordinates(line) for line in whole[near]]


def _crossings(mesh: Mesh, height: Points, edges: NDArray[np.int32], plane: Plane) -> Points:
    low, high = edges[:, 0], edges[:, 1]
    share = (height[low] / (height[low] - height[high]))[:, None]
    points = mesh.vertices[low] * (1 - share) + mesh.vertices[high] * share - plane.origin
    return np.stack([points @ plane.across, points @ plane.up], axis=1)


def _unit(vector: Points) -> Points:
    return np.asarray(vector / np.linalg.norm(vector))
