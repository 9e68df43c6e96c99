"""The spaces inside a part: shells that look inward, and those that openings lead out of."""

from collections.abc import Sequence
from dataclasses import dataclass

import igl  # its module under a copyleft licence is never imported
import manifold3d
import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Mesh, Points, bounds, flipped, volume
from ulvet.core.geometry.rods import rod_body
from ulvet.core.geometry.solids import CannotJoin, mesh_of, shells_of, solids_of
from ulvet.core.recipe.openings import Opening

__all__ = ["Mouth", "Space", "lies_in", "mouths_of", "spaces_of"]

_WIDER = 0.1
"""Mm by which a disc that shuts an opening is wider than it, so that it reaches into the wall all round."""
_FROM, _TO = 0.3, 1.0
"""Shares of the wall between which that disc lies."""


@dataclass(frozen=True)
class Mouth:
    """An opening in mm of the mesh it is in: the middle of its mouth (3,), the way out (3,), its diameter and the wall
    it goes through."""

    point: Points
    way: Points
    diameter: float
    wall: float

    @property
    def inner(self) -> Points:
        """The middle of its inner end."""
        return np.asarray(self.point - self.way * self.wall)


@dataclass(frozen=True)
class Space:
    """A space as a closed surface that looks outward, mm, and the numbers of the mouths that lead out of it."""

    mesh: Mesh
    mouths: tuple[int, ...]

    @property
    def sealed(self) -> bool:
        """Whether nothing leads out of it."""
        return not self.mouths

    @property
    def millilitres(self) -> float:
        """Its volume, of a mesh in print mm."""
        return volume(self.mesh) / 1000


def mouths_of(openings: Sequence[Opening], factor: float) -> list[Mouth]:
    """The openings of a part in print mm."""
    return [
        Mouth(np.array(one.point) * factor, np.array(one.way), float(one.diameter), float(one.wall)) for one in openings
    ]


def spaces_of(mesh: Mesh, mouths: Sequence[Mouth] = ()) -> list[Space]:
    """The spaces of a closed mesh, the largest first; those with mouths are found by shutting these.

    A mesh that does not close has none that could be told.
    """
    if mouths:
        try:
            (solid,) = solids_of(mesh)
        except CannotJoin:
            return []
        discs = [
            rod_body(m.point - m.way * m.wall * _FROM, -m.way, m.diameter / 2 + _WIDER, m.wall * (_TO - _FROM))
            for m in mouths
        ]
        mesh = mesh_of(manifold3d.Manifold.batch_boolean([solid.body, *discs], manifold3d.OpType.Add))[0]
    inner = [(flipped(shell), -filled) for shell in shells_of(mesh) if (filled := volume(shell)) < 0]
    ends = np.array([mouth.inner for mouth in mouths]).reshape(-1, 3)
    found = []
    for shell, _ in sorted(inner, key=lambda one: -one[1]):
        within = _near_or_in(shell, ends, [mouth.diameter for mouth in mouths])
        found.append(Space(shell, tuple(map(int, np.flatnonzero(within)))))
    return found


def lies_in(space: Mesh, points: Points) -> NDArray[np.bool_]:
    """Which points (n, 3) lie inside a closed surface, by their winding number (Jacobson et al. 2013)."""
    low, high = bounds(space)
    inside = ((points >= low) & (points <= high)).all(axis=1)
    if inside.any():
        number = igl.fast_winding_number(space.vertices, space.faces.astype(np.int64), points[inside])
        inside[inside] = number > 0.5
    return np.asarray(inside)


def _near_or_in(space: Mesh, ends: Points, diameters: Sequence[float]) -> NDArray[np.bool_]:
    """Which inner ends of mouths lie in a space or on its wall."""
    if not len(ends):
        return np.zeros(0, bool)
    square, _, _ = igl.point_mesh_squared_distance(ends, space.vertices, space.faces.astype(np.int64))
    return np.asarray(lies_in(space, ends) | (square < (np.array(diameters) / 2 + _WIDER) ** 2))
