"""Measuring a figure between points picked on it."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import igl  # its module under a copyleft licence is never imported
import numpy as np
import shapely
from scipy.sparse import coo_array
from scipy.sparse.csgraph import dijkstra

from ulvet.core.geometry.mesh import Mesh, Points
from ulvet.core.geometry.nearest import nearest_on_triangles
from ulvet.core.geometry.section import Plane, cut_section, plane_through
from ulvet.core.geometry.topology import edges_of, without_collapsed_faces

__all__ = ["PICKS", "How", "Measurement", "measure_between"]

How = Literal["straight", "surface", "diameter", "angle", "girth"]
PICKS: dict[str, int] = {"straight": 2, "surface": 2, "diameter": 3, "angle": 3, "girth": 1}
"""How many picks each way of measuring takes."""
_MOST_EXACT = 60_000
"""Faces on which the exact shortest way is sought, for time."""
_SLACK = 1.02
"""Times the way along edges within which the exact one has to lie."""


@dataclass(frozen=True)
class Measurement:
    """What was measured, in the mm of the mesh, an angle in degrees; ``why`` it could not be, where it could not."""

    value: float
    why: str = ""


def measure_between(how: How, points: Points, mesh: Mesh, way: Points | None = None) -> Measurement:
    """Measure on a mesh: point to point, along the surface, the circle through three points, the angle at the second of
    three, or the girth, as a tape lies round the outline at a point in the level plane, or across ``way`` (3,).

    ``points`` (k, 3) lie on the surface, as many as ``PICKS`` says; otherwise raises ValueError.
    """
    if len(points) != PICKS[how]:
        raise ValueError(f"This takes {PICKS[how]} picks.")
    if how == "straight":
        return Measurement(float(np.linalg.norm(points[1] - points[0])))
    if how == "surface":
        return _along_surface(points[0], points[1], mesh)
    if how == "diameter":
        return _diameter(points)
    if how == "angle":
        u, v = points[0] - points[1], points[2] - points[1]
        length = float(np.linalg.norm(u) * np.linalg.norm(v))
        if length == 0:
            return Measurement(0.0, "two of the picks are one place")
        return Measurement(float(np.degrees(np.arccos(np.clip(u @ v / length, -1, 1)))))
    return _girth(points[0], mesh, np.array([0.0, 0, 1]) if way is None else way)


def _diameter(points: Points) -> Measurement:
    a, b, c = (float(np.linalg.norm(points[k] - points[(k + 1) % 3])) for k in range(3))
    area = float(np.linalg.norm(np.cross(points[1] - points[0], points[2] - points[0]))) / 2
    if area <= 1e-9 * max(a, b, c) ** 2:
        return Measurement(0.0, "the three picks lie in one line")
    return Measurement(a * b * c / (2 * area))


def _girth(point: Points, mesh: Mesh, normal: Points) -> Measurement:
    plane = plane_through(point, normal)
    # The section plane is crossed by what was given as its way.
    level = Plane(point, plane.across, np.cross(plane.up, plane.across))
    reach = float(np.ptp(mesh.vertices, axis=0).max()) * 2
    outlines = [line for line in cut_section(mesh, level, reach) if len(line) > 3]
    if not outlines:
        return Measurement(0.0, "nothing closes round there")
    at = shapely.Point(0, 0)
    nearest = min(outlines, key=lambda line: shapely.LineString(line).distance(at))
    return Measurement(float(shapely.MultiPoint(nearest).convex_hull.length))


def _along_surface(a: Points, b: Points, mesh: Mesh) -> Measurement:
    """The shortest way over the surface: first along edges, then exactly (Mitchell, Mount and Papadimitriou 1987) on
    the faces that the exact way can lie on."""
    mesh, (first, last) = _with_corners(without_collapsed_faces(mesh), (a, b))
    ends = edges_of(mesh).ends
    length = np.linalg.norm(mesh.vertices[ends[:, 0]] - mesh.vertices[ends[:, 1]], axis=1)
    n = len(mesh.vertices)
    graph = coo_array((np.maximum(length, 1e-12), (ends[:, 0], ends[:, 1])), shape=(n, n)).tocsr()
    far = float(dijkstra(graph, directed=False, indices=first)[last])
    if not np.isfinite(far):
        return Measurement(0.0, "no surface joins the two picks")
    away = np.linalg.norm(mesh.vertices - a, axis=1) + np.linalg.norm(mesh.vertices - b, axis=1)
    faces = mesh.faces[(away <= far * _SLACK)[mesh.faces].any(axis=1)]
    if len(faces) > _MOST_EXACT:
        return Measurement(far, "told along edges, since the way is long: at most a few percent too long")
    used, local = np.unique(faces, return_inverse=True)
    where = np.searchsorted(used, [first, last])
    none = np.zeros(0, np.int64)
    exact = igl.exact_geodesic(
        np.array(mesh.vertices[used]), local.reshape(-1, 3).astype(np.int64), where[:1], none, where[1:], none
    )
    value = float(np.asarray(exact).ravel()[0])
    return Measurement(min(value, far) if np.isfinite(value) and value > 0 else far)


def _with_corners(mesh: Mesh, points: Sequence[Points]) -> tuple[Mesh, list[int]]:
    """The mesh with a corner at each point, put into the face nearest to it."""
    vertices, faces = np.array(mesh.vertices), np.array(mesh.faces)
    corners = []
    for point in points:
        shape = vertices[faces]
        middle, reach = shape.mean(axis=1), np.linalg.norm(shape - shape.mean(axis=1)[:, None], axis=2).max(axis=1)
        away = np.linalg.norm(middle - point, axis=1)
        near = np.flatnonzero(away - reach <= (away + reach).min())
        _, gap = nearest_on_triangles(point[None], shape, near[None])
        face = near[gap[0].argmin()]
        a, b, c = faces[face]
        new = len(vertices)
        vertices = np.concatenate([vertices, point[None]])
        faces = np.concatenate([np.delete(faces, face, axis=0), np.array([[a, b, new], [b, c, new], [c, a, new]])])
        corners.append(new)
    return Mesh(vertices, faces.astype(np.int32)), corners
