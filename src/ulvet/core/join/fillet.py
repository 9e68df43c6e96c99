"""A fillet where two solids meet, from their distance field and only there."""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import igl  # its module under a copyleft licence is never imported
import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulvet.core.geometry.level_set import level_set
from ulvet.core.geometry.mesh import Floats, Mesh, Points
from ulvet.core.geometry.nearby_faces import NearbyFaces
from ulvet.core.geometry.solids import Body, drawn_body
from ulvet.core.geometry.topology import without_unused_vertices

__all__ = ["Fillet", "fillet_between"]

_STEPS = 6
"""Grid steps in a radius."""
_COARSE = 4
"""Grid steps of the coarse search."""
_LESS = 0.005
"""How much of the radius the fillet stays under the exact round, so that it meets either surface at an angle."""
_REACH = 2.5
"""How many radii from the crossing the fillet may reach where surfaces meet at a shallow angle."""
_SMOOTH = 0.0015
"""Share of the radius by which its triangles may lie off the grid's surface, so that fewer do."""
_FINE = 0.25
"""Sides of faces, as a share of the radius, from which on distances are taken from the nearest vertices' faces."""
_LARGE = 0.125
"""Share by which points may lie beyond the reach, so that a search in groups is enough."""
_CELLS = 8
"""Cells of the grid in a reach, on which what lies near is looked up."""
_MOST_NODES = 6_000_000
"""Nodes of the grid, for memory."""
_MOST_KEYS = 4_000_000
"""Pairs compared at a time, for memory."""

Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Fillet:
    """What fills the corner between two solids, reaching a little into both, and the grid it was drawn on, mm."""

    body: Body | None
    pitch: float | None


class _Away:
    """Distances from what of a surface is near the crossing, below zero inside."""

    def __init__(self, mesh: Mesh, fine: float) -> None:
        self.mesh = mesh
        corners = mesh.vertices[mesh.faces]
        longest = np.linalg.norm(corners - np.roll(corners, 1, axis=1), axis=2).max(initial=0.0)
        # Where faces are small the nearest vertices lead to the nearest face; trees of boxes take ten times as long.
        self._round = NearbyFaces(mesh) if longest <= fine else None

    def __call__(self, points: Points) -> Floats:
        if self._round is not None:
            return self._round.distance(points)
        # The side by the angle-weighted normals of what is nearest (Bærentzen and Aanæs 2005).
        found = igl.signed_distance(
            points,
            self.mesh.vertices,
            self.mesh.faces.astype(np.int64),
            sign_type=igl.SIGNED_DISTANCE_TYPE_PSEUDONORMAL,
        )
        return np.asarray(found[0])


def fillet_between(a: Mesh, b: Mesh, rim: Points, radius: float) -> Fillet:
    """The round of a ball of ``radius`` mm rolled along the corner between two solids.

    ``rim`` (r, 2, 3) are the edges along which their surfaces cross. In the field of the distances u, v from the two,
    the round is where (radius - u)² + (radius - v)² = radius²: a quarter circle between walls at right angles. It is
    drawn on a grid of a sixth of the radius, coarser where that would be more than six million nodes.
    """
    spots = _along(rim, radius / 2)
    tree = cKDTree(spots)
    reach = _REACH * radius
    with ThreadPoolExecutor(2) as workers:
        near = list(
            workers.map(lambda mesh: _Away(_faces_near(mesh, tree, reach + 1.5 * radius), _FINE * radius), (a, b))
        )
    pitch = radius / _STEPS
    while (found := _nodes_between(near, spots, radius, pitch)) is None:
        pitch *= 1.25
    nodes, low, u, v = found
    at = nodes * pitch + low
    corner = np.hypot(np.maximum(radius - u, 0), np.maximum(radius - v, 0))
    value = radius * (1 + _LESS) - corner
    # Under both surfaces only as much as is needed to meet them.
    for inside in (-2 * pitch - u, -2 * pitch - v, u - radius, v - radius):
        value = np.maximum(value, inside)
    value = np.maximum(value, tree.query(at, distance_upper_bound=reach, workers=2)[0] - (reach - 2 * pitch))
    if not (value < 0).any():
        return Fillet(None, pitch)
    return Fillet(drawn_body(level_set(nodes, value, pitch, low), _SMOOTH * radius), pitch)


def _nodes_between(
    near: list[_Away], spots: Points, radius: float, pitch: float
) -> tuple[Ints, Points, Floats, Floats] | None:
    """Grid nodes that lie close outside both surfaces, or just under one, with the grid's origin and both distances.

    Found from a grid four times as coarse, halved twice; None when they are too many.
    """
    reach = _REACH * radius
    low = spots.min(axis=0) - reach - 4 * pitch
    nodes = _nodes_about(spots, low, _COARSE * pitch, reach)
    step = _COARSE
    while True:
        at = nodes * (step * pitch) + low
        # Half the diagonal of a cell is how far its middle is from what it stands for.
        slack = np.sqrt(3) / 2 * step * pitch if step > 1 else 0.0
        kept = np.arange(len(nodes))
        distances: list[Floats] = []
        for away_from in near:
            away = away_from(at[kept])
            close = (away < radius + pitch + slack) & (away > -3 * pitch - slack) if step > 1 else np.isfinite(away)
            distances = [one[close] for one in distances] + [away[close]]
            kept = kept[close]
        if step == 1:
            return nodes, low, distances[0], distances[1]
        if len(kept) * step**3 > _MOST_NODES:
            return None
        nodes, step = _halved(nodes[kept]), step // 2


def _along(rim: Points, step: float) -> Points:
    """Points on some edges, none farther than ``step`` mm from the next."""
    a, b = rim[:, 0], rim[:, 1]
    count = np.ceil(np.linalg.norm(b - a, axis=1) / step).astype(int) + 1
    which = np.repeat(np.arange(len(rim)), count)
    share = (np.arange(len(which)) - np.repeat(np.cumsum(count) - count, count)) / count[which]
    spots = a[which] + (b - a)[which] * share[:, None]
    _, first = np.unique(np.round(spots / (step / 2)).astype(np.int64), axis=0, return_index=True)
    return np.asarray(spots[np.sort(first)])


def _faces_near(mesh: Mesh, tree: cKDTree, reach: float) -> Mesh:
    """The faces of a mesh that come within ``reach`` mm of some points: by their corners, large ones by the ball about
    them."""
    near = _near(mesh.vertices, tree, reach * (1 + _LARGE))
    a, b, c = mesh.faces.T
    chosen = near[a] | near[b] | near[c]
    # No corner lies farther from the middle than the longer of the two sides at the first one.
    first = mesh.vertices[a]
    sides = [np.einsum("ij,ij->i", side, side) for side in (mesh.vertices[b] - first, mesh.vertices[c] - first)]
    large = np.flatnonzero(np.maximum(*sides) > (_LARGE * reach) ** 2)
    corners = mesh.vertices[mesh.faces[large]]
    middle = corners.mean(axis=1)
    radius = np.linalg.norm(corners - middle[:, None], axis=2).max(axis=1, initial=0.0)
    chosen[large] = tree.query(middle, workers=2)[0] - radius < reach
    return without_unused_vertices(Mesh(mesh.vertices, mesh.faces[chosen]))


def _near(points: Points, tree: cKDTree, reach: float) -> NDArray[np.bool_]:
    """Points (n, 3) within ``reach`` mm of those of a tree, and some that lie up to a third farther.

    Looked up on a grid, which is five times as fast as asking the tree.
    """
    pitch = reach / _CELLS
    nodes = _nodes_about(tree.data, tree.mins, pitch, reach + np.sqrt(3) / 2 * pitch)
    low = nodes.min(axis=0)
    marked = np.zeros(nodes.max(axis=0) - low + 1, bool)
    marked[tuple((nodes - low).T)] = True
    found = np.zeros(len(points), bool)
    boxed = np.flatnonzero(((points > tree.mins - reach) & (points < tree.maxes + reach)).all(axis=1))
    at = np.round((points[boxed] - tree.mins) / pitch).astype(np.int64) - low
    found[boxed] = marked[tuple(at.T)]
    return found


def _nodes_about(spots: Points, low: Points, pitch: float, reach: float) -> Ints:
    """Grid nodes within ``reach`` mm, and a step, of some points."""
    steps = int(np.ceil(reach / pitch)) + 1
    ball = np.stack(np.meshgrid(*[np.arange(-steps, steps + 1)] * 3, indexing="ij"), axis=-1).reshape(-1, 3)
    ball = ball[(ball**2).sum(axis=1) <= steps**2]
    cells = np.unique(np.round((spots - low) / pitch).astype(np.int64), axis=0)
    shape = tuple(cells.max(axis=0) + 2 * steps + 1)
    # A step on the grid adds the same to every key.
    onward = ball @ np.array([shape[1] * shape[2], shape[2], 1])
    middle = np.ravel_multi_index(tuple((cells + steps).T), shape)
    blocks = np.array_split(onward, 1 + len(middle) * len(onward) // _MOST_KEYS)
    keys = np.unique(np.concatenate([np.unique(middle[:, None] + block) for block in blocks]))
    return np.stack(np.unravel_index(keys, shape), axis=1) - steps


def _halved(nodes: Ints) -> Ints:
    """Nodes as those of a grid half as wide that are nearest to them, each once."""
    about = np.stack(np.meshgrid(*[np.array([-1, 0, 1])] * 3, indexing="ij"), axis=-1).reshape(-1, 3)
    fine = (nodes[:, None] * 2 + about).reshape(-1, 3)
    low = fine.min(axis=0)
    shape = tuple(fine.max(axis=0) - low + 1)
    key = np.unique(np.ravel_multi_index(tuple((fine - low).T), shape))
    return np.stack(np.unravel_index(key, shape), axis=1) + low
