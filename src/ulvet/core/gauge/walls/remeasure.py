"""Walls measured again near places that were worked on."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulvet.core.gauge.walls.thickness import LocalThickness, measure_near
from ulvet.core.gauge.walls.thin_places import ThinPlace, thin_places
from ulvet.core.geometry.mesh import Floats, Mesh, Points, faces_in_box

__all__ = ["REACHED", "ThinNear", "faces_around", "thin_near", "thinnest_near"]

REACHED = 0.99
"""Share of the wall asked for at which it counts as reached: what facets and rounding take (bench default)."""
_ALSO = 1.1
"""Times the limit up to which walls are measured, so that what is beside a thin place is known (bench default)."""


@dataclass(frozen=True)
class ThinNear:
    """The thin places under a limit near some points, the walls a little over it that were measured there, and which of
    their samples (s,) are near enough to count."""

    limit: float
    found: list[ThinPlace]
    local: LocalThickness
    near: NDArray[np.bool_]

    @property
    def least(self) -> float:
        """The least wall, at most the limit, mm."""
        return min([place.wall for place in self.found], default=self.limit)

    @property
    def surface(self) -> float:
        """How much surface these places have in all, mm²."""
        return sum(float(self.local.thickness.areas[place.samples].sum()) for place in self.found)

    def better_than(self, before: "ThinNear") -> bool:
        """Whether less surface is thin, and none of it thinner."""
        return self.least >= before.least and self.surface < before.surface


def thin_near(mesh: Mesh, limit: float, places: Points, reach: float) -> ThinNear:
    """Find places thinner than ``limit`` within ``reach`` of some points (p, 3), figure mm.

    As in a finding, a place is at least as long as the limit; single samples do not count.
    """
    tree = cKDTree(places)
    asked = faces_around(mesh, tree.query(mesh.vertices)[0] <= reach)
    # What is near may be amid a face whose corners are not.
    about = faces_in_box(mesh, places.min(axis=0) - reach, places.max(axis=0) + reach)
    asked[about[_longest(mesh, about) > reach]] = True
    local = measure_near(mesh, asked, _ALSO * limit)
    piece, thickness = local.piece, local.thickness
    near = tree.query(thickness.points)[0] <= reach
    # Small faces at near vertices count whole, since vertices in a crease tell what is measured inside of them.
    small = _longest(piece, np.arange(len(piece.faces))) <= limit
    small &= near[: len(piece.vertices)][piece.faces].any(axis=1)
    near[len(piece.vertices) :] |= small[thickness.face_of]
    found = thin_places(piece, replace(thickness, walls=np.where(near, thickness.walls, np.inf)), limit)
    return ThinNear(limit, found, local, near)


def thinnest_near(mesh: Mesh, limit: float, places: Points, reach: float) -> float | None:
    """The least wall under ``limit`` within ``reach`` of some places (p, 3), mm; None where there is none."""
    near = thin_near(mesh, limit, places, reach)
    return near.least if near.found else None


def _longest(mesh: Mesh, faces: NDArray[np.int64]) -> Floats:
    """The longest edge of some faces (f,), mm."""
    corners = mesh.vertices[mesh.faces[faces]]
    return np.asarray(np.linalg.norm(np.roll(corners, -1, axis=1) - corners, axis=2).max(axis=1))


def faces_around(mesh: Mesh, vertices: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Faces (m,) at some vertices (n,), and those next to them."""
    beside = vertices.copy()
    beside[mesh.faces[vertices[mesh.faces].any(axis=1)]] = True
    return np.asarray(beside[mesh.faces].any(axis=1))
