"""Walls grown where room is short: nothing is moved through anything, and what is missing is added as solid."""

import manifold3d
import numpy as np
from numpy.typing import NDArray
from scipy.spatial import ConvexHull

from ulvet.core.gauge.growing import faded
from ulvet.core.join.tidying import tidied
from ulvet.core.mend.crossing import crossing_faces
from ulvet.core.mend.faces import zero_area_faces
from ulvet.core.mesh import Floats, Mesh, Points, face_normals, faces_in_box
from ulvet.core.solids import CannotJoin, mesh_of, solids_of
from ulvet.core.tolerances import BENCH_TOLERANCES
from ulvet.core.topology import edges_of, face_shells

__all__ = ["Crossings", "free_share", "padded"]

Ints = NDArray[np.int64]
Mask = NDArray[np.bool_]
_HOLDS = 8  # rounds of holding what would cross, before nothing moves at all
_FOLDS = 0.5
"""Cosine of the turn from which on a face is held to fold rather than to bend (bench default)."""
_FLAT = BENCH_TOLERANCES.zero_area_height
_SMOOTH = 0.003
"""Share of what is added by which its surface may be off, so that it has fewer faces (bench default)."""
_MOST_FACES = 3_000
"""Faces round which material is added: the union of more takes longer than a step should (bench default)."""


def _ball() -> Points:
    """Corners (42, 3) of a solid that holds a ball of radius one: those of an icosahedron, and its edges' middles."""
    golden = (1 + 5**0.5) / 2
    few = np.array([np.roll([0, a, b], k) for k in range(3) for a in (-1.0, 1.0) for b in (-golden, golden)])
    near = np.linalg.norm(few[:, None] - few, axis=2)
    one, other = np.nonzero(np.triu(near < 2.1, 1))
    corners = np.concatenate([few, few[one] + few[other]])
    corners /= np.linalg.norm(corners, axis=1)[:, None]
    return np.asarray(corners / -ConvexHull(corners).equations[:, 3].max())


_BALL = _ball()


class Crossings:
    """The pairs of faces that cross after some vertices moved, other than those that crossed before.

    Where two shells crossed each other before, nothing of them is new.
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
    """The share (n,) of a movement (n, 3) that each vertex can take without faces crossing that did not before, and
    the vertices (n,) that can take none: those ``held`` before, those of faces that it would turn over, and more. Over
    ``soft`` mm from them it rises to one.
    """
    crossings = Crossings(mesh, shift)
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


def padded(mesh: Mesh, thicker: Floats) -> Mesh:
    """A mesh united with all that lies within ``thicker`` mm (n,) of its surface, where that is more than nothing.

    It stays as it is where it does not close, where that is too much of it, or where faces would cross or have no
    height that did not or had one before.
    """
    faces = mesh.faces[(thicker > 0)[mesh.faces].any(axis=1)]
    if not 0 < len(faces) <= _MOST_FACES:
        return mesh
    try:
        (solid,) = solids_of(mesh)
    except CannotJoin:
        return mesh
    corners = (mesh.vertices[faces][:, :, None] + thicker[faces][:, :, None, None] * _BALL).reshape(len(faces), -1, 3)
    hulls = [manifold3d.Manifold.hull_points(points) for points in corners]
    # As one before it is thinned out: the many hulls meet in faces of no height, which their own faces would keep.
    added = manifold3d.Manifold.batch_boolean(hulls, manifold3d.OpType.Add).as_original()
    added = added.simplify(_SMOOTH * float(thicker.max())).as_original()
    made = tidied(*mesh_of(solid.body + added), (solid.number, solid.number))
    box = corners.min(axis=(0, 1)), corners.max(axis=(0, 1))
    near, was = (Mesh(one.vertices, one.faces[faces_in_box(one, *box)]) for one in (made, mesh))
    crossing = len(crossing_faces(near).pairs) > len(crossing_faces(was).pairs)
    flat = zero_area_faces(near, _FLAT).sum() > zero_area_faces(was, _FLAT).sum()
    return mesh if crossing or flat else made
