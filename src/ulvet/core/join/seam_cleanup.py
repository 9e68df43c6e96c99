"""What cutting leaves along a seam: faces of no height, and slivers that fold over each other."""

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.crossing import crossing_faces
from ulvet.core.geometry.degenerate_faces import drop_faces, zero_area_faces
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.geometry.topology import edges_of, is_watertight, without_unused_vertices
from ulvet.core.geometry.untangling import TangleTooWide, cut_tangles_out
from ulvet.core.tolerances import BENCH_TOLERANCES

__all__ = ["clean_seam"]

_HEIGHT = BENCH_TOLERANCES.zero_area_height
_RINGS = 4
"""Faces about one of no height that may change with it."""
_WIDEST = 0.02
"""A tangle of slivers is at most this share of the longest side (bench default)."""

Mask = NDArray[np.bool_]


def clean_seam(mesh: Mesh, came: NDArray[np.int64], own: tuple[int, int]) -> Mesh:
    """A joined mesh whose slivers along the seams do not cross and have a height; ``came`` (m,) says which body each
    face came from, ``own`` which of them are the two that were joined. Seams are where bodies meet.

    Faces of no height are closed up, what crosses is cut out and closed over without new vertices, only a few faces
    about them change. What that does not settle stays as it was.
    """
    owner = np.empty(len(mesh.vertices), np.int64)
    owner[mesh.faces] = came[:, None]
    at_seam = _ring(mesh, (owner[mesh.faces] != came[:, None]).any(axis=1))
    made = at_seam | ~np.isin(came, own)
    flat = made.copy()
    flat[made] = zero_area_faces(Mesh(mesh.vertices, mesh.faces[made]), _HEIGHT)
    if flat.any():
        mesh, at_seam = _without(mesh, flat, at_seam)
    seam = Mesh(mesh.vertices, mesh.faces[_ring(mesh, at_seam)])
    if not len(tangle := crossing_faces(seam).faces):
        return mesh
    corners = seam.vertices[seam.faces[tangle]].reshape(-1, 3)
    widest = _WIDEST * float(np.ptp(mesh.vertices, axis=0).max())
    try:
        free = cut_tangles_out(mesh, widest, within=(corners.min(axis=0), corners.max(axis=0)))
    except TangleTooWide:
        return mesh
    return free if is_watertight(edges_of(free)) else mesh


def _without(mesh: Mesh, flat: Mask, at_seam: Mask) -> tuple[Mesh, Mask]:
    """Without some faces of no height, and what is at a seam then; only a few faces about them change."""
    about = flat
    for _ in range(_RINGS):
        about = _ring(mesh, about)
    old = without_unused_vertices(Mesh(mesh.vertices, mesh.faces[about]))
    new, _ = drop_faces(old, _HEIGHT)
    if len(crossing_faces(new).pairs) > len(crossing_faces(old).pairs) or _rim(new) != _rim(old):
        return mesh, at_seam
    # What is left of its vertices has kept its bits.
    number = {bytes(mesh.vertices[k]): k for k in np.unique(mesh.faces[about])}
    again = np.array([number[bytes(vertex)] for vertex in new.vertices], np.int32)[new.faces]
    whole = Mesh(mesh.vertices, np.concatenate([mesh.faces[~about], again]))
    return without_unused_vertices(whole), np.append(at_seam[~about], np.ones(len(again), bool))


def _ring(mesh: Mesh, faces: Mask) -> Mask:
    """Some faces and all that share a corner with them."""
    touched = np.zeros(len(mesh.vertices), bool)
    touched[mesh.faces[faces]] = True
    return np.asarray(touched[mesh.faces].any(axis=1))


def _rim(mesh: Mesh) -> set[tuple[bytes, ...]]:
    """The edges of one face, by the bits of their ends."""
    edges = edges_of(mesh)
    return {tuple(sorted(map(bytes, mesh.vertices[ends]))) for ends in edges.ends[edges.open]}
