"""Edges collapsed one by one, each only where the surface stays within a distance of the one it was, both ways.

The order is that of quadric errors (Garland and Heckbert 1997), in passes of growing tolerance. Every sample of the
first surface - its vertices and the middles of its edges and faces - is held by a face of the new one that lies within
the distance, as in Zelinka and Garland's permission grids (2002) but exact; of every new face and edge the middle has
to lie as near to one of the first faces whose samples are held around it.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulvet.core.bring_in.edge_collapse_kernels import collapse_pass, corner_lists, linked_lists
from ulvet.core.geometry.mesh import Mesh, Points
from ulvet.core.geometry.topology import edges_of
from ulvet.core.progress import Progress, no_progress

__all__ = ["collapse_within"]

_TOLERANCES = (1e-4, 1e-3, 1e-2, 0.05, 0.2, 0.5, 1.0, 2.0, 4.0, 8.0, 16.0, 32.0)
"""Quadric errors of the passes, in squares of the distance: sums over many planes, so the last are far above it."""


@dataclass(frozen=True)
class _SampleHolders:
    """Samples of a surface (s, 3), the middles of its faces first, and a face that holds each (s,)."""

    points: Points
    by: NDArray[np.int64]


def collapse_within(mesh: Mesh, most: float, progress: Progress = no_progress) -> Mesh:
    """The mesh with as many edges collapsed as leave its samples, and those of the new one, within ``most`` mm.

    Vertices on rims, on edges of more than two faces, and where surfaces hang together by a corner, stay.
    """
    held = _samples(mesh)
    vertices, faces = np.array(mesh.vertices), np.array(mesh.faces)
    corners = corner_lists(faces, len(vertices))
    first, after = linked_lists(held.by, len(faces))
    alive = np.ones(len(faces), bool)
    stays = _staying(mesh)
    planes = _planes(mesh)
    changed = np.zeros(len(vertices), np.int64)
    before = -1.0
    for number, tolerance in enumerate(_TOLERANCES):
        progress(number / len(_TOLERANCES), f"collapsing edges, pass {number + 1} of {len(_TOLERANCES)}")
        collapse_pass(
            vertices, faces, alive, stays, planes, *corners, held.points, held.by, first, after,
            mesh.vertices, mesh.faces, changed, number + 1, before * most**2, tolerance * most**2, most**2,
        )  # fmt: skip
        before = tolerance
    left = faces[alive]
    used = np.zeros(len(vertices), bool)
    used[left] = True
    return Mesh(vertices[used], (np.cumsum(used) - 1)[left].astype(np.int32))


def _samples(mesh: Mesh) -> _SampleHolders:
    edges = edges_of(mesh)
    corners = mesh.vertices[mesh.faces]
    a, b = mesh.vertices[edges.ends[:, 0]], mesh.vertices[edges.ends[:, 1]]
    of_vertex = np.zeros(len(mesh.vertices), np.int64)
    of_vertex[mesh.faces] = np.arange(len(mesh.faces))[:, None]
    used = np.unique(mesh.faces)
    first_face = np.zeros(len(edges.ends), np.int64)
    first_face[edges.of_half] = np.arange(len(edges.of_half)) // 3
    by = [np.arange(len(mesh.faces)), first_face, of_vertex[used]]
    return _SampleHolders(
        np.ascontiguousarray(np.concatenate([corners.mean(axis=1), (a + b) / 2, mesh.vertices[used]])),
        np.concatenate(by).astype(np.int64),
    )


def _staying(mesh: Mesh) -> NDArray[np.bool_]:
    """Vertices whose faces do not go round them once: on rims, on crowded edges, where surfaces meet in a corner."""
    edges = edges_of(mesh)
    count = len(mesh.vertices)
    faces_round = np.bincount(mesh.faces.ravel(), minlength=count)
    stays = faces_round != np.bincount(edges.ends.ravel(), minlength=count)
    stays[edges.ends[(edges.uses != 2) | (edges.balance != 0)]] = True
    return np.asarray(stays)


def _planes(mesh: Mesh) -> NDArray[np.float64]:
    """The quadric (n, 10) of each vertex: the sum over its faces of the squared distance from their planes."""
    a, b, c = (mesh.vertices[mesh.faces[:, k]] for k in range(3))
    normal = np.cross(b - a, c - a)
    normal /= np.maximum(np.linalg.norm(normal, axis=1), 1e-300)[:, None]
    plane = np.concatenate([normal, -np.einsum("ij,ij->i", normal, a)[:, None]], axis=1)
    rows, columns = np.triu_indices(4)
    each = plane[:, rows] * plane[:, columns]
    quadrics = np.zeros((len(mesh.vertices), 10))
    for k in range(10):
        quadrics[:, k] = np.bincount(mesh.faces.ravel(), np.repeat(each[:, k], 3), len(mesh.vertices))
    return quadrics
