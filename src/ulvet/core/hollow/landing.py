"""Places that steps drill at: where they landed, and which way is out there."""

import numpy as np

from ulvet.core.geometry.mesh import Points, face_normals
from ulvet.core.geometry.nearest import nearest_on_triangles
from ulvet.core.recipe.anchors import Anchor, LostAnchor, project_anchors
from ulvet.core.recipe.step import Part

__all__ = ["landed"]

_NEAREST = 200
"""Faces among which the one that a point lies on is sought."""


def landed(places: tuple[Anchor, ...], part: Part) -> tuple[list[Anchor], Points, tuple[LostAnchor, ...]]:
    """Anchors that landed, each with the way out of its place, where they landed, and those that are lost."""
    points, lost = project_anchors(places, part.mesh, part.name, part.source)
    missing = {one.number for one in lost}
    landed = [anchor for number, anchor in enumerate(places) if number not in missing]
    normals = face_normals(part.mesh)
    corners = part.mesh.vertices[part.mesh.faces]
    ways = []
    for anchor, point in zip(landed, points, strict=True):
        if anchor.normal is None:
            near = np.abs(corners - point).max(axis=(1, 2)).argsort(kind="stable")[:_NEAREST]
            away = nearest_on_triangles(point[None], corners, near[None])[1][0]
            x, y, z = map(float, normals[near[int(away.argmin())]])
            ways.append(anchor.model_copy(update={"normal": (x, y, z)}))
        else:
            ways.append(anchor)
    return ways, points, lost
