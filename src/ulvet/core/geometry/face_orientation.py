"""The orientation of faces: whether neighbours agree, and whether each shell looks outward."""

from dataclasses import dataclass

import igl  # its module under a copyleft licence is never imported
import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Floats, Mesh, Points, face_areas
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.topology import Edges, connected_groups, edges_of, paired_faces

__all__ = [
    "WITHIN",
    "FaceOrientation",
    "enclosure_of",
    "face_orientation_of",
    "open_shell_winding_numbers",
    "orient_faces",
    "shell_volumes",
]

Mask = NDArray[np.bool_]
Ints = NDArray[np.int64]
_SHEET = 0.02
"""Volume over area to the power of 1.5 under which a shell is a sheet that has no inside (bench default)."""
WITHIN = 0.5
"""Winding number of a shell with holes from which on a place lies in what it would enclose."""
_WAYS = np.array([[0.267, 0.535, 0.802], [-0.744, 0.331, 0.580], [0.424, -0.566, -0.707]])
_WAYS /= np.linalg.norm(_WAYS, axis=1)[:, None]


@dataclass(frozen=True)
class FaceOrientation:
    """How the faces of a mesh are oriented.

    ``shell`` (m,) is the shell of each face, joined over edges of two faces. ``against`` (m,) marks the faces to flip
    so that their shell agrees with itself. ``inverted`` (shells,) marks shells that then look inward although no other
    shell encloses them. ``twisted`` (shells,) marks one-sided shells, which cannot agree at all.
    """

    shell: Ints
    against: Mask
    inverted: Mask
    twisted: Mask


def face_orientation_of(mesh: Mesh, edges: Edges) -> FaceOrientation:
    """Find the orientation of every face and shell.

    Agreement is a two-colouring of faces over shared edges, found as connected components of a graph with two nodes a
    face. A shell that looks inward inside another shell is a cavity and counts as right.
    """
    faces = len(mesh.faces)
    pairs, agree = paired_faces(edges)
    count, shell = connected_groups(faces, pairs)
    against, twisted = np.zeros(faces, bool), np.zeros(count, bool)
    if not agree.all():
        against, twisted = _disagreeing(pairs, agree, shell, count)
    agreed = _turned(mesh, against)
    volumes = shell_volumes(agreed, edges, shell, count)
    closed = np.bincount(shell, edges.open[edges.of_half].reshape(-1, 3).any(axis=1), count) == 0
    inward = (volumes < 0) & ~twisted
    # An open sheet encloses nothing worth calling inside: a sphere has 0.094 of this measure.
    areas = np.bincount(shell, face_areas(mesh), minlength=count)
    inward &= closed | (-volumes > _SHEET * areas**1.5)
    asked = np.flatnonzero(inward)
    inverted = inward.copy()
    enclosed = enclosure_of(agreed, shell, asked, closed)[0]
    # Whichever way these look, as that is just what is being found out.
    enclosed ^= closed[asked] & (np.abs(open_shell_winding_numbers(agreed, shell, asked, closed)) > WITHIN)
    inverted[asked] = ~enclosed
    return FaceOrientation(shell, against, inverted, twisted)


def _disagreeing(pairs: Ints, agree: Mask, shell: Ints, count: int) -> tuple[Mask, Mask]:
    """Mark the faces (m,) to flip, the fewer of each shell, and the shells (shells,) that cannot agree."""
    faces = len(shell)
    other = np.where(agree, pairs[:, 1], pairs[:, 1] + faces)
    mirror = np.where(agree, pairs[:, 1] + faces, pairs[:, 1])
    doubled = np.concatenate([np.stack([pairs[:, 0], other], 1), np.stack([pairs[:, 0] + faces, mirror], 1)])
    _, colour = connected_groups(2 * faces, doubled)
    twisted = np.zeros(count, bool)
    np.logical_or.at(twisted, shell, colour[:faces] == colour[faces:])
    first = np.full(count, faces, np.int64)
    np.minimum.at(first, shell, np.arange(faces))
    against = colour[:faces] != colour[first[shell]]
    turned = np.bincount(shell, against, minlength=count)
    against ^= (2 * turned > np.bincount(shell, minlength=count))[shell]
    return against & ~twisted[shell], twisted


def orient_faces(mesh: Mesh) -> tuple[Mesh, dict[str, int]]:
    """Flip faces so that every shell agrees with itself and looks outward, cavities inward; say what was flipped."""
    winding = face_orientation_of(mesh, edges_of(mesh))
    turn = winding.against ^ winding.inverted[winding.shell]
    counts = {
        "against": int(winding.against.sum()),
        "shells-inverted": int(winding.inverted.sum()),
        "shells-twisted": int(winding.twisted.sum()),
    }
    return _turned(mesh, turn), counts


def shell_volumes(mesh: Mesh, edges: Edges, shell: Ints, count: int) -> Floats:
    """Signed volume of every shell, (count,) mm³.

    An open shell is measured as if each face reached to the middle of its rim, which closes one flat hole exactly; a
    closed one from its own middle, so that a small one far from the origin keeps its sign.
    """
    halves = np.flatnonzero(edges.open[edges.of_half])
    middle = _middles(mesh.vertices[mesh.faces[:, 0]], shell, count)
    rims = shell[halves // 3]
    middle[rims] = _middles(mesh.vertices[mesh.faces.ravel()[halves]], rims, count)[rims]
    a, b, c = (mesh.vertices[mesh.faces[:, k]] - middle[shell] for k in range(3))
    volumes = np.einsum("ij,ij->i", a, np.cross(b, c)) / 6
    return np.bincount(shell, volumes, minlength=count).astype(np.float64)


def _middles(points: Points, of: Ints, count: int) -> Points:
    """Average points (p, 3) by owner, (count, 3)."""
    weight = np.maximum(np.bincount(of, minlength=count), 1)
    return np.stack([np.bincount(of, points[:, k], count) / weight for k in range(3)], axis=1)


def _turned(mesh: Mesh, turn: Mask) -> Mesh:
    faces = mesh.faces.copy()
    faces[turn] = faces[turn][:, ::-1]
    return Mesh(mesh.vertices, faces)


def enclosure_of(mesh: Mesh, shell: Ints, asked: Ints, closed: Mask) -> tuple[Mask, Mask]:
    """Of the asked shells, by their numbers, which lie inside an odd number of other closed shells, whichever way these
    look, and which lie in the material of others as they look; both (asked,).

    A ray from a shell crosses the others an odd number of times just when it lies inside an odd number of them, and
    leaves more than it enters just when it begins in their material. Three rays in unrelated directions vote, since one
    may graze an edge.
    """
    odd, deep = np.zeros(len(asked), np.int64), np.zeros(len(asked), np.int64)
    if len(closed) > 1 and len(asked):
        _, first = np.unique(shell, return_index=True)
        starts = mesh.vertices[mesh.faces[first[asked]]].mean(axis=1)
        rays = Rays(mesh)
        for way in _WAYS:
            number, net = rays.passed(starts, np.tile(way, (len(asked), 1)), shell, asked, closed)
            odd += number % 2
            deep += net > 0
    return odd >= 2, deep >= 2


def open_shell_winding_numbers(mesh: Mesh, shell: Ints, asked: Ints, closed: Mask) -> Floats:
    """Sum the winding numbers of all open shells at each asked shell, (asked,) (Jacobson and others 2013)."""
    faces = mesh.faces[~closed[shell]].astype(np.int64)
    if not len(faces) or not len(asked):
        return np.zeros(len(asked))
    _, first = np.unique(shell, return_index=True)
    spots = mesh.vertices[mesh.faces[first[asked]]].mean(axis=1)
    return np.asarray(igl.fast_winding_number(mesh.vertices, faces, spots))
