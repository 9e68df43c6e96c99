"""How far one part may be moved away from others before anything of it lies before anything of theirs. Print mm."""

from dataclasses import dataclass
from functools import cached_property, lru_cache
from itertools import product

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Mesh, Points, bounds
from ulvet.core.geometry.plane_cut import plane_axes
from ulvet.core.geometry.rays import Rays

__all__ = ["DRAWN_IN", "WAYS", "Movable", "blocks", "free_way"]

DRAWN_IN = 0.02
"""Mm by which points are drawn in from their surface, so that faces which touch do not block (bench default)."""
_FEW = 37
"""Of so many points one is looked at first, for time."""
_ROUGH = 5
"""Of so many points one tells how far a way is free that is blocked, for time."""
_COARSEST = 60
"""Into so many pieces the longest side of a part is cut: no edge is sounded at points farther apart."""
WAYS: Points = np.array([way for way in product((-1.0, 0.0, 1.0), repeat=3) if any(way)])
"""The 26 directions to the neighbours of a cube, of length one; those along the axes first."""
WAYS = WAYS[np.argsort((WAYS**2).sum(axis=1), kind="stable")]
WAYS = WAYS / np.linalg.norm(WAYS, axis=1)[:, None]


@dataclass(frozen=True)
class Movable:
    """A part that is moved: its mesh, print mm, and places at which it is sounded as finely as ``fine`` mm."""

    mesh: Mesh
    fine: tuple[tuple[Points, float, float], ...] = ()
    """Middle (3,) and reach of what a key takes, and how far apart points may be there."""

    @cached_property
    def box(self) -> Points:
        """Lowest and highest corner, (2, 3)."""
        return bounds(self.mesh)

    @cached_property
    def corners(self) -> Points:
        """The eight corners of its box, (8, 3)."""
        return np.array(list(product(*self.box.T)))

    @cached_property
    def rays(self) -> Rays:
        """Itself as what is hit."""
        return Rays(self.mesh)

    @cached_property
    def points(self) -> Points:
        """Its vertices and points of its edges, drawn in, (n, 3)."""
        mesh, normals = self.mesh, _outward(self.mesh)
        # Of a closed mesh every edge is passed once each way.
        ends = np.stack([mesh.faces.ravel(), np.roll(mesh.faces, -1, axis=1).ravel()], axis=1)
        ends = ends[ends[:, 0] < ends[:, 1]]
        start, end = mesh.vertices[ends[:, 0]], mesh.vertices[ends[:, 1]]
        long = np.sqrt(((end - start) ** 2).sum(axis=1))
        apart = np.full(len(ends), float(np.ptp(self.box, axis=0).max()) / _COARSEST)
        for middle, reach, fine in self.fine:
            near = (np.abs(start - middle).max(axis=1) <= reach) & (np.abs(end - middle).max(axis=1) <= reach)
            apart[near] = fine
        pieces = np.maximum(np.ceil(long / apart).astype(np.int64), 1)
        of = np.repeat(np.arange(len(ends)), pieces - 1)
        first = np.repeat(np.cumsum(pieces - 1) - (pieces - 1), pieces - 1)
        share = ((np.arange(len(of)) - first + 1) / pieces[of])[:, None]
        a, b = ends[of].T
        between = mesh.vertices[a] * (1 - share) + mesh.vertices[b] * share
        inward = normals[a] * (1 - share) + normals[b] * share
        return np.concatenate([mesh.vertices - DRAWN_IN * normals, between - DRAWN_IN * inward])


def blocks(moved: Movable, other: Movable, way: Points) -> bool:
    """Whether anything of a part lies before anything of another along ``way`` (3,)."""
    if not _in_the_way(moved, other, way):
        return False
    # Where it does, a few points mostly tell.
    for stride in (_FEW, 1):
        if np.isfinite(_first_met(moved.points[::stride], other, way)):
            return True
        if np.isfinite(_first_met(other.points[::stride], moved, -way)):
            return True
    return False


def _outward(mesh: Mesh) -> Points:
    """A direction out of the mesh at every vertex, (n, 3): the normals of its faces, each weighted by how wide its
    angle there is (one less its cosine, which is as good as the angle and sooner known)."""
    corners = [mesh.vertices[mesh.faces[:, k]] for k in range(3)]
    sides = [_unit(corners[(k + 1) % 3] - corners[k]) for k in range(3)]
    normals, total = _unit(mesh.cross), np.zeros_like(mesh.vertices)
    for k in range(3):
        weight = 1 + np.einsum("ij,ij->i", sides[k], sides[k - 1])
        for axis in range(3):
            total[:, axis] += np.bincount(mesh.faces[:, k], weight * normals[:, axis], minlength=len(total))
    return _unit(total)


def _unit(vectors: Points) -> Points:
    return np.asarray(vectors / np.maximum(np.sqrt(np.einsum("ij,ij->i", vectors, vectors)), 1e-300)[:, None])


def free_way(moved: Movable, other: Movable, way: Points) -> float:
    """How far a part may be moved along ``way`` (3,) before it meets another; infinite where nothing of it lies before
    anything of that that was looked at, which is a part of what ``blocks`` looks at."""
    if not _in_the_way(moved, other, way):
        return np.inf
    ours, theirs = moved.points[::_ROUGH], other.points[::_ROUGH]
    return max(0.0, min(_first_met(ours, other, way), _first_met(theirs, moved, -way)))


def _first_met(points: Points, hit: Movable, way: Points) -> float:
    start = points[_before(points, hit, way)]
    if not len(start):
        return np.inf
    return float(hit.rays.first(start, np.broadcast_to(way, start.shape))[0].min())


def _before(points: Points, other: Movable, way: Points) -> NDArray[np.bool_]:
    """Which points lie in the beam that the box of another part throws back along a way."""
    before = points @ way <= (other.corners @ way).max()
    for axis in _axes_of(*way):
        along, span = points @ axis, other.corners @ axis
        before &= (along >= span.min()) & (along <= span.max())
    return np.asarray(before)


def _in_the_way(moved: Movable, other: Movable, way: Points) -> bool:
    if (other.corners @ way).max() < (moved.corners @ way).min():
        return False
    spans = [(moved.corners @ axis, other.corners @ axis) for axis in _axes_of(*way)]
    return all(ours.min() <= theirs.max() and theirs.min() <= ours.max() for ours, theirs in spans)


@lru_cache(maxsize=1_000)
def _axes_of(x: float, y: float, z: float) -> Points:
    """Two directions (2, 3) across a way."""
    return plane_axes(np.array([x, y, z]))
