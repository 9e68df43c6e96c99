"""How the keys of a joint fit their holes: least gap, overlap, and in how many ways they go in. Print mm."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ulvet.core.geometry.mesh import Mesh, Points, bounds, face_normals, faces_in_box
from ulvet.core.geometry.plane_cut import beyond_plane, cut_at_plane
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.solids import CannotJoin, solids_of
from ulvet.core.geometry.topology import submesh
from ulvet.core.part.joints import Joint, keys_at
from ulvet.core.part.key_shapes import lead_in
from ulvet.core.part.ways_round import FlatKey, ways_round
from ulvet.core.recipe.seams import MadeKey
from ulvet.core.recipe.step import Part

__all__ = ["KeyPair", "about_keys", "fine_places", "flat_keys", "key_gap", "key_pairs", "overlap_of", "ways_of"]

_FLANK = 0.6
"""Cosine to the way in under which a face is of a key's flank, and no floor, tip or lead-in (45 degrees)."""
_BEYOND = 0.6
"""Mm about a key that belong to it: lead-in and groove."""
_MARGIN = 0.01
"""Of a box's longest side, by which more than it is looked at."""
_FINEST = 0.02
"""Mm: no points are closer than they are drawn in."""
_SPREAD = np.array([[1 / 3, 1 / 3, 1 / 3], [0.9, 0.05, 0.05], [0.05, 0.9, 0.05], [0.05, 0.05, 0.9]])
"""Places of a face at which the gap is measured, as weights of its corners."""


@dataclass(frozen=True)
class KeyPair:
    """One key as both parts of a joint have it."""

    first: MadeKey
    second: MadeKey

    @property
    def peg_first(self) -> bool | None:
        """Whether the first part has the peg; None where neither has one."""
        if "peg" not in (self.first.role, self.second.role):
            return None
        return self.first.role == "peg"

    @property
    def hole(self) -> MadeKey:
        """The side with the hole, or the first of both."""
        return self.second if self.peg_first else self.first


def key_pairs(joint: Joint, first: Part, second: Part, factor: float) -> list[KeyPair]:
    """The keys of a joint."""
    others = {(key.step, key.number): key for key in keys_at(second, joint, factor)}
    pairs = [(key, others.get((key.step, key.number))) for key in keys_at(first, joint, factor)]
    return [KeyPair(key, other) for key, other in pairs if other is not None]


def flat_keys(joint: Joint, pairs: Sequence[KeyPair], factor: float) -> list[FlatKey]:
    """The keys of a joint in its plane."""
    found = []
    for pair in pairs:
        hole = pair.hole
        middle = (np.array(hole.point) * factor - joint.origin) @ joint.axes.T
        across = np.array(hole.across) @ joint.axes.T
        own = float(hole.size) - 2 * float(hole.gap)
        found.append(FlatKey(hole.shape, middle, own, float(np.arctan2(across[1], across[0])), float(hole.gap)))
    return found


def ways_of(joint: Joint, pairs: Sequence[KeyPair], factor: float) -> int | None:
    """In how many ways the keys of a joint go in; None where it turns freely, 0 without keys."""
    alike = all(pair.peg_first is None for pair in pairs)
    return ways_round(flat_keys(joint, pairs, factor), flips=alike)


def key_gap(pair: KeyPair, first: Mesh, second: Mesh, factor: float) -> float | None:
    """The least air between the flank of a peg and its hole along the normal, mm; less than none where they overlap,
    None where there is no peg."""
    if pair.peg_first is None:
        return None
    peg, hole, of_peg, of_hole = (
        (pair.first, pair.second, first, second) if pair.peg_first else (pair.second, pair.first, second, first)
    )
    way = np.array(peg.way)
    middle = np.array(peg.point) * factor + way * float(peg.deep) / 2
    reach = max(float(hole.size), float(hole.deep)) + _BEYOND
    out, into = (_near(mesh, middle, reach) for mesh in (of_peg, of_hole))
    radius = float(hole.size) * np.sqrt(0.5) + _BEYOND
    gaps = [
        _least(_flank(one, np.array(peg.point) * factor, way, float(peg.deep), radius), other)
        for one, other in ((out, into), (into, out))
    ]
    return min(gaps)


def about_keys(mesh: Mesh, pairs: Sequence[KeyPair], factor: float) -> Mesh:
    """What of a mesh, print mm, lies about some keys, so that each is soon looked at."""
    if not pairs:
        return mesh
    places = [(np.array(pair.hole.point) * factor, float(pair.hole.deep + pair.hole.size)) for pair in pairs]
    low = np.min([middle - reach for middle, reach in places], axis=0)
    high = np.max([middle + reach for middle, reach in places], axis=0)
    return submesh(mesh, faces_in_box(mesh, low - _BEYOND, high + _BEYOND))[0]


def _near(mesh: Mesh, middle: Points, reach: float) -> Mesh:
    return submesh(mesh, faces_in_box(mesh, middle - reach, middle + reach))[0]


def _flank(mesh: Mesh, foot: Points, way: Points, deep: float, radius: float) -> tuple[Points, Points]:
    """Places on what stands upright about a key's axis, below its lead-in, and the normals there."""
    normals = face_normals(mesh)
    places = np.einsum("sc,fcd->sfd", _SPREAD, mesh.vertices[mesh.faces])
    along = (places - foot) @ way
    beside = np.linalg.norm(places - foot - along[..., None] * way, axis=2)
    of_key = (np.abs(normals @ way) < _FLANK) & (along > lead_in(deep)).all(axis=0) & (along < deep).all(axis=0)
    of_key &= (beside < radius).all(axis=0)
    chosen = places[:, of_key]
    return chosen.reshape(-1, 3), np.tile(normals[of_key], (len(_SPREAD), 1))


def _least(places: tuple[Points, Points], other: Mesh) -> float:
    """How far it is from places along their normals to another surface; below zero where they lie behind it."""
    points, normals = places
    if not len(points) or not len(other.faces):
        return np.inf
    rays = Rays(other)
    ahead, face = rays.first(points, normals)
    hit = face >= 0
    inside = np.zeros(len(points), bool)
    inside[hit] = np.einsum("ij,ij->i", rays.normals[face[hit]], normals[hit]) > 0
    back, behind = rays.first(points, -normals)
    deep = np.where(inside & (behind >= 0), -back, ahead)
    return float(deep.min())


def overlap_of(first: Mesh, second: Mesh) -> float | None:
    """Cubic mm that two meshes share; None where one does not close."""
    low = np.maximum(bounds(first)[0], bounds(second)[0])
    high = np.minimum(bounds(first)[1], bounds(second)[1])
    if (low >= high).any():
        return 0.0
    try:
        one, other = solids_of(*(_within(mesh, low, high) for mesh in (first, second)))
    except CannotJoin:
        return None
    return abs(float((one.body ^ other.body).volume()))


def _within(mesh: Mesh, low: Points, high: Points) -> Mesh:
    """What of a mesh lies in a box, closed again where its sides pass, and a little more; all of it where no flat face
    closes it there."""
    left, margin = mesh, _MARGIN * float((high - low).max())
    for axis in range(3):
        for way, side in ((1.0, high[axis] + margin), (-1.0, margin - low[axis])):
            normal = way * np.eye(3)[axis]
            height, point = beyond_plane(left, normal * side, normal)
            if (height > 0).any():
                made = cut_at_plane(left, height, height > 0, point, normal)
                if made is None:
                    return mesh
                left = made.rest
    return left


def fine_places(pairs: Sequence[KeyPair], factor: float) -> tuple[tuple[Points, float, float], ...]:
    """Where the keys of a part have to be sounded finely: a middle (3,), its reach, and how far apart points may be."""
    found = []
    for pair in pairs:
        for key in (pair.first, pair.second):
            middle = np.array(key.point) * factor
            reach = max(float(key.deep), float(key.size)) + _BEYOND
            found.append((middle, reach, max(float(key.gap) / 2, _FINEST)))
    return tuple(found)
