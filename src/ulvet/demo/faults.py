"""The faults of real work, put in on purpose."""

import numpy as np

from ulvet.core.geometry.mesh import Mesh, Points

__all__ = ["combined", "turned_inside_out", "with_flat_faces", "with_hole", "with_turned_patch"]


def combined(*meshes: Mesh) -> Mesh:
    """Several shells in one object, overlapping as they may."""
    starts = np.cumsum([0, *[len(mesh.vertices) for mesh in meshes]])
    return Mesh(
        np.concatenate([mesh.vertices for mesh in meshes]),
        np.concatenate([mesh.faces + start for mesh, start in zip(meshes, starts, strict=False)]),
    )


def with_hole(mesh: Mesh, middle: Points, radius: float) -> Mesh:
    """Without the faces around the vertex nearest to a point, out to ``radius``."""
    away = np.linalg.norm(mesh.vertices - middle, axis=1)
    near = np.linalg.norm(mesh.vertices - mesh.vertices[away.argmin()], axis=1) < radius
    return Mesh(mesh.vertices, mesh.faces[~near[mesh.faces].all(axis=1)])


def with_turned_patch(mesh: Mesh, middle: Points, radius: float) -> Mesh:
    """With the faces around the vertex nearest to a point turned the wrong way."""
    away = np.linalg.norm(mesh.vertices - middle, axis=1)
    near = np.linalg.norm(mesh.vertices - mesh.vertices[away.argmin()], axis=1) < radius
    turned = near[mesh.faces].all(axis=1)
    faces = mesh.faces.copy()
    faces[turned] = faces[turned][:, ::-1]
    return Mesh(mesh.vertices, faces)


def turned_inside_out(mesh: Mesh) -> Mesh:
    """With every face looking inward."""
    return Mesh(mesh.vertices, mesh.faces[:, ::-1])


def with_flat_faces(mesh: Mesh, faces: list[int]) -> Mesh:
    """With some faces cut at the middle of a side, leaving a face without area where the neighbour was not cut."""
    vertices, kept, added = [mesh.vertices], np.ones(len(mesh.faces), bool), []
    for k, face in enumerate(faces):
        a, b, c = mesh.faces[face]
        middle = len(mesh.vertices) + k
        vertices.append((mesh.vertices[[a]] + mesh.vertices[[b]]) / 2)
        kept[face] = False
        added += [[a, middle, c], [middle, b, c], [a, b, middle]]
    new = np.concatenate([mesh.faces[kept], np.array(added, np.int32)])
    return Mesh(np.concatenate(vertices), new)
