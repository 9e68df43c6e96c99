"""Thin samples grouped into places."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import minimum_spanning_tree

from ulvet.core.gauge.walls.thickness import Thickness
from ulvet.core.geometry.mesh import Floats, Mesh, Points
from ulvet.core.geometry.topology import connected_groups

__all__ = ["ThinGroups", "ThinPlace", "WallGraph", "thin_places"]

Ints = NDArray[np.int64]
_AS_THIN = 1.02
"""Ratio up to which a sample is as thin as the thinnest (rounding of rays)."""
_SHORTEST = 1.0
"""Length of a thin place, in limits, under which it is noise (bench default)."""
_DISC = 0.5
"""Diameter, in limits, of the disc whose area a thin place has at least (bench default)."""
_SHARE = 0.03
"""Share of the surface from which a smaller place counts as well (bench default)."""
_WIDE = 1.5
"""Side, in limits, of the square beyond which no more area is asked (bench default)."""


@dataclass(frozen=True)
class ThinPlace:
    """A connected thin region, in figure mm.

    ``wall`` is the least that holds over more than a sharp end, ``point`` and ``normal`` where that is, ``extent`` and
    ``along`` how long the region is and in which direction, ``reach`` how far it lies from the point; ``samples`` (k,)
    are those of the thickness in it.
    """

    wall: float
    point: Points
    normal: Points
    extent: float
    along: Points
    reach: float
    samples: Ints


@dataclass(frozen=True)
class ThinGroups:
    """Thin regions of a mesh under one limit, in figure mm.

    ``samples`` (t,) are those of all regions, region by region and the thinnest first; ``starts`` (g,) where each
    begins; ``walls``, ``extents`` (g,) and ``along`` (g, 3) as in ``ThinPlace``.
    """

    samples: Ints
    starts: Ints
    walls: Floats
    extents: Floats
    along: Points


class WallGraph:
    """Which samples of a thickness belong together, at any limit up to ``most`` (figure mm).

    Every point and edge ends in nothing, so a place shorter than the limit is left out, and the least wall is that
    which holds over 3 % of the place, at least over a disc half the limit across, at most over a square one and a half
    times the limit wide (bench defaults). Samples belong together when they share a face or lie opposite each other
    through the wall. Samples buried in another shell are left out: the wall there is that of both together.

    Nodes are vertices, faces and samples, each with its wall, a face with the least of its own; two that touch are
    joined under a limit when both walls are below it. ``for_many`` keeps of that only a spanning forest of least walls,
    which joins the same at every limit (Gower and Ross 1969).
    """

    def __init__(self, mesh: Mesh, thickness: Thickness, most: float, for_many: bool = False) -> None:
        self._thickness = thickness
        thin = np.flatnonzero((thickness.walls < most) & ~thickness.buried)
        self._samples, self._walls = thin, thickness.walls[thin]
        ends, heights, self._node, self._nodes = _edges(mesh, thickness, thin)
        if for_many and len(ends):
            # Zero would count as no edge at all.
            sparse = coo_array((heights + 1.0, (ends[:, 0], ends[:, 1])), shape=(self._nodes,) * 2)
            forest = minimum_spanning_tree(sparse.tocsr()).tocoo()
            ends, heights = np.stack([forest.row, forest.col], axis=1).astype(np.int64), forest.data - 1.0
        order = np.argsort(heights, kind="stable")
        self._ends, self._heights = ends[order], heights[order]

    def at(self, limit: float) -> ThinGroups:
        """The thin regions under ``limit``, which is at most that of the graph."""
        here = np.flatnonzero(self._walls < limit)
        if not len(here):
            none = np.empty(0)
            return ThinGroups(none.astype(np.int64), none.astype(np.int64), none, none, none.reshape(0, 3))
        ends = self._ends[: np.searchsorted(self._heights, limit)]
        # Only what is touched is numbered, since most nodes of a figure are not thin.
        touched = np.zeros(self._nodes, bool)
        touched[ends.ravel()] = True
        touched[self._node[here]] = True
        local = np.cumsum(touched) - 1
        _, group = connected_groups(int(touched.sum()), local[ends])
        return self._measured(self._samples[here], group[local[self._node[here]]], limit)

    def _measured(self, samples: Ints, group: Ints, limit: float) -> ThinGroups:
        walls = self._thickness.walls[samples]
        order = np.lexsort((walls, group))
        samples, walls, group = samples[order], walls[order], group[order]
        starts = np.flatnonzero(np.diff(group, prepend=-1))
        sizes = np.diff(starts, append=len(group))
        of = np.repeat(np.arange(len(starts)), sizes)
        extents, along = _longest(self._thickness.points[samples], starts, sizes, of)
        covered = np.cumsum(self._thickness.areas[samples])
        before = covered[starts] - self._thickness.areas[samples][starts]
        total = covered[starts + sizes - 1] - before
        disc, square = np.pi / 4 * (_DISC * limit) ** 2, (_WIDE * limit) ** 2
        enough = np.maximum(disc, np.minimum(_SHARE * total, square))
        held = np.add.reduceat(covered - before[of] < enough[of], starts)
        least = walls[starts + np.minimum(held, sizes - 1)]
        kept = extents >= _SHORTEST * limit
        chosen = kept[of]
        sizes = sizes[kept]
        return ThinGroups(samples[chosen], np.cumsum(sizes) - sizes, least[kept], extents[kept], along[kept])


def thin_places(mesh: Mesh, thickness: Thickness, limit: float) -> list[ThinPlace]:
    """Places whose wall is under ``limit`` (figure mm), the thinnest first; see ``WallGraph``."""
    found = WallGraph(mesh, thickness, limit).at(limit)
    regions = np.split(found.samples, found.starts[1:])
    places = [
        _place(thickness, members, float(wall), float(extent), along)
        for members, wall, extent, along in zip(regions, found.walls, found.extents, found.along, strict=False)
    ]
    return sorted(places, key=lambda place: place.wall)


def _edges(mesh: Mesh, thickness: Thickness, thin: Ints) -> tuple[Ints, Floats, Ints, int]:
    """Pairs of nodes (e, 2) that touch, the limit (e,) above which they are joined, the node of each sample, and how
    many nodes there are: vertices, faces, then samples inside faces."""
    n, m = len(mesh.vertices), len(mesh.faces)
    of_vertex = np.full(n, np.inf)
    of_vertex[thin[thin < n]] = thickness.walls[thin[thin < n]]
    inner = thin[thin >= n]
    faces, walls = thickness.face_of[inner - n], thickness.walls[inner]
    # A face is as thin as a sample in it, or any of its corners.
    of_face = np.asarray(of_vertex[mesh.faces].min(axis=1))
    np.minimum.at(of_face, faces, walls)
    corners = np.argwhere(np.isfinite(of_vertex[mesh.faces]))
    touched = mesh.faces[corners[:, 0], corners[:, 1]]
    samples = n + m + np.arange(len(inner))
    node = np.concatenate([thin[thin < n], samples])
    ordered = np.concatenate([thin[thin < n], inner])
    opposite = thickness.across[ordered]
    facing = opposite >= 0
    facing[facing] = np.isfinite(of_face[opposite[facing]])
    # What lies in the face it faces is joined to it already.
    own = np.concatenate([np.full(len(thin) - len(inner), -1), faces])
    facing &= (own != opposite) & ~(mesh.faces[opposite] == ordered[:, None]).any(axis=1)
    across = opposite[facing]
    ends = np.concatenate(
        [
            np.stack([n + corners[:, 0], touched], axis=1),
            np.stack([n + faces, samples], axis=1),
            np.stack([n + across, node[facing]], axis=1),
        ]
    ).astype(np.int64)
    heights = np.concatenate([of_vertex[touched], walls, np.maximum(thickness.walls[ordered][facing], of_face[across])])
    return ends, heights, node, n + m + len(inner)


def _longest(points: Points, starts: Ints, sizes: Ints, of: Ints) -> tuple[Floats, Points]:
    """How long each region is and in which direction: its first principal axis."""
    middle = np.add.reduceat(points, starts, axis=0) / sizes[:, None]
    centred = points - middle[of]
    pairs = [(0, 0), (0, 1), (0, 2), (1, 1), (1, 2), (2, 2)]
    sums = np.add.reduceat(np.stack([centred[:, a] * centred[:, b] for a, b in pairs], axis=1), starts, axis=0)
    spread, axes = np.linalg.eigh(sums[:, [0, 1, 2, 1, 3, 4, 2, 4, 5]].reshape(-1, 3, 3))
    along = np.where(spread[:, 2:] > 0, axes[:, :, 2], [0.0, 0, 1])
    reach = np.einsum("ij,ij->i", centred, along[of])
    return np.maximum.reduceat(reach, starts) - np.minimum.reduceat(reach, starts), along


def _place(thickness: Thickness, members: Ints, wall: float, extent: float, along: Points) -> ThinPlace:
    walls = thickness.walls[members]
    # Of many samples as thin, the one amid them speaks for the place, not a corner of it.
    worst_ones = members[(walls <= wall * _AS_THIN) & (walls >= wall / _AS_THIN)]
    amid = thickness.points[worst_ones] - thickness.points[worst_ones].mean(axis=0)
    worst = worst_ones[np.einsum("ij,ij->i", amid, amid).argmin()]
    return ThinPlace(
        wall=wall,
        point=thickness.points[worst],
        normal=thickness.normals[worst],
        extent=extent,
        along=along,
        reach=float(np.linalg.norm(thickness.points[members] - thickness.points[worst], axis=1).max()),
        samples=members,
    )
