"""Closed meshes as solids for exact Boolean operations (manifold3d)."""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from itertools import groupby
from typing import Any, TypeAlias

import manifold3d
import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Mesh, flipped, volume
from ulvet.core.geometry.topology import (
    Edges,
    edges_of,
    face_shells,
    is_connected,
    is_watertight,
    without_collapsed_faces,
    without_unused_vertices,
)

__all__ = [
    "Body",
    "CannotJoin",
    "Solid",
    "TooFarApart",
    "body_of",
    "drawn_body",
    "mesh_of",
    "nested",
    "shells_of",
    "solids_of",
]

_SOUND = manifold3d.Error.NoError

Body: TypeAlias = Any
"""A ``manifold3d.Manifold``, which comes without types."""


@dataclass(frozen=True)
class Solid:
    """A mesh, the body it bounds, and the number by which faces that came from it are known."""

    mesh: Mesh
    body: Body
    number: int


class CannotJoin(Exception):
    """Meshes that cannot be joined; the message says why and what to do."""


class TooFarApart(CannotJoin):
    """Meshes that do not reach into each other."""


def solids_of(*meshes: Mesh) -> list[Solid]:
    """Meshes as solids, their own overlapping shells united and their cavities kept.

    A mesh that is one shell keeps every vertex and edge: no flat faces are merged. Raises CannotJoin where one does not
    close.
    """
    with ThreadPoolExecutor(2) as workers:
        return list(workers.map(_solid_of, meshes))


def _solid_of(mesh: Mesh) -> Solid:
    mesh = without_collapsed_faces(mesh)
    body, number = body_of(mesh)
    # The library has taken no vertex apart, so that no shells meet in one: what hangs together is one shell.
    apart = body.num_vert() != len(mesh.vertices)
    if body.status() == _SOUND and not apart and is_connected(mesh) and volume(mesh) > 0:
        return Solid(mesh, body, number)
    edges = edges_of(mesh)
    if not is_watertight(edges):
        raise CannotJoin("One of them does not close: mend it first, then join it; nothing was changed.")
    shells = shells_of(mesh, edges)
    volumes = [volume(shell) for shell in shells]
    if not max(volumes) > 0:
        raise CannotJoin("One of them is inside out or flat: mend it first, then join it; nothing was changed.")
    outward = [shell if filled > 0 else flipped(shell) for shell, filled in zip(shells, volumes, strict=True)]
    whole = nested([(body_of(shell)[0], filled) for shell, filled in zip(outward, volumes, strict=True)])
    if whole.status() != _SOUND:
        raise CannotJoin(
            "One of them has edges of more than two faces or faces turned the wrong way: mend it first, then join it; "
            "nothing was changed."
        )
    body = whole.as_original()
    return Solid(mesh, body, body.original_id())


def nested(bodies: list[tuple[Body, float]]) -> Body:
    """Combine bodies by the volume (mm³) each counts for, the largest first.

    A body with a positive volume is added; one with a negative volume is a cavity and is subtracted. So a body inside a
    cavity stays, and a body inside another becomes one with it.
    """
    whole = manifold3d.Manifold()
    ordered = sorted((one for one in bodies if one[1]), key=lambda one: -abs(one[1]))
    for filled, run in groupby(ordered, key=lambda one: one[1] > 0):
        group = [body for body, _ in run]
        if filled:
            whole = manifold3d.Manifold.batch_boolean([whole, *group], manifold3d.OpType.Add)
        else:
            whole -= manifold3d.Manifold.batch_boolean(group, manifold3d.OpType.Add)
    return whole


def body_of(mesh: Mesh) -> tuple[Body, int]:
    """A body with a number of its own, every face of which is told apart from its neighbours. It has a bad status where
    the mesh is none that closes."""
    number = manifold3d.Manifold.reserve_ids(1)
    # What lies near each other in space and in memory is taken in twice as fast; the library sorts both anew anyway.
    order = np.argsort(mesh.vertices[:, 0], kind="stable")
    rank = np.empty(len(order), np.uint64)
    rank[order] = np.arange(len(order))
    faces = rank[mesh.faces]
    body = manifold3d.Manifold(
        manifold3d.Mesh64(
            mesh.vertices[order],
            faces[np.argsort(faces[:, 0], kind="stable")],
            run_index=np.array([0, 3 * len(mesh.faces)], np.uint64),
            run_original_id=np.array([number], np.uint32),
            face_id=np.arange(len(mesh.faces), dtype=np.uint64),
        )
    )
    return body, number


def drawn_body(mesh: Mesh, within: float) -> Body:
    """A surface drawn on a grid as a body, with fewer triangles, none farther than ``within`` mm off it."""
    drawn = manifold3d.Manifold(manifold3d.Mesh64(np.array(mesh.vertices), mesh.faces.astype(np.uint64)))
    return drawn.simplify(within).as_original()


def mesh_of(body: Body) -> tuple[Mesh, NDArray[np.int64]]:
    """The surface of a body, and the number of the solid each face came from, (m,)."""
    made = body.to_mesh64()
    faces = np.array(made.tri_verts, np.int32)
    ends = np.array(made.run_index, np.int64) // 3
    came = np.repeat(np.array(made.run_original_id, np.int64), np.diff(ends))
    return Mesh(np.array(made.vert_properties[:, :3]), faces), came


def shells_of(mesh: Mesh, edges: Edges | None = None) -> list[Mesh]:
    """The shells of a mesh, each by itself; its edges may be given where they are known."""
    count, shell = face_shells(mesh, edges or edges_of(mesh))
    if count == 1:
        return [mesh]
    order = np.argsort(shell, kind="stable")
    parted = np.split(mesh.faces[order], np.cumsum(np.bincount(shell, minlength=count))[:-1])
    return [without_unused_vertices(Mesh(mesh.vertices, faces)) for faces in parted]
