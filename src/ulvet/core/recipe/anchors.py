"""Points picked on a surface, found again on whatever the surface has become."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, field_validator

from ulvet.core.geometry.mesh import Mesh, Points, bounds, face_normals
from ulvet.core.geometry.nearest import nearest_on_triangles
from ulvet.core.lengths import FigureMM
from ulvet.core.recipe.stance import Vector, unit_vector

__all__ = [
    "FARTHEST_MOVE_SHARE",
    "Anchor",
    "Frame",
    "LostAnchor",
    "anchors_on_faces",
    "anchors_on_skin",
    "frame_of",
    "project_anchors",
]

FARTHEST_MOVE_SHARE = 0.03
"""Farther than this share of a part's longest side an anchor is lost (bench default)."""
_ON_IT = 1e-6
"""Distance, of the longest side, within which an anchor lies on a surface (rounding)."""

Ints = NDArray[np.int64]
Place = tuple[FigureMM, FigureMM, FigureMM]
Frame = tuple[Place, Place, Place, Place]
"""The box about a mesh as it was made, wherever it was then stood: its lowest corner and the three next to it, across,
deep and up."""


class Anchor(BaseModel):
    """A point picked on a surface: in figure mm, with the outward normal there and the source it was picked on.

    ``normal`` is of length one; without one, any side will do. ``source`` is the hash of the source's mesh.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    point: Place
    normal: Vector | None = None
    source: str = Field(default="", max_length=64)

    @field_validator("normal")
    @classmethod
    def _unit(cls, value: Vector | None) -> Vector | None:
        return unit_vector(value)

    @classmethod
    def at(cls, point: Points, normal: Points | None, source: str) -> "Anchor":
        """An anchor from a point (3,) in figure mm and its normal (3,)."""
        x, y, z = (FigureMM(v) for v in point)
        if normal is None or not np.any(normal):
            return cls(point=(x, y, z), source=source)
        return cls(point=(x, y, z), normal=(float(normal[0]), float(normal[1]), float(normal[2])), source=source)


def frame_of(corners: Sequence[Sequence[float]] | Points) -> Frame:
    """A frame from its corners (4, 3), figure mm."""
    low, across, deep, up = ((FigureMM(x), FigureMM(y), FigureMM(z)) for x, y, z in corners)
    return low, across, deep, up


class LostAnchor(BaseModel):
    """An anchor that found no surface: its number in its step, and the nearest surface that looks its way."""

    model_config = ConfigDict(frozen=True)

    number: int
    part: str
    nearest: Anchor
    away: FigureMM
    limit: FigureMM


def project_anchors(
    anchors: Sequence[Anchor], mesh: Mesh, part: str, source: str
) -> tuple[Points, tuple[LostAnchor, ...]]:
    """Anchors on the surface of a part: points (k, 3) of those that landed, in order, and those that are lost.

    An anchor lands on the nearest surface that looks less than a right angle away from its normal; it is lost where
    that is farther than ``FARTHEST_MOVE_SHARE`` of the part's longest side. ``part`` and ``source`` are what the mesh
    is of.
    """
    points, _, lost = anchors_on_skin(anchors, mesh, part, source)
    return points, lost


def anchors_on_skin(
    anchors: Sequence[Anchor], mesh: Mesh, part: str, source: str
) -> tuple[Points, Points, tuple[LostAnchor, ...]]:
    """As ``project_anchors``, with the outward normal (k, 3) of the face that each landed on."""
    points, faces, lost = anchors_on_faces(anchors, mesh, part, source)
    return points, face_normals(mesh)[faces], lost


def anchors_on_faces(
    anchors: Sequence[Anchor], mesh: Mesh, part: str, source: str
) -> tuple[Points, Ints, tuple[LostAnchor, ...]]:
    """As ``project_anchors``, with the face (k,) that each landed on."""
    corners, normals = mesh.vertices[mesh.faces], face_normals(mesh)
    a, b, c = (corners[:, k] for k in range(3))
    low, high = np.minimum(np.minimum(a, b), c), np.maximum(np.maximum(a, b), c)
    longest = float(np.ptp(bounds(mesh), axis=0).max()) if len(mesh.faces) else 0.0
    landed: list[Points] = []
    faces: list[int] = []
    lost: list[LostAnchor] = []
    for number, anchor in enumerate(anchors):
        point = np.array(anchor.point, dtype=float)
        # A picked corner may look where none of its faces does, so what lies on the surface has landed.
        best = _nearest(point, corners, low, high, np.ones(len(corners), bool))
        if anchor.normal is not None and (best is None or best[2] > _ON_IT * longest):
            best = _nearest(point, corners, low, high, normals @ np.array(anchor.normal) > 0)
        if best is not None and best[2] <= FARTHEST_MOVE_SHARE * longest:
            landed.append(best[0])
            faces.append(best[1])
            continue
        at, face, away = best or (point, -1, float(np.inf))
        if face < 0:
            at, away = corners.reshape(-1, 3).mean(axis=0) if len(corners) else point, longest
        lost.append(
            LostAnchor(
                number=number,
                part=part,
                nearest=Anchor.at(at, normals[face] if face >= 0 else None, source),
                away=FigureMM(away),
                limit=FigureMM(FARTHEST_MOVE_SHARE * longest),
            )
        )
    return np.array(landed).reshape(-1, 3), np.array(faces, dtype=np.int64), tuple(lost)


def _nearest(
    point: Points, corners: Points, low: Points, high: Points, may: np.ndarray[tuple[int], np.dtype[np.bool_]]
) -> tuple[Points, int, float] | None:
    """Nearest point on the faces that may be, its face and distance; None where there is none."""
    which = np.flatnonzero(may)
    if not len(which):
        return None
    gap = np.maximum(np.maximum(low[which] - point, point - high[which]), 0)
    least = np.einsum("ij,ij->i", gap, gap)
    # No face is farther than its first corner, none nearer than its box.
    first = corners[which, 0] - point
    bound = np.einsum("ij,ij->i", first, first).min()
    near = which[least <= bound * (1 + 1e-12)]
    at, away = nearest_on_triangles(point[None], corners, near[None])
    k = int(away[0].argmin())
    return at[0, k], int(near[k]), float(away[0, k])
