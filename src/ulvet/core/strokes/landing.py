"""Samples of a stroke, found on the surface of a part."""

from collections.abc import Sequence

import numpy as np

from ulvet.core.geometry.mesh import Points, bounds, face_normals
from ulvet.core.geometry.nearest import nearest_on_triangles
from ulvet.core.recipe.anchors import FARTHEST_MOVE_SHARE, Anchor, LostAnchor, project_anchors
from ulvet.core.recipe.step import Part
from ulvet.core.strokes.brush import StrokedMesh

__all__ = ["StrokeSurface"]

_LONG = 4
"""A face whose longest side is so many times the usual is looked at for every sample."""


class StrokeSurface:
    """The surface of a part as a stroke finds it, made ready to find its samples on one after the other."""

    def __init__(self, part: Part, worked: StrokedMesh) -> None:
        self._part, self._worked = part, worked
        mesh = part.mesh
        self._looks = face_normals(mesh)
        self._corners = mesh.vertices[mesh.faces]
        self._strays = FARTHEST_MOVE_SHARE * float(np.ptp(bounds(mesh), axis=0).max()) if len(mesh.faces) else 0.0
        sides = np.linalg.norm(self._corners - np.roll(self._corners, 1, axis=1), axis=2).max(axis=1, initial=0.0)
        usual = _LONG * float(np.median(sides)) if len(sides) else 0.0
        self._long = np.flatnonzero(sides > usual)
        self._reach = usual / np.sqrt(3)

    def of(self, places: Sequence[Anchor]) -> tuple[Points, Points, tuple[LostAnchor, ...]]:
        """Points and normals (k, 3) of the samples that landed, and those that are lost.

        As ``project_anchors``, but quick where the nearest surface looks the right way, as it nearly always does.
        """
        points, normals, lost = [], [], []
        for number, place in enumerate(places):
            point, normal = self._nearest(place)
            if point is None:
                part = self._part
                landed, gone = project_anchors((place,), part.mesh, part.name, part.source)
                lost += [one.model_copy(update={"number": number}) for one in gone]
                if not len(landed):
                    continue
                point = landed[0]
            points.append(point)
            normals.append(normal if place.normal is None else np.array(place.normal, float))
        return np.array(points).reshape(-1, 3), np.array(normals).reshape(-1, 3), tuple(lost)

    def _nearest(self, place: Anchor) -> tuple[Points | None, Points]:
        """The nearest point of the surface, none where it is too far or looks away, and which way it looks."""
        if not len(self._corners):
            return None, np.zeros(3)
        at = np.array(place.point, float)
        # No point of a face is farther from the nearest of its corners than its longest side over the root of three.
        within = self._worked.start_within(at, self._worked.start_nearest(at) + self._reach)
        near = np.union1d(self._worked.faces_round(within), self._long)
        found, away = nearest_on_triangles(at[None], self._corners, near[None])
        k = int(away[0].argmin())
        looks = self._looks[near[k]]
        faces_it = place.normal is None or float(looks @ np.array(place.normal)) > 0
        return (found[0, k] if away[0, k] <= self._strays and faces_it else None), looks
