"""Which way faces look: agreeing with their neighbours, and outward as a shell."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulvet.core.mesh import Floats, Mesh, Points, face_areas
from ulvet.core.topology import Edges, edges_of, joined_groups, paired_faces

__all__ = ["Winding", "orient_faces", "shell_volumes", "winding_of"]

Mask = NDArray[np.bool_]
Ints = NDArray[np.int64]
_SHEET = 0.02


@dataclass(frozen=True)
class Winding:
    """How the faces of a mesh look.

    ``shell`` (m,) is the shell of each face over edges of two faces; ``against`` (m,) the faces to be turned for
    each shell to agree with itself; ``inverted`` (shells,) shells that, once they agree, look inward though no
    other shell encloses them; ``twisted`` (shells,) one-sided shells, which cannot agree at all.
    """

    shell: Ints
    against: Mask
    inverted: Mask
    twisted: Mask


def winding_of(mesh: Mesh, edges: Edges) -> Winding:
    """The winding of every face and shell.

    Agreement is the two-colouring of faces over their shared edges, found as connected components of the graph
    with two nodes a face. A shell that looks inward inside another one is a cavity and right as it is.
    """
    faces = len(mesh.faces)
    pairs, agree = paired_faces(edges)
    other = np.where(agree, pairs[:, 1], pairs[:, 1] + faces)
    mirror = np.where(agree, pairs[:, 1] + faces, pairs[:, 1])
    doubled = np.concatenate([np.stack([pairs[:, 0], other], 1), np.stack([pairs[:, 0] + faces, mirror], 1)])
    _, colour = joined_groups(2 * faces, doubled)
    count, shell = joined_groups(faces, pairs)
    twisted = np.zeros(count, bool)
    np.logical_or.at(twisted, shell, colour[:faces] == colour[faces:])
    first = np.full(count, faces, np.int64)
    np.minimum.at(first, shell, np.arange(faces))
    against = colour[:faces] != colour[first[shell]]
    # Turn the fewer ones of each shell.
    turned = np.bincount(shell, against, minlength=count)
    against ^= (2 * turned > np.bincount(shell, minlength=count))[shell]
    against &= ~twisted[shell]
    agreed = _turned(mesh, against)
    volumes = shell_volumes(agreed, edges, shell, count)
    closed = np.bincount(shell, edges.open[edges.of_half].reshape(-1, 3).any(axis=1), count) == 0
    inward = (volumes < 0) & ~twisted
    # An open sheet encloses nothing worth calling inside: a sphere has 0.094 of this measure.
    areas = np.bincount(shell, face_areas(mesh), minlength=count)
    inward &= closed | (-volumes > _SHEET * areas**1.5)
    inverted = inward & ~_enclosed(agreed, shell, inward, closed)
    return Winding(shell, against, inverted, twisted)


def orient_faces(mesh: Mesh) -> tuple[Mesh, dict[str, int]]:
    """With every shell agreeing with itself and looking outward (cavities inward), and what was turned."""
    winding = winding_of(mesh, edges_of(mesh))
    turn = winding.against ^ winding.inverted[winding.shell]
    counts = {
        "against": int(winding.against.sum()),
        "shells-inverted": int(winding.inverted.sum()),
        "shells-twisted": int(winding.twisted.sum()),
    }
    return _turned(mesh, turn), counts


def shell_volumes(mesh: Mesh, edges: Edges, shell: Ints, count: int) -> Floats:
    """Signed volume of every shell, (count,) mm³.

    An open shell is measured as if each face reached to the middle of its rim, which closes one flat hole exactly.
    """
    rim = edges.open[edges.of_half]
    halves = np.flatnonzero(rim)
    of = shell[halves // 3]
    weight = np.maximum(np.bincount(of, minlength=count), 1)
    starts = mesh.vertices[mesh.faces.ravel()[halves]]
    middle = np.stack([np.bincount(of, starts[:, k], count) / weight for k in range(3)], axis=1)
    a, b, c = (mesh.vertices[mesh.faces[:, k]] - middle[shell] for k in range(3))
    volumes = np.einsum("ij,ij->i", a, np.cross(b, c)) / 6
    return np.bincount(shell, volumes, minlength=count).astype(np.float64)


def _turned(mesh: Mesh, turn: Mask) -> Mesh:
    faces = mesh.faces.copy()
    faces[turn] = faces[turn][:, ::-1]
    return Mesh(mesh.vertices, faces)


def _enclosed(mesh: Mesh, shell: Ints, asked: Mask, closed: Mask) -> Mask:
    """Which of the asked shells lie inside an odd number of other closed shells, by winding number; (shells,)."""
    count = len(asked)
    corners = mesh.vertices[mesh.faces]
    low, high = np.full((count, 3), np.inf), np.full((count, 3), -np.inf)
    np.minimum.at(low, shell, corners.min(axis=1))
    np.maximum.at(high, shell, corners.max(axis=1))
    order = np.argsort(shell, kind="stable")
    ends = np.searchsorted(shell[order], np.arange(count + 1))
    inside = np.zeros(count, bool)
    for inner in np.flatnonzero(asked):
        around = closed & (low < low[inner]).all(axis=1) & (high > high[inner]).all(axis=1)
        point = corners[order[ends[inner]]].mean(axis=0)
        depth = sum(
            abs(_winding_number(corners[order[ends[outer] : ends[outer + 1]]], point)) > 0.5
            for outer in np.flatnonzero(around)
        )
        inside[inner] = depth % 2 == 1
    return inside


def _winding_number(triangles: Points, point: Points) -> float:
    """Solid angle of triangles (t, 3, 3) seen from a point, over 4π (Van Oosterom and Strackee 1983)."""
    a, b, c = (triangles[:, k] - point for k in range(3))
    la, lb, lc = (np.linalg.norm(v, axis=1) for v in (a, b, c))
    above = np.einsum("ij,ij->i", a, np.cross(b, c))
    below = (
        la * lb * lc
        + np.einsum("ij,ij->i", a, b) * lc
        + np.einsum("ij,ij->i", b, c) * la
        + np.einsum("ij,ij->i", c, a) * lb
    )
    return float(np.arctan2(above, below).sum() / (2 * np.pi))
