"""What lies beyond a plane taken off at one place, and the cut closed: everything else stays to the bit.

Subtracting the piece as a solid would do it too, but its sides are the figure's own rounded once more where the plane
cut them, and what lies between both is left standing in slivers as long as the piece.
"""

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.holes import flat_triangles, holes_of
from ulvet.core.geometry.mesh import Floats, Mesh, Points
from ulvet.core.geometry.rods import tangents_of
from ulvet.core.geometry.topology import connected_groups, edges_of, without_unused_vertices

__all__ = ["cut_at_plane", "vertex_free_level"]


def vertex_free_level(heights: Floats, highest: float) -> float:
    """The middle of the widest gap between ``heights`` from 0 to ``highest``: no vertex lies in a plane there."""
    within = heights[(heights > 0) & (heights < highest)]
    stops = np.unique(np.concatenate([[0.0], within, [highest]]))
    widest = int(np.argmax(np.diff(stops)))
    return float((stops[widest] + stops[widest + 1]) / 2)


def cut_at_plane(mesh: Mesh, piece: Points, point: Points, normal: Points) -> Mesh | None:
    """A closed mesh without what hangs together beyond a plane, through ``point`` (3,) along ``normal`` (3,), and holds
    any of the vertices ``piece`` (n, 3), to the last bit.

    No vertex may lie in the plane. None where no flat face closes the cut.
    """
    height = (mesh.vertices - point) @ normal
    off = _hanging(mesh, height > 0, piece)
    corners = off[mesh.faces].sum(axis=1)
    # First the one corner that is on its own.
    one, two = (_turned(mesh.faces[corners == count], off, lone) for count, lone in ((1, True), (2, False)))
    ends = np.concatenate([one[:, [1, 0]], one[:, [2, 0]], two[:, [0, 1]], two[:, [0, 2]]])
    cut, which = np.unique(ends, axis=0, return_inverse=True)
    low, high = height[cut[:, 0], None], height[cut[:, 1], None]
    between = mesh.vertices[cut[:, 0]] + (mesh.vertices[cut[:, 1]] - mesh.vertices[cut[:, 0]]) * (low / (low - high))
    new = (which.ravel() + len(mesh.vertices)).astype(np.int32)
    first, second, third, fourth = np.split(new, np.cumsum([len(one), len(one), len(two)]))
    faces = np.concatenate(
        [
            mesh.faces[corners == 0],
            np.stack([first, one[:, 1], one[:, 2]], axis=1),
            np.stack([first, one[:, 2], second], axis=1),
            np.stack([two[:, 0], third, fourth], axis=1),
        ]
    )
    stump = Mesh(np.concatenate([mesh.vertices, between]), faces)
    rims = holes_of(stump, edges_of(stump))
    if not rims or not all(hole.simple for hole in rims):
        return None
    u, v = (axis[0] for axis in tangents_of(normal[None]))
    across = np.stack([u, v] if np.dot(np.cross(u, v), normal) > 0 else [v, u], axis=1)
    cap = flat_triangles([(stump.vertices[hole.rim] - point) @ across for hole in rims])
    if cap is None:
        return None
    lid = np.concatenate([hole.rim for hole in rims])[cap].astype(np.int32)
    return without_unused_vertices(Mesh(stump.vertices, np.concatenate([faces, lid])))


def _hanging(mesh: Mesh, beyond: NDArray[np.bool_], piece: Points) -> NDArray[np.bool_]:
    """Which vertices beyond hang together with any of the piece's by edges that are beyond as well, (n,)."""
    starts, ends = mesh.faces.ravel(), np.roll(mesh.faces, -1, axis=1).ravel()
    both = beyond[starts] & beyond[ends]
    _, group = connected_groups(len(mesh.vertices), np.stack([starts[both], ends[both]], axis=1).astype(np.int64))
    own, of_piece = (np.ascontiguousarray(points + 0.0).view("V24").ravel() for points in (mesh.vertices, piece))
    named = beyond & np.isin(own, of_piece)
    return np.asarray(beyond & np.isin(group, group[named]))


def _turned(faces: NDArray[np.int32], off: NDArray[np.bool_], lone: bool) -> NDArray[np.int32]:
    """The faces (m, 3), each begun at the one corner of which ``off`` is as ``lone``."""
    at = np.argmax(off[faces] == lone, axis=1)
    return np.take_along_axis(faces, (at[:, None] + np.arange(3)) % 3, axis=1)
