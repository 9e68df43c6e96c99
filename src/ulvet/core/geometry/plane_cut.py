"""A closed mesh cut in two by a plane, both sides closed with flat caps; everything else stays to the bit."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.holes import directed_loops, flat_triangles
from ulvet.core.geometry.mesh import Floats, Mesh, Points, bounds
from ulvet.core.geometry.rods import tangents_of
from ulvet.core.geometry.topology import connected_groups, without_unused_vertices

__all__ = ["PlaneCut", "beyond_plane", "cut_at_plane", "hanging_together", "plane_axes", "vertex_free_level"]

_CLEAR = 2e-5
"""A plane may be moved by so much of a mesh's longest side to pass between vertices: 1.5 micrometres in 75 mm."""
Flags = NDArray[np.bool_]


@dataclass(frozen=True)
class PlaneCut:
    """The two sides of a cut, each closed, and how many faces their caps have, which are their last."""

    beyond: Mesh
    rest: Mesh
    capped: int


def vertex_free_level(heights: Floats, highest: float) -> float:
    """The middle of the widest gap between ``heights`` from 0 to ``highest``: no vertex lies in a plane there."""
    within = heights[(heights > 0) & (heights < highest)]
    stops = np.unique(np.concatenate([[0.0], within, [highest]]))
    widest = int(np.argmax(np.diff(stops)))
    return float((stops[widest] + stops[widest + 1]) / 2)


def beyond_plane(mesh: Mesh, point: Points, normal: Points) -> tuple[Floats, Points]:
    """How far every vertex lies beyond a plane, (n,), moved a little so that none lies in it; and a point (3,) of it
    then."""
    heights = (mesh.vertices - point) @ normal
    shift = vertex_free_level(heights, _CLEAR * float(np.ptp(bounds(mesh), axis=0).max()))
    return heights - shift, point + normal * shift


def hanging_together(mesh: Mesh, beyond: Flags, with_any: Flags) -> Flags:
    """Which vertices ``beyond`` (n,) hang together with any of ``with_any`` (n,) by edges that are beyond as well."""
    starts, ends = mesh.faces.ravel(), np.roll(mesh.faces, -1, axis=1).ravel()
    both = beyond[starts] & beyond[ends]
    _, group = connected_groups(len(mesh.vertices), np.stack([starts[both], ends[both]], axis=1).astype(np.int64))
    return np.asarray(beyond & np.isin(group, group[beyond & with_any]))


def cut_at_plane(
    mesh: Mesh, height: Floats, off: Flags, point: Points, normal: Points, shell: NDArray[np.int64] | None = None
) -> PlaneCut | None:
    """A closed mesh taken apart where edges lead from vertices that are ``off`` (n,) to others through a plane, which
    goes through ``point`` (3,) along ``normal`` (3,); ``height`` (n,) is how far each vertex lies beyond it, never 0.

    ``off`` vertices lie beyond, and so does every neighbour of theirs that is not off lie before. None where no flat
    face closes the cut. With ``shell`` (n,), that of every vertex, each shell is closed by itself, as if the others
    were not there; a cavity is of the shell it lies in.
    """
    corners = off[mesh.faces].sum(axis=1)
    # First the one corner that is on its own.
    one, two = (_turned(mesh.faces[corners == count], off, lone) for count, lone in ((1, True), (2, False)))
    ends = np.concatenate([one[:, [1, 0]], one[:, [2, 0]], two[:, [0, 1]], two[:, [0, 2]]])
    cut, which = np.unique(ends, axis=0, return_inverse=True)
    low, high = height[cut[:, 0], None], height[cut[:, 1], None]
    between = mesh.vertices[cut[:, 0]] + (mesh.vertices[cut[:, 1]] - mesh.vertices[cut[:, 0]]) * (low / (low - high))
    # Into the plane to the last bit that rounding allows, so that both caps are flat.
    between -= ((between - point) @ normal)[:, None] * normal
    new = (which.ravel() + len(mesh.vertices)).astype(np.int32)
    first, second, third, fourth = np.split(new, np.cumsum([len(one), len(one), len(two)]))
    stump = [
        mesh.faces[corners == 0],
        np.stack([first, one[:, 1], one[:, 2]], axis=1),
        np.stack([first, one[:, 2], second], axis=1),
        np.stack([two[:, 0], third, fourth], axis=1),
    ]
    piece = [
        mesh.faces[corners == 3],
        np.stack([one[:, 0], first, second], axis=1),
        np.stack([third, two[:, 1], two[:, 2]], axis=1),
        np.stack([third, two[:, 2], fourth], axis=1),
    ]
    points = np.concatenate([mesh.vertices, between])
    # The lid of what is left runs against the new edges of its faces.
    starts = np.concatenate([first, fourth]).astype(np.int64)
    ends = np.concatenate([second, third]).astype(np.int64)
    if not np.array_equal(np.bincount(starts, minlength=len(points)), np.bincount(ends, minlength=len(points))):
        return None
    rims = directed_loops(starts, ends)
    of_rim = [0 if shell is None else int(shell[cut[rim[0] - len(mesh.vertices), 0]]) for rim in rims]
    lids = [
        _lid(points, [rim for rim, of in zip(rims, of_rim, strict=True) if of == one], point, normal)
        for one in sorted(set(of_rim))
    ]
    known = [lid for lid in lids if lid is not None]
    if not known or len(known) < len(lids):
        return None
    lid = np.concatenate(known)
    return PlaneCut(
        beyond=without_unused_vertices(Mesh(points, np.concatenate([*piece, lid[:, ::-1]]))),
        rest=without_unused_vertices(Mesh(points, np.concatenate([*stump, lid]))),
        capped=len(lid),
    )


def _lid(points: Points, rims: list[NDArray[np.int64]], point: Points, normal: Points) -> NDArray[np.int32] | None:
    """Faces in a plane over what rims (n,) bound there, looking along its normal; None where rims cross or touch."""
    if not rims:
        return None
    across = plane_axes(normal)
    cap = flat_triangles([(points[rim] - point) @ across.T for rim in rims])
    return None if cap is None else np.concatenate(rims)[cap].astype(np.int32)


def plane_axes(normal: Points) -> Points:
    """Two unit vectors (2, 3) of a plane, counter-clockwise as seen against its normal (3,)."""
    u, v = (axis[0] for axis in tangents_of(normal[None]))
    return np.stack([u, v] if np.dot(np.cross(u, v), normal) > 0 else [v, u])


def _turned(faces: NDArray[np.int32], off: Flags, lone: bool) -> NDArray[np.int32]:
    """The faces (m, 3), each begun at the one corner of which ``off`` is as ``lone``."""
    at = np.argmax(off[faces] == lone, axis=1)
    return np.take_along_axis(faces, (at[:, None] + np.arange(3)) % 3, axis=1)
