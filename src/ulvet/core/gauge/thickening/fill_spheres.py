"""Filling thin walls with swept spheres, where moving the surface was not enough."""

from dataclasses import dataclass

import manifold3d
import numpy as np
from numpy.typing import NDArray
from scipy.spatial import ConvexHull, cKDTree

from ulvet.core.gauge.walls.remeasure import REACHED, ThinNear, thin_near
from ulvet.core.gauge.walls.thickness import LocalThickness, smooth_vertices
from ulvet.core.geometry.crossing import crossing_faces
from ulvet.core.geometry.degenerate_faces import zero_area_faces
from ulvet.core.geometry.mesh import Floats, Mesh, Points, face_normals, faces_in_box, vertex_normals
from ulvet.core.geometry.solids import CannotJoin, mesh_of, solids_of
from ulvet.core.geometry.topology import connected_groups
from ulvet.core.join.seam_cleanup import clean_seam
from ulvet.core.tolerances import BENCH_TOLERANCES

__all__ = ["can_be_united", "fill_thin_walls"]

Ints = NDArray[np.int64]
_OVER = (0.02, 0.05, 0.1)
"""Shares of the wall by which the spheres are larger, since they are many-sided, in one round after the other: what was
filled may make thin what is beside it, and what makes trouble with one may not with the next (bench default)."""
_SMOOTH = 0.02
"""Share of the spheres' radius by which their surface may be off, so that it has fewer faces (bench default)."""
_MOST_HULLS = 6_000
"""Solids that are united: more take longer than a step should (bench default)."""
_GRID = 0.06
"""Share of the radius to which middles of spheres are rounded (bench default)."""
_SLANT = 1.5
"""Times the length asked for that an edge of a cut face may have: across a strip it is longer than along it."""
_FEW = 8
"""Places that are filled one by one where that does not do at once: each takes a second or two (bench default)."""
_SAMPLES = 4
"""The nearest of them in a face that say how thin it is at a point (bench default)."""
_BESIDE = 2.5
"""Radii from trouble within which what is filled is taken to have made it (bench default)."""
_FLAT = BENCH_TOLERANCES.zero_area_height


def _ball() -> Points:
    """Corners (92, 3) of a solid that holds a ball of radius one: an icosahedron whose faces are cut in nine."""
    golden = (1 + 5**0.5) / 2
    few = np.array([np.roll([0, a, b], k) for k in range(3) for a in (-1.0, 1.0) for b in (-golden, golden)])
    faces = ConvexHull(few).simplices
    thirds = [(2 * few[faces[:, k]] + few[faces[:, (k + j) % 3]]) for k in range(3) for j in (1, 2)]
    corners = np.concatenate([3 * few, *thirds, few[faces].sum(axis=1)])
    # Each edge is of two faces.
    corners = np.unique(np.round(corners / np.linalg.norm(corners, axis=1)[:, None], 12), axis=0)
    return np.asarray(corners / -ConvexHull(corners).equations[:, 3].max())


_BALL = _ball()
_LARGEST = float(np.linalg.norm(_BALL, axis=1).max())
"""Distance of a corner of the solid that stands for the unit ball from its middle."""


def can_be_united(mesh: Mesh) -> bool:
    """Whether a mesh closes, so that something can be united with it."""
    try:
        solids_of(mesh)
    except CannotJoin:
        return False
    return True


def fill_thin_walls(mesh: Mesh, wall: float, fade: float, places: Points, reach: float) -> Mesh:
    """A mesh united with spheres as wide as ``wall`` amid all walls within ``reach`` of some places (p, 3) that are
    thinner, figure mm; as it was where that makes nothing thicker, or would make faces cross. Nothing changes farther
    than ``fade`` beyond the reach.

    The sphere inscribed at a point of a thin wall is blown up about its own middle, and moved along between points of
    a face. So whatever of it stands out has the whole wall behind it by construction, and it stands out by about half
    of what is missing, which falls off where the wall gets thicker; by a little more where a later round was needed.
    """
    near = thin_near(mesh, wall * REACHED, places, reach)
    for over in _OVER:
        if not near.found:
            break
        try:
            mesh, near = _fill_once(mesh, wall * (1 + over) / 2, fade, near, places, reach)
        except CannotJoin:
            break
    return mesh


def _fill_once(
    mesh: Mesh, radius: float, fade: float, before: ThinNear, places: Points, reach: float
) -> tuple[Mesh, ThinNear]:
    """All thin places filled at once with spheres of a radius, but for those beside which that makes trouble; where
    nothing is better by that, a few one by one; and what is thin then. Raises CannotJoin where the mesh does not
    close."""
    within, tree = reach + fade - _LARGEST * radius, cKDTree(places)
    skin = _skin(before.local)
    filling = [_middles(skin, faces, radius) for faces in _groups(before)]
    filling = [some[(tree.query(some)[0] <= within).all(axis=1)] for some in filling]
    filling = [some for some in filling if 0 < len(some) <= _MOST_HULLS]
    middles = [some for some, upto in zip(filling, np.cumsum([*map(len, filling)]), strict=True) if upto <= _MOST_HULLS]
    while middles:
        made, trouble = _united(mesh, np.concatenate(middles), radius)
        if not len(trouble):
            after = thin_near(made, before.limit, places, reach)
            if after.better_than(before):
                return made, after
            trouble = np.array([place.point for place in after.found if place.wall < before.least]).reshape(-1, 3)
        near = cKDTree(trouble) if len(trouble) else None
        kept = [some for some in middles if near and near.query(some)[0].min() > _BESIDE * radius]
        middles = kept if len(kept) < len(middles) else []
    for some in filling if 1 < len(filling) <= _FEW else []:
        made, trouble = _united(mesh, some, radius)
        if not len(trouble) and (after := thin_near(made, before.limit, places, reach)).better_than(before):
            mesh, before = made, after
    return mesh, before


def _groups(near: ThinNear) -> list[Ints]:
    """The thin faces of each place, with those that hang together with them."""
    piece, thickness = near.local.piece, near.local.thickness
    n = len(piece.vertices)
    under = near.near & (thickness.walls < near.limit)
    # Where faces meet in a crease, a vertex takes its wall from one of them.
    thin = np.asarray((under[:n] & smooth_vertices(piece))[piece.faces].any(axis=1))
    thin[thickness.face_of[under[n:]]] = True
    _, group = connected_groups(n, np.concatenate([piece.faces[thin][:, :2], piece.faces[thin][:, 1:]]))
    first = np.concatenate([np.arange(n), piece.faces[thickness.face_of, 0]])
    wanted = np.unique(group[first[np.concatenate([place.samples for place in near.found])]])
    of = group[piece.faces[:, 0]]
    groups = [np.flatnonzero(thin & (of == one)) for one in wanted]
    return [group for group in groups if len(group)]


@dataclass(frozen=True)
class _Skin:
    """A piece of surface with its walls, and what is asked of it for every group of faces: where its vertices look,
    which of them are smooth, where its faces look."""

    local: LocalThickness
    normals: Points
    smooth: NDArray[np.bool_]
    face_normals: Points


def _skin(local: LocalThickness) -> _Skin:
    return _Skin(local, vertex_normals(local.piece), smooth_vertices(local.piece), face_normals(local.piece))


def _middles(skin: _Skin, faces: Ints, radius: float) -> Points:
    """Where the middles of spheres lie under some faces: by the corners (k, 3, 3) of each, or of what each is cut into.
    A sphere touches the face from within where its wall is thick enough.
    """
    corners = skin.local.piece.vertices[skin.local.piece.faces[faces]]
    surface = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1).sum() / 2
    longest = max(4 * radius, float(np.sqrt(surface / _MOST_HULLS)))
    weights, of = _cut(corners, longest)
    while len(of) > max(_MOST_HULLS, len(faces)):
        longest *= 2
        weights, of = _cut(corners, longest)
    normals, walls = _at(skin, faces[of], weights)
    thin = (walls < 2 * radius).any(axis=1)
    points = (weights @ corners[of])[thin]
    # Where the wall is thick enough no corner of the sphere stands out.
    depth = np.minimum(walls[thin] / 2, radius * (_LARGEST + _GRID))
    return _gridded(points - normals[thin] * depth[:, :, None], _GRID * radius)


def _gridded(triangles: Points, step: float) -> Points:
    """Triangles (k, 3, 3) with their corners on a grid, each once: those that nearly coincide would meet in steps."""
    ticks = np.round(triangles / step).astype(np.int64)
    _, number = np.unique(ticks.reshape(-1, 3), axis=0, return_inverse=True)
    _, first = np.unique(np.sort(number.reshape(-1, 3), axis=1), axis=0, return_index=True)
    return np.asarray(ticks[np.sort(first)] * step)


def _cut(corners: Points, longest: float) -> tuple[Floats, Ints]:
    """Triangles (f, 3, 3) cut until no edge is much over ``longest`` mm: of each piece the weights of its corners among
    those of the triangle, (k, 3, 3), and which it is of (k,). Slender ones are cut in strips, which keeps them few."""
    weights, of = np.tile(np.eye(3), (len(corners), 1, 1)), np.arange(len(corners))
    done = []
    while len(of):
        points = weights @ corners[of]
        edges = np.linalg.norm(np.roll(points, -1, axis=1) - points, axis=2)
        count = np.where(edges.max(axis=1) > _SLANT * longest, np.ceil(edges.max(axis=1) / longest), 1).astype(np.int64)
        done.append((weights[count <= 1], of[count <= 1]))
        # The corner opposite the shortest edge comes first: the others are cut.
        turned = (edges.argmin(axis=1)[:, None] + [2, 0, 1]) % 3
        weights = np.take_along_axis(weights, turned[:, :, None], axis=1)
        cut = [(_strips(int(n)) @ weights[count == n][:, None], of[count == n]) for n in np.unique(count[count > 1])]
        weights = np.concatenate([np.empty((0, 3, 3)), *(some.reshape(-1, 3, 3) for some, _ in cut)])
        of = np.concatenate([np.empty(0, np.int64), *(np.repeat(which, some.shape[1]) for some, which in cut)])
    return np.concatenate([one for one, _ in done]), np.concatenate([one for _, one in done])


def _strips(n: int) -> Floats:
    """The weights (2n - 1, 3, 3) of the corners of what a triangle is cut into along n - 1 lines across, seen from its
    first corner."""
    far = np.arange(n + 1)[:, None] / n
    one, other = (np.hstack([1 - far, *ways]) for ways in ((far, 0 * far), (0 * far, far)))
    outer = np.stack([one[:-1], one[1:], other[1:]], axis=1)
    inner = np.stack([one[1:-1], other[2:], other[1:-1]], axis=1)
    return np.concatenate([outer, inner])


def _at(skin: _Skin, faces: Ints, weights: Floats) -> tuple[Points, Floats]:
    """Normals (k, 3, 3) and walls (k, 3) at points in faces (k,), given by weights (k, 3, 3) of their corners: at
    smooth corners their own, else the normal of the face; never a wall over that of the nearest samples in the face. It
    is inf where none is known."""
    piece, thickness = skin.local.piece, skin.local.thickness
    n = len(piece.vertices)
    named = np.take_along_axis(piece.faces[faces], weights.argmax(axis=2), axis=1)
    own = (weights.max(axis=2) == 1) & skin.smooth[named]
    normals = np.where(own[:, :, None], skin.normals[named], skin.face_normals[faces][:, None])
    walls = np.where(own, thickness.walls[:n][named], np.inf)
    samples = n + np.flatnonzero(np.isin(thickness.face_of, faces))
    if len(samples):
        # Faces lie apart by more than anything in them, so that what is near is of the same face.
        apart = 10 * float(np.ptp(piece.vertices, axis=0).max())
        tree = cKDTree(np.column_stack([thickness.points[samples], thickness.face_of[samples - n] * apart]))
        points = weights @ piece.vertices[piece.faces[faces]]
        asked = np.concatenate([points, np.broadcast_to(faces[:, None, None], (*own.shape, 1)) * apart], axis=2)
        _, which = tree.query(asked, _SAMPLES, distance_upper_bound=apart / 2)
        walls = np.minimum(walls, np.append(thickness.walls[samples], np.inf)[which].min(axis=2))
    return normals, walls


def _united(mesh: Mesh, middles: Points, radius: float) -> tuple[Mesh, Points]:
    """A mesh united with spheres moved over triangles, by the corners (k, 3, 3) of their middles' way, and where faces
    cross or have no height (t, 3) that did not or had one before.

    Raises CannotJoin where the mesh does not close.
    """
    (solid,) = solids_of(mesh)
    corners = (middles[:, :, None] + radius * _BALL).reshape(len(middles), -1, 3)
    hulls = [manifold3d.Manifold.hull_points(points) for points in corners]
    # As one before it is thinned out: the many hulls meet in faces of no height, which their own faces would keep.
    added = manifold3d.Manifold.batch_boolean(hulls, manifold3d.OpType.Add).as_original()
    added = added.simplify(_SMOOTH * radius).as_original()
    made = clean_seam(*mesh_of(solid.body + added), (solid.number, solid.number))
    box = corners.min(axis=(0, 1)), corners.max(axis=(0, 1))
    near, was = (Mesh(one.vertices, one.faces[faces_in_box(one, *box)]) for one in (made, mesh))
    new, old = _trouble(near), _trouble(was)
    return made, new[cKDTree(old).query(new)[0] > _FLAT] if len(old) and len(new) else new


def _trouble(mesh: Mesh) -> Points:
    """Corners (t, 3) of faces that cross or have no height."""
    faces = np.concatenate([crossing_faces(mesh).faces, np.flatnonzero(zero_area_faces(mesh, _FLAT))])
    return mesh.vertices[mesh.faces[faces]].reshape(-1, 3)
