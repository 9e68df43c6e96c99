"""Cutting small tangles of crossing faces out and filling the holes."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.crossing import crossing_faces
from ulvet.core.geometry.fans import without_nonmanifold
from ulvet.core.geometry.holes import close_holes
from ulvet.core.geometry.mesh import Mesh, Points, area
from ulvet.core.geometry.topology import connected_groups, edges_of, without_unused_vertices
from ulvet.core.lengths import spoken

__all__ = ["TangleTooWide", "cut_tangles_out", "erode_rims"]

Mask = NDArray[np.bool_]
_ROUNDS = 8
"""Times that tangles are cut out; closing a hole may leave others."""
_WORN = 0.02
"""Share of the area that may be worn back (bench default)."""


class TangleTooWide(Exception):
    """A tangle that is no small one; the message says how wide it is."""


def cut_tangles_out(
    mesh: Mesh,
    widest: float,
    between: Callable[[], None] = lambda: None,
    within: tuple[Points, Points] | None = None,
) -> Mesh:
    """A mesh whose crossing faces, where they reach no farther than ``widest`` mm, are cut out with those round them
    and closed over without new vertices; also rims that are open. The rest keeps its coordinates.

    Each round cuts wider than the one before; what is not settled by the last is left. ``between`` is called before
    each and may raise. With ``within``, the low and the high corner (3,) of a box, only what reaches into it is cut
    out. Raises TangleTooWide.
    """
    for number in range(_ROUNDS):
        between()
        bad = _wrong(mesh)
        if within is not None:
            bad &= _reaching_into(mesh, within)
        if not bad.any():
            break
        if (wide := _widest(mesh, bad)) > widest:
            raise TangleTooWide(f"what crosses reaches over {spoken(wide)} mm")
        for _ in range(1 + number // 2):
            touched = np.zeros(len(mesh.vertices), bool)
            touched[mesh.faces[bad]] = True
            bad = np.asarray(touched[mesh.faces].any(axis=1))
        mesh = without_unused_vertices(close_holes(without_nonmanifold(Mesh(mesh.vertices, mesh.faces[~bad])))[0])
    return mesh


def erode_rims(mesh: Mesh) -> Mesh:
    """Remove faces at rims that cannot be filled until they can be.

    Scraps of surface vanish and knotted rims come apart. Where more than a fiftieth of the surface would go, the mesh
    stays as it was.
    """
    before, least = mesh, (1 - _WORN) * area(mesh)
    for _ in range(_ROUNDS):
        edges = edges_of(mesh)
        if not edges.open.any():
            return mesh
        at_rim = edges.open[edges.of_half].reshape(-1, 3).any(axis=1)
        rest = Mesh(mesh.vertices, mesh.faces[~at_rim])
        if area(rest) < least:
            return before
        mesh = without_unused_vertices(close_holes(without_nonmanifold(rest))[0])
    return before


def _reaching_into(mesh: Mesh, box: tuple[Points, Points]) -> Mask:
    corners = mesh.vertices[mesh.faces]
    return np.asarray(((corners.max(axis=1) >= box[0]) & (corners.min(axis=1) <= box[1])).all(axis=1))


def _wrong(mesh: Mesh) -> Mask:
    """Faces that cross another, and those at an open edge."""
    edges = edges_of(mesh)
    bad = np.asarray(edges.open[edges.of_half].reshape(-1, 3).any(axis=1))
    bad[crossing_faces(mesh).faces] = True
    return bad


def _widest(mesh: Mesh, bad: Mask) -> float:
    """The longest side of the box about any patch of faces that hang together by a vertex."""
    faces = mesh.faces[bad].astype(np.int64)
    pairs = np.concatenate([faces[:, :2], faces[:, 1:]])
    count, group = connected_groups(len(mesh.vertices), pairs)
    low, high = np.full((count, 3), np.inf), np.full((count, 3), -np.inf)
    used = np.unique(faces)
    np.minimum.at(low, group[used], mesh.vertices[used])
    np.maximum.at(high, group[used], mesh.vertices[used])
    return float((high - low).max(initial=0.0))
