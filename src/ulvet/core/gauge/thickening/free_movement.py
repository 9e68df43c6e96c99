"""How far vertices can move before faces cross or fold over."""

import numpy as np
from numpy.typing import NDArray

from ulvet.core.gauge.thickening.displacement import faded
from ulvet.core.geometry.crossing import crossing_faces
from ulvet.core.geometry.mesh import Floats, Mesh, Points, face_normals, faces_in_box
from ulvet.core.geometry.topology import edges_of, face_shells

__all__ = ["NewCrossings", "free_share"]

Ints = NDArray[np.int64]
Mask = NDArray[np.bool_]
_HOLDS = 8  # rounds of holding what would cross, before nothing moves at all
_FOLDS = 0.5
"""Cosine of the turn from which on a face is held to fold rather than to bend (bench default)."""


class NewCrossings:
    """Counts the face pairs that cross after vertices moved and did not cross before.

    A pair of shells that already crossed each other is ignored as a whole.
    """

    def __init__(self, mesh: Mesh, shift: Points) -> None:
        self._mesh = mesh
        moving = mesh.vertices[mesh.faces[(shift[mesh.faces] != 0).any(axis=(1, 2))]].reshape(-1, 3)
        farthest = np.abs(shift).max(initial=0.0)
        self._near = faces_in_box(mesh, moving.min(axis=0) - farthest, moving.max(axis=0) + farthest)
        before = self._pairs(mesh.vertices)
        self._shell = face_shells(mesh, edges_of(mesh))[1] if len(before) else np.zeros(len(mesh.faces), np.int64)
        self._known = [self._keys(before), self._keys(self._shell[before])]

    def after(self, shift: Points) -> Ints:
        """Such pairs (c, 2) after a movement that goes no farther than the first."""
        pairs = self._pairs(self._mesh.vertices + shift)
        shells = self._shell[pairs]
        known = np.isin(self._keys(pairs), self._known[0])
        known |= (shells[:, 0] != shells[:, 1]) & np.isin(self._keys(shells), self._known[1])
        return pairs[~known]

    def _pairs(self, vertices: Points) -> Ints:
        return self._near[crossing_faces(Mesh(vertices, self._mesh.faces[self._near])).pairs]

    def _keys(self, pairs: Ints) -> Ints:
        pairs = np.sort(pairs, axis=1).astype(np.int64)
        return pairs[:, 0] * len(self._mesh.faces) + pairs[:, 1]


def free_share(mesh: Mesh, shift: Points, soft: float, held: Mask) -> tuple[Floats, Mask]:
    """Give the share (n,) of its movement (n, 3) that each vertex can make without new crossings, and the vertices (n,)
    that cannot move.

    The latter are those ``held`` before, those of faces that would flip, and those whose faces still cross. The share
    rises to one over ``soft`` mm around them.
    """
    crossings = NewCrossings(mesh, shift)
    held = held | _turned_over(mesh, (1 - faded(mesh, held.astype(float), soft))[:, None] * shift)
    for _ in range(_HOLDS):
        share = 1 - faded(mesh, held.astype(float), soft)
        pairs = crossings.after(share[:, None] * shift)
        if not len(pairs):
            return share, held
        held[mesh.faces[pairs]] = True
    return np.zeros(len(held)), held


def _turned_over(mesh: Mesh, shift: Points) -> Mask:
    """Vertices (n,) of faces that a movement turns so far that they would fold."""
    after = face_normals(Mesh(mesh.vertices + shift, mesh.faces))
    turned = np.einsum("ij,ij->i", face_normals(mesh), after) < _FOLDS
    turned &= (shift[mesh.faces] != 0).any(axis=(1, 2))
    over = np.zeros(len(mesh.vertices), bool)
    over[mesh.faces[turned]] = True
    return over
