"""Adding material where walls are too thin, and nowhere else."""

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array, diags_array
from scipy.sparse.linalg import splu
from scipy.spatial import cKDTree

from ulvet.core.gauge.thickness import measure_thickness
from ulvet.core.mend.crossing import crossing_faces
from ulvet.core.mesh import Floats, Mesh, Points, face_normals, vertex_normals
from ulvet.core.splitting import split_edges
from ulvet.core.topology import edges_of

__all__ = ["CannotThicken", "thicken_walls"]

Ints = NDArray[np.int64]

_SQUARE = 0.55  # a little under the cosine at the corner of a box
_CREASE = 0.9
_SMOOTHINGS = 2
_ROUNDS = 400
_FADES = 4.0
"""Over how many edges at least a movement fades (bench default)."""
_SPLITS = 12
_ATTEMPTS = 12
_LESS = 0.7


class CannotThicken(Exception):
    """Walls that cannot grow; the message says why and what to do."""


def thicken_walls(mesh: Mesh, wall: float, fade: float, places: Points, reach: float) -> tuple[Mesh, int, float]:
    """Grow walls under ``wall`` mm to it, near ``places`` (p, 3): the mesh, vertices moved and the greatest movement.

    Vertices within ``reach`` mm of a place whose wall is too thin move outward by half of what is missing; what is
    around them is carried along, evenly less (harmonically) to nothing over ``fade`` mm along the surface, so that no
    step shows and what stands at the foot of a pin makes room for it. Directions are smoothed over neighbours, so that
    a noisy surface does not grow spikes. At square corners the movement is
    lengthened so that the faces, not the corner, move by the half; at sharper ones, which would grow thorns, it is not.
    Faces too coarse to fade over are split first; all others stay as they are. Where faces would cross that did not
    before, the movement is evened out with what is around it until they do not. All lengths are figure mm.
    """
    fine = _split_near(mesh, places, reach + fade, fade / _FADES)
    n = len(fine.vertices)
    walls = measure_thickness(fine).walls[:n]
    near = cKDTree(places).query(fine.vertices)[0] <= reach
    missing = np.where(near & (walls < wall), (wall - walls) / 2, 0.0)
    missing[~np.isfinite(missing)] = 0
    if not missing.any():
        return mesh, 0, 0.0
    shift = _without_crossing(fine, _carried(fine, missing, fade))
    moved = np.linalg.norm(shift, axis=1)
    return Mesh(fine.vertices + shift, fine.faces), int((moved > 0).sum()), float(moved.max())


def _split_near(mesh: Mesh, places: Points, within: float, longest: float) -> Mesh:
    """Edges that pass within some mm of a place split until none of them is longer than ``longest`` mm."""
    tree = cKDTree(places)
    for _ in range(_SPLITS):
        edges = edges_of(mesh)
        ends = mesh.vertices[edges.ends]
        along = ends[:, 1] - ends[:, 0]
        long = np.linalg.norm(along, axis=1)
        asked = np.flatnonzero(long > longest)
        _, which = tree.query(ends[asked].mean(axis=1))
        # How far along each edge it is nearest to that place.
        at = np.einsum("ij,ij->i", places[which] - ends[asked, 0], along[asked]) / long[asked] ** 2
        nearest = ends[asked, 0] + np.clip(at, 0, 1)[:, None] * along[asked]
        split = np.zeros(len(long), bool)
        split[asked[np.linalg.norm(nearest - places[which], axis=1) <= within]] = True
        if not split.any():
            break
        mesh = split_edges(mesh, edges, split, ends[split].mean(axis=1))
    return mesh


def _without_crossing(mesh: Mesh, shift: Points) -> Points:
    """A movement after which no faces cross that did not before."""
    near = (shift[mesh.faces] != 0).any(axis=(1, 2))
    # What moves is looked at with what lies where it comes to.
    low, high = (mesh.vertices + np.minimum(shift, 0))[mesh.faces[near]], (mesh.vertices + np.maximum(shift, 0))
    box = low.reshape(-1, 3).min(axis=0), high[mesh.faces[near]].reshape(-1, 3).max(axis=0)
    corners = mesh.vertices[mesh.faces]
    there = (corners.max(axis=1) >= box[0]).all(axis=1) & (corners.min(axis=1) <= box[1]).all(axis=1)
    faces = np.flatnonzero(there)
    before = {tuple(pair) for pair in crossing_faces(Mesh(mesh.vertices, mesh.faces[faces])).pairs.tolist()}
    ends = edges_of(mesh).ends
    for attempt in range(_ATTEMPTS):
        pairs = crossing_faces(Mesh(mesh.vertices + shift, mesh.faces[faces])).pairs
        new = [pair for pair in pairs.tolist() if tuple(pair) not in before]
        if not new:
            return shift
        wrong = np.zeros(len(shift), bool)
        wrong[mesh.faces[faces[np.unique(new)]].ravel()] = True
        for _ in range(attempt // 2):
            wrong[ends[wrong[ends].any(axis=1)].ravel()] = True
        wrong &= (shift != 0).any(axis=1)
        shift = _evened(shift, ends, wrong, 1.0 if attempt < _ATTEMPTS // 2 else _LESS)
    raise CannotThicken("It cannot grow here without growing into itself: thicken it less, or in the sculpt")


def _evened(shift: Points, ends: Ints, wrong: NDArray[np.bool_], share: float) -> Points:
    """The movement of some vertices as the mean of what is around them, or a share of that."""
    total, count = shift.copy(), np.ones(len(shift))
    for one, other in ((0, 1), (1, 0)):
        np.add.at(total, ends[:, one], shift[ends[:, other]])
        np.add.at(count, ends[:, one], 1)
    return np.where(wrong[:, None], share * total / count[:, None], shift)


def _carried(mesh: Mesh, missing: Floats, fade: float) -> Points:
    """The movement of all vertices, (n, 3): of those that are too thin their own, around them in between, else none."""
    around = _faded(mesh, missing, float(missing.max()) / fade) > 0
    ends = edges_of(mesh).ends
    own = (missing > 0) & ~_hollows(mesh, ends)
    shift = np.where(own[:, None], _ways(mesh) * missing[:, None], 0.0)
    free = np.flatnonzero(around & ~own)
    if not len(free):
        return shift
    n = len(mesh.vertices)
    pairs = np.concatenate([ends, ends[:, ::-1]])
    beside = coo_array((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(n, n)).tocsr()[free]
    count = np.asarray(beside.sum(axis=1)).ravel()
    system = (diags_array(count) - beside[:, free]).tocsc()
    shift[free] = splu(system).solve(np.asarray(beside @ shift))
    return shift


def _hollows(mesh: Mesh, ends: Ints) -> NDArray[np.bool_]:
    """Vertices in a crease that is hollow, whose normal points into neither of its sides."""
    normals, faces = vertex_normals(mesh), face_normals(mesh)
    steepest = np.ones(len(mesh.vertices))
    for k in range(3):
        corner = mesh.faces[:, k]
        np.minimum.at(steepest, corner, np.einsum("ij,ij->i", normals[corner], faces))
    rises = np.zeros(len(mesh.vertices))
    along = mesh.vertices[ends[:, 1]] - mesh.vertices[ends[:, 0]]
    along /= np.maximum(np.linalg.norm(along, axis=1), 1e-300)[:, None]
    np.add.at(rises, ends[:, 0], np.einsum("ij,ij->i", along, normals[ends[:, 0]]))
    np.add.at(rises, ends[:, 1], -np.einsum("ij,ij->i", along, normals[ends[:, 1]]))
    return np.asarray((steepest < _CREASE) & (rises > 0))


def _faded(mesh: Mesh, movement: Floats, slope: float) -> Floats:
    """The least field above ``movement`` that falls by no more than ``slope`` a mm along edges."""
    ends = edges_of(mesh).ends
    drop = slope * np.linalg.norm(mesh.vertices[ends[:, 0]] - mesh.vertices[ends[:, 1]], axis=1)
    field = movement.copy()
    for _ in range(_ROUNDS):
        before = field.copy()
        np.maximum.at(field, ends[:, 1], before[ends[:, 0]] - drop)
        np.maximum.at(field, ends[:, 0], before[ends[:, 1]] - drop)
        if np.array_equal(before, field):
            break
    return field


def _ways(mesh: Mesh) -> Points:
    """Direction in which each vertex moves, as long as it must move for its faces to move by one; (n, 3)."""
    normals, faces = vertex_normals(mesh), face_normals(mesh)
    steepest = np.ones(len(mesh.vertices))
    for k in range(3):
        corner = mesh.faces[:, k]
        np.minimum.at(steepest, corner, np.einsum("ij,ij->i", normals[corner], faces))
    mitre = np.where(steepest >= _SQUARE, 1 / np.maximum(steepest, _SQUARE), 1.0)
    smooth = steepest >= _CREASE
    ends = edges_of(mesh).ends
    # Across a crease there is nothing to smooth.
    ends = ends[smooth[ends].all(axis=1)]
    ways = normals
    for _ in range(_SMOOTHINGS):
        around = ways.copy()
        np.add.at(around, ends[:, 0], ways[ends[:, 1]])
        np.add.at(around, ends[:, 1], ways[ends[:, 0]])
        ways = around / np.maximum(np.linalg.norm(around, axis=1), 1e-12)[:, None]
    return ways * mitre[:, None]
