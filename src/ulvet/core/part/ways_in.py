"""How far one part may be moved away from others before anything of it lies before anything of theirs. Print mm."""

from dataclasses import dataclass
from functools import cached_property
from itertools import product

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Floats, Mesh, Points, bounds, vertex_normals
from ulvet.core.geometry.plane_cut import plane_axes
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.topology import edges_of

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
    def rays(self) -> Rays:
        """Itself as what is hit."""
        return Rays(self.mesh)

    @cached_property
    def points(self) -> Points:
        """Its vertices and points of its edges, drawn in, (n, 3)."""
        mesh, normals = self.mesh, vertex_normals(self.mesh)
        ends = edges_of(mesh).ends
        start, end = mesh.vertices[ends[:, 0]], mesh.vertices[ends[:, 1]]
        long = np.linalg.norm(end - start, axis=1)
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


def free_way(moved: Movable, other: Movable, way: Points) -> float:
    """How far a part may be moved along ``way`` (3,) before it meets another; infinite where nothing of it lies before
    anything of that that was looked at, which is a part of what ``blocks`` looks at."""
    if not _in_the_way(moved, other, way):
        return np.inf
    ours, theirs = moved.points[::_ROUGH], other.points[::_ROUGH]
    return max(0.0, min(_first_met(ours, other, way), _first_met(theirs, moved, -way)))


def _first_met(points: Points, hit: Movable, way: Points) -> float:
    before = _before(points, hit.box, way)
    if not before.any():
        return np.inf
    start = points[before]
    return float(hit.rays.first(start, np.broadcast_to(way, start.shape))[0].min())


def _before(points: Points, box: Points, way: Points) -> NDArray[np.bool_]:
    """Which points lie in the beam that a box throws back along a way."""
    across = plane_axes(way)
    corners = np.array(list(product(*box.T)))
    low, high = _span(corners, across)
    flat = points @ across.T
    return np.asarray(((flat >= low) & (flat <= high)).all(axis=1) & (points @ way <= (corners @ way).max()))


def _in_the_way(moved: Movable, other: Movable, way: Points) -> bool:
    across = plane_axes(way)
    ours, theirs = (np.array(list(product(*one.box.T))) for one in (moved, other))
    (low, high), (least, most) = _span(ours, across), _span(theirs, across)
    return bool((low <= most).all() and (least <= high).all() and (theirs @ way).max() >= (ours @ way).min())


def _span(points: Points, across: Points) -> tuple[Floats, Floats]:
    flat = points @ across.T
    return flat.min(axis=0), flat.max(axis=0)
