"""Regions of a surface: grown from a touch to natural edges, round a place, a band of heights, or a whole part.

An edge stops a region where the surface turns sharply there, or where it runs in a fold: a valley that turns as much
within a little more than a millimetre of print, as sculpts have where forms meet softly. Curvature is the turn of two
faces over the distance of their middles, with normals made even over neighbours first (as in Taubin 1995). A region
takes of a fold what leads down to where that is deepest.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from ulvet.core.finish.steps import Region, is_meant, places_on
from ulvet.core.geometry.mesh import Floats, Mesh, face_areas, face_normals
from ulvet.core.geometry.topology import connected_groups, edges_of, paired_half_edges
from ulvet.core.lengths import FigureMM
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.step import Part

__all__ = ["UNPAINTED", "Ints", "Labels", "Mask", "OpenedMesh", "labels_of"]

UNPAINTED = -1
"""Label of a face that no region has."""
_FOLD_MM = 1.2
"""Print mm within which a fold turns as much as an edge does at once (bench default)."""
_EVEN = 2
"""Times that normals, and then curvature, are made even over neighbours (bench default)."""
_INTO_FOLD = 40
"""Rings of faces that a region takes of a fold, at most; it ends where the fold is deepest before."""
Ints = NDArray[np.int64]
Mask = NDArray[np.bool_]


@dataclass(frozen=True)
class OpenedMesh:
    """A mesh made ready for regions: pairs of faces (p, 2) that meet at an edge, the vertices (p, 2) it runs between,
    the degrees by which the surface turns there (p,), and how curved every face is (m,) the way it bends inward most,
    1/mm with folds below zero."""

    mesh: Mesh
    pairs: Ints
    ends: Ints
    turns: Floats
    bends: Floats
    curved: Floats

    @classmethod
    def of(cls, mesh: Mesh) -> "OpenedMesh":
        """Open a mesh."""
        edges = edges_of(mesh)
        halves = paired_half_edges(edges)
        pairs = halves // 3
        normals, middles = face_normals(mesh), mesh.vertices[mesh.faces].mean(axis=1)
        first, second = pairs.T
        cosine = np.einsum("ij,ij->i", normals[first], normals[second])
        turns = np.degrees(np.arccos(np.clip(cosine, -1, 1)))
        across = middles[second] - middles[first]
        apart = np.maximum(np.einsum("ij,ij->i", across, across), 1e-12)
        even = _evened(pairs, normals)
        bent = np.einsum("ij,ij->i", even[second] - even[first], across) / apart
        most = np.full(len(mesh.faces), np.inf)
        np.minimum.at(most, first, bent)
        np.minimum.at(most, second, bent)
        curved = _evened(pairs, np.where(np.isfinite(most), most, 0.0)[:, None])[:, 0]
        faces, corners = halves[:, 0] // 3, halves[:, 0] % 3
        ends = np.stack([mesh.faces[faces, corners], mesh.faces[faces, (corners + 1) % 3]], axis=1)
        return cls(mesh, pairs, ends.astype(np.int64), turns, bent, curved)

    @cached_property
    def middles(self) -> Floats:
        """Middles (m, 3) of faces."""
        return np.asarray(self.mesh.vertices[self.mesh.faces].mean(axis=1))

    def grown(self, seeds: Ints, fold: float, factor: float) -> Mask:
        """Faces (m,) that a touch on some of them reaches without passing an edge or a fold of ``fold`` degrees."""
        in_fold = self.curved < -np.radians(fold) / (_FOLD_MM / factor)
        in_fold[seeds] = False
        first, second = self.pairs.T
        smooth, folded = self.turns < fold, in_fold[first] | in_fold[second]
        groups, group = connected_groups(len(self.mesh.faces), self.pairs[smooth & ~folded])
        touched = np.zeros(groups, bool)
        touched[group[seeds]] = True
        inside = touched[group]
        beside = self.pairs[smooth & folded]
        ways = np.concatenate([beside, beside[:, ::-1]])
        # Down to where the fold is deepest, so that both its sides keep their own.
        ways = ways[in_fold[ways[:, 1]] & (~in_fold[ways[:, 0]] | (self.curved[ways[:, 1]] < self.curved[ways[:, 0]]))]
        for _ in range(_INTO_FOLD):
            new = ways[inside[ways[:, 0]] & ~inside[ways[:, 1]], 1]
            if not len(new):
                break
            inside[new] = True
        return inside


@dataclass(frozen=True)
class Labels:
    """The region of every face of a part, by its place in the plan, ``UNPAINTED`` where none has it; by region how much
    of it, figure mm², later regions have."""

    of_face: Ints
    overlapped: dict[int, float]


def labels_of(part: Part, regions: Sequence[Region], factor: float, opened: OpenedMesh | None = None) -> Labels:
    """The regions of a part; ``opened`` is its mesh, where that was opened before."""
    labels = np.full(len(part.mesh.faces), UNPAINTED, np.int64)
    meant = [(at, region) for at, region in enumerate(regions) if is_meant(region.part, part.name)]
    if not meant:
        return Labels(labels, {})
    opened = opened or OpenedMesh.of(part.mesh)
    areas = face_areas(part.mesh)
    own: dict[int, float] = {}
    for at, region in meant:
        inside = _region(part, region, opened, factor)
        own[at] = float(areas[inside].sum())
        labels[inside] = at
    kept = np.bincount(labels[labels >= 0], areas[labels >= 0], minlength=len(regions))
    overlapped = {at: area - float(kept[at]) for at, area in own.items() if area - kept[at] > 1e-9 * max(area, 1)}
    return Labels(labels, overlapped)


def _region(part: Part, region: Region, opened: OpenedMesh, factor: float) -> Mask:
    """The faces of a part that a region takes."""
    everything = np.ones(len(part.mesh.faces), bool)
    if region.grows == "part":
        return everything
    if region.grows == "band":
        heights = opened.middles[:, 2]
        return np.asarray((heights >= region.low) & (heights < region.high))
    places = region.places
    if region.mirrored:
        places = (*places, *(_mirrored(place) for place in places))
    points, faces, _ = places_on(places, region.part, part)
    if not len(faces):
        return ~everything
    if region.grows == "round":
        inside = ~everything
        for point in points:
            inside |= ((opened.middles - point) ** 2).sum(axis=1) <= float(region.within) ** 2
        inside[faces] = True
        return inside
    return opened.grown(faces, region.fold, factor)


def _mirrored(place: Anchor) -> Anchor:
    x, y, z = place.point
    normal = place.normal and (-place.normal[0], place.normal[1], place.normal[2])
    return place.model_copy(update={"point": (FigureMM(-x), y, z), "normal": normal})


def _evened(pairs: Ints, values: Floats) -> Floats:
    """What is told of faces (m, k), made even over neighbours."""
    count = len(values)
    first, second = pairs.T
    many = np.bincount(pairs.ravel(), minlength=count)[:, None]
    beside = sparse.csr_array((np.ones(len(pairs)), (first, second)), shape=(count, count))
    beside = beside + beside.T
    for _ in range(_EVEN):
        values = (values + beside @ values) / (1 + many)
    return np.asarray(values)
