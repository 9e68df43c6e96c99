"""How the shells of a mesh lie to each other, and some of them dropped."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.crossing import Crossings
from ulvet.core.geometry.face_orientation import (
    WITHIN,
    FaceOrientation,
    enclosure_of,
    open_shell_winding_numbers,
    shell_volumes,
)
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.geometry.topology import Edges

__all__ = ["Loose", "Shells", "shells_in"]

Ints = NDArray[np.int64]
Loose = Literal["specks", "inner-shells", "sealed-void"]
"""Shells that may be dropped without the rest being touched, by the code of their finding."""
_SPECK = 0.01
"""Of the longest side; what is shorter and hangs by nothing is a speck (bench default)."""


@dataclass(frozen=True)
class Shells:
    """The shells of a mesh: ``of`` (m,) the shell of each face, ``volumes`` (count,) signed, mm³.

    ``overlapping`` cross another shell; ``inner`` are closed, look outward and lie wholly inside another; ``voids`` are
    closed, look inward and are enclosed: cavities that nothing leads out of; ``specks`` cross nothing, lie in nothing
    and are next to nothing against the whole. All by the shells' numbers.
    """

    count: int
    of: Ints
    volumes: NDArray[np.float64]
    overlapping: Ints
    inner: Ints
    voids: Ints
    specks: Ints

    def loose(self, which: Loose) -> Ints:
        """The shells of a kind, by their numbers."""
        return {"specks": self.specks, "inner-shells": self.inner, "sealed-void": self.voids}[which]


def shells_in(mesh: Mesh, edges: Edges, winding: FaceOrientation, crossings: Crossings) -> Shells:
    """Sort the shells of a mesh, whose faces are looked at as they are turned."""
    of = winding.shell
    count = len(winding.inverted)
    volumes = shell_volumes(mesh, edges, of, count)
    closed = np.bincount(of, edges.open[edges.of_half].reshape(-1, 3).any(axis=1), count) == 0
    meeting = of[crossings.pairs]
    overlapping = np.unique(meeting[meeting[:, 0] != meeting[:, 1]])
    apart = np.setdiff1d(np.arange(count), overlapping)
    asked = apart[closed[apart]]
    enclosed = enclosure_of(mesh, of, asked, closed)[1] | (open_shell_winding_numbers(mesh, of, asked, closed) > WITHIN)
    sides = _sides(mesh, of, count)
    small = np.flatnonzero(sides < _SPECK * sides.max(initial=0.0))
    return Shells(
        count=count,
        of=of,
        volumes=volumes,
        overlapping=overlapping,
        inner=asked[enclosed & (volumes[asked] > 0)],
        voids=asked[enclosed & (volumes[asked] < 0)],
        specks=np.setdiff1d(np.intersect1d(small, apart), asked[enclosed]),
    )


def _sides(mesh: Mesh, of: Ints, count: int) -> NDArray[np.float64]:
    """The longest side of the box about every shell, (count,) mm."""
    low, high = np.full((count, 3), np.inf), np.full((count, 3), -np.inf)
    corners = mesh.vertices[mesh.faces]
    np.minimum.at(low, of, corners.min(axis=1))
    np.maximum.at(high, of, corners.max(axis=1))
    return np.asarray((high - low).max(axis=1, initial=0.0))
