"""How a figure branches: level sets of the way along its skin from the ground (Reeb 1946, in bands).

A band is what of the skin lies between two distances. Its connected pieces are *rings*, which hang together from band
to band. Where the fronts of two ways meet, such as on an arm that holds a standing pole, rings form a cycle; what
hangs on the rest by a single ring, however long, sticks out.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import dijkstra

from ulvet.core.geometry.mesh import Floats, Mesh, Points, bounds
from ulvet.core.geometry.topology import Edges, connected_groups, paired_faces

__all__ = ["Branching", "branching_of"]

Ints = NDArray[np.int64]

_TOUCHES = 0.05
"""Millimetres over the lowest point within which a vertex is on the ground (bench default)."""
_BANDS = 240
"""How many bands the box of a figure is long (bench default)."""
_MOST_BANDS = 4000
"""Bands of the way along the skin, for memory."""


@dataclass(frozen=True)
class Branching:
    """Rings of a skin, sorted by how far they are from the ground, and how they hang together.

    ``width`` is that of a band, mm; ``girths`` (r,) how long the line along each ring is, 0 where it has none,
    ``middles`` (r, 3) the middle of that, ``ends`` (r, 3) the farthest vertex and ``bands`` (r,) the band.
    ``ring_of``, ``face_of`` (i,) say which ring lies in which faces, sorted by ring; ``links`` (l, 2) which hang
    together, the one nearer to the ground first.
    """

    width: float
    middles: Points
    girths: Floats
    ends: Points
    bands: Ints
    ring_of: Ints
    face_of: Ints
    links: Ints

    @cached_property
    def starts(self) -> Ints:
        """Where the faces of each ring begin, (r + 1,)."""
        return np.searchsorted(self.ring_of, np.arange(len(self.bands) + 1)).astype(np.int64)

    def faces(self, ring: int) -> Ints:
        """The faces a ring lies in."""
        return self.face_of[self.starts[ring] : self.starts[ring + 1]]


def branching_of(mesh: Mesh, edges: Edges) -> Branching | None:
    """The branching of a skin that stands on its lowest points, z up, print mm; None where it has no edges.

    What touches the ground is every vertex within 0.05 mm of the lowest.
    """
    size = float(np.ptp(bounds(mesh), axis=0).max())
    if not len(edges.ends) or size <= 0:
        return None
    distance = _from_ground(mesh, edges)
    reached = distance[np.isfinite(distance)]
    width = max(size / _BANDS, float(reached.max()) / _MOST_BANDS)
    low, high = _extremes(distance, mesh.faces, width)
    known = np.isfinite(high)
    count = np.zeros(len(high), np.int64)
    count[known] = high[known] - low[known] + 1
    first = np.cumsum(count) - count
    face = np.repeat(np.arange(len(count)), count)
    band = np.arange(len(face)) - first[face] + low[face].astype(np.int64)
    pairs = _touching(mesh, edges, distance, width, first, low, count)
    number, ring = connected_groups(len(face), pairs)
    bands = np.zeros(number, np.int64)
    bands[ring] = band
    order = np.argsort(bands, kind="stable")
    rank = np.empty(number, np.int64)
    rank[order] = np.arange(number)
    ring, bands = rank[ring], bands[order]
    here = np.arange(len(face))
    onward = here[:-1][(face[1:] == face[:-1])] if len(here) else here
    links = np.unique(np.stack([ring[onward], ring[onward + 1]], axis=1), axis=0)
    middles, girths = _lines(mesh, distance, width, (face, band, ring), number)
    by_ring = np.argsort(ring, kind="stable")
    ring, face = ring[by_ring], face[by_ring]
    ends = _ends(mesh, distance, ring, face)
    middles = np.where(girths[:, None] > 0, middles, ends)
    return Branching(width, middles, girths, ends, bands, ring, face, links)


def _from_ground(mesh: Mesh, edges: Edges) -> Floats:
    """Along edges (Dijkstra 1959), which only says what is farther than what: no length is taken from it."""
    height = mesh.vertices[:, 2]
    ground = np.flatnonzero(height <= height.min() + _TOUCHES)
    a, b = edges.ends.T
    long = np.linalg.norm(mesh.vertices[a] - mesh.vertices[b], axis=1)
    n = len(mesh.vertices)
    # Zero would count as no edge at all.
    graph = coo_array((np.maximum(long, 1e-12), (a, b)), shape=(n, n)).tocsr()
    return np.asarray(dijkstra(graph, directed=False, indices=ground, min_only=True))


def _extremes(distance: Floats, of: Ints | NDArray[np.int32], width: float) -> tuple[Floats, Floats]:
    """First and last band of what joins some vertices (…, k); inf where no way leads."""
    there = distance[of]
    return np.floor(there.min(axis=1) / width), np.floor(there.max(axis=1) / width)


def _touching(mesh: Mesh, edges: Edges, distance: Floats, width: float, first: Ints, low: Floats, count: Ints) -> Ints:
    """Pair faces of one band that share an edge."""
    faces, _ = paired_faces(edges)
    half = np.arange(len(edges.of_half))
    last = np.empty(len(edges.uses), np.int64)
    last[edges.of_half] = half
    ends = edges.ends[edges.of_half[last[edges.uses == 2]]]
    from_band, to_band = _extremes(distance, ends, width)
    known = np.isfinite(to_band) & (count[faces] > 0).all(axis=1)
    faces, from_band, to_band = faces[known], from_band[known], to_band[known]
    many = (to_band - from_band + 1).astype(np.int64)
    pair = np.repeat(np.arange(len(many)), many)
    band = np.arange(len(pair)) - (np.cumsum(many) - many)[pair] + from_band[pair].astype(np.int64)
    one, other = faces[pair].T
    return np.stack(
        [first[one] + band - low[one].astype(np.int64), first[other] + band - low[other].astype(np.int64)], axis=1
    )


def _lines(
    mesh: Mesh, distance: Floats, width: float, where: tuple[Ints, Ints, Ints], number: int
) -> tuple[Points, Floats]:
    """The line at mid band of every ring: its middle (number, 3) and length (number,), 0 where there is none."""
    face, band, ring = where
    corners, far = mesh.vertices[mesh.faces[face]], distance[mesh.faces[face]] - ((band + 0.5) * width)[:, None]
    crossings, crossed = np.zeros((len(face), 3, 3)), np.zeros((len(face), 3), bool)
    for k in range(3):
        a, b = far[:, k], far[:, (k + 1) % 3]
        crossed[:, k] = (a <= 0) != (b <= 0)
        share = np.where(crossed[:, k], a / np.where(a == b, 1, a - b), 0)[:, None]
        crossings[:, k] = corners[:, k] * (1 - share) + corners[:, (k + 1) % 3] * share
    crossings[~crossed] = 0
    amid = crossings.sum(axis=1) / 2
    apart = np.where(crossed[:, :, None], crossings - amid[:, None], 0)
    long = np.sqrt(2 * np.einsum("ikx,ikx->i", apart, apart)) * crossed.any(axis=1)
    girths = np.asarray(np.bincount(ring, long, minlength=number), np.float64)
    total = np.stack([np.bincount(ring, amid[:, axis] * long, minlength=number) for axis in range(3)], axis=1)
    return total / np.where(girths > 0, girths, 1)[:, None], girths


def _ends(mesh: Mesh, distance: Floats, ring: Ints, face: Ints) -> Points:
    """Give the vertex farthest from the ground among the faces of every ring."""
    far = distance[mesh.faces[face]]
    corner = far.argmax(axis=1)
    order = np.lexsort((far[np.arange(len(face)), corner], ring))
    last = order[np.flatnonzero(np.diff(ring[order], append=-1))]
    return np.asarray(mesh.vertices[mesh.faces[face[last], corner[last]]])
