"""Mending one place where faces cross, and nothing else."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulvet.core.geometry.mesh import Mesh, Points, concatenated
from ulvet.core.geometry.solids import mesh_of, solids_of
from ulvet.core.geometry.topology import connected_groups, without_unused_vertices
from ulvet.core.geometry.untangling import cut_tangles_out
from ulvet.core.mend.diagnosis import Diagnosis, diagnose

__all__ = ["MendedPlace", "crossing_places", "mend_place"]

Ints = NDArray[np.int64]


@dataclass(frozen=True)
class MendedPlace:
    """A mesh with one place of it mended: by uniting two shells, or by cutting a tangle out."""

    mesh: Mesh
    united: bool


def crossing_places(mesh: Mesh, pairs: Ints) -> list[Ints]:
    """Crossing pairs (p, 2) of faces by place: numbers of the pairs whose faces hang together by a vertex or a
    crossing, the place of the lowest vertex first."""
    faces = np.unique(pairs)
    at = mesh.faces[faces].astype(np.int64)
    ends = [at[:, :2], at[:, 1:], np.stack([mesh.faces[pairs[:, 0], 0], mesh.faces[pairs[:, 1], 0]], axis=1)]
    _, group = connected_groups(len(mesh.vertices), np.concatenate(ends))
    of_pair = group[mesh.faces[pairs[:, 0], 0]]
    order = np.argsort(of_pair, kind="stable")
    _, starts = np.unique(of_pair[order], return_index=True)
    return np.split(order, starts[1:])


def mend_place(mesh: Mesh, point: Points, widest: float) -> MendedPlace | None:
    """The place where faces cross that is nearest to a point (3,), mended: two shells become one exactly; a shell that
    crosses itself has the tangle, where it is no wider than ``widest`` mm, cut out and closed over. The rest keeps its
    coordinates. None where nothing crosses.

    Raises CannotJoin where one of the shells is no solid, TangleTooWide.
    """
    found = diagnose(mesh, 0.0)
    mesh, pairs = found.mesh, found.crossings.pairs
    if not len(pairs):
        return None
    near = int(cKDTree(mesh.vertices[mesh.faces[pairs]].reshape(-1, 3)).query(point)[1]) // 6
    one, other = found.shells.of[pairs[near]]
    if one != other:
        return MendedPlace(_two_united(found, int(one), int(other)), united=True)
    place = next(place for place in crossing_places(mesh, pairs) if near in place)
    corners = mesh.vertices[mesh.faces[np.unique(pairs[place])]].reshape(-1, 3)
    return MendedPlace(cut_tangles_out(mesh, widest, within=(corners.min(axis=0), corners.max(axis=0))), united=False)


def _two_united(found: Diagnosis, one: int, other: int) -> Mesh:
    mesh, of = found.mesh, found.shells.of
    pair = [without_unused_vertices(Mesh(mesh.vertices, mesh.faces[of == shell])) for shell in (one, other)]
    a, b = solids_of(*pair)
    whole = mesh_of(a.body + b.body)[0]
    return without_unused_vertices(concatenated(Mesh(mesh.vertices, mesh.faces[(of != one) & (of != other)]), whole))
