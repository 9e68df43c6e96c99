"""Wall thickness by inscribed spheres along a cone of inward rays."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ulvet.core.gauge.walls.inscribed_spheres import THICK_SHARE, Ints, Skin, walls_at
from ulvet.core.geometry.mesh import (
    Floats,
    Mesh,
    Points,
    bounds,
    face_areas,
    face_normals,
    faces_in_box,
    vertex_normals,
)
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.topology import edges_of, submesh

__all__ = [
    "LocalThickness",
    "Thickness",
    "measure_near",
    "measure_thickness",
    "sample_walls",
    "smooth_vertices",
    "straight_walls",
]

_SMOOTH = np.cos(np.deg2rad(40.0))
"""Cosine of the turn of a face against its vertex's normal that is still smooth, 40° (bench default)."""
_SPACING_SHARE = 1 / 100
"""Distance of samples, of the figure's longest side (bench default)."""
_MOST_PER_SIDE = 48
"""Samples along a side of one face."""
_MOST_SAMPLES = 400_000
"""Samples inside faces, for time."""
_ALIKE = 1.25
"""Ratio up to which neighbouring walls are of one wall, and evened out together (bench default)."""
_LOCAL = 1.3
"""Times as far as walls are asked for that the figure is looked at around them."""


@dataclass(frozen=True)
class Thickness:
    """Wall thickness of a mesh in figure mm; it serves every size.

    ``points``, ``normals`` (s, 3), ``walls`` (s,) and ``across`` (s,), the face opposite (-1 where there is none),
    for every sample: first one a vertex, in order, then those inside coarse or creased faces. ``face_of`` (s - n,)
    is the face of each of the latter. ``areas`` (s,) is the surface each sample speaks for, mm². A sample with no wall
    opposite has wall inf: an edge, or an open surface. ``buried`` (s,) are those that lie inside another shell, where
    the wall is that of both together; none is told of samples without a wall.
    """

    points: Points
    normals: Points
    walls: Floats
    across: Ints
    face_of: Ints
    areas: Floats
    buried: NDArray[np.bool_]

    @classmethod
    def unknown(cls, mesh: Mesh) -> "Thickness":
        """Of a mesh whose walls cannot be told: no wall anywhere."""
        n = len(mesh.vertices)
        normals, nowhere = np.zeros((n, 3)), np.full(n, -1, np.int64)
        none = np.empty(0, np.int64)
        return cls(mesh.vertices, normals, np.full(n, np.inf), nowhere, none, np.zeros(n), np.zeros(n, bool))


def measure_thickness(mesh: Mesh) -> Thickness:
    """Thickness at every vertex and, where vertices alone would miss it, inside faces.

    From a point p with outward normal n, rays go inward along -n and, unless that already meets a wall thicker than
    8 % of the figure's longest side, on a cone of 14 degrees about it. A hit in a face of outward normal m, turned at
    least 120 degrees from n, 150 on the cone, is opposed; the sphere that touches the surface at p and passes through
    the hit has diameter d / cos(angle), d the ray's length (the shrinking ball of Ma, Bae and Choi 2012). Where the
    sphere that touches the plane of the hit would touch it elsewhere, a ray goes there, and once more from there.
    The straight ray and these decide, exactly on plates, wedges, cones and round bars; the cone of rays where they meet
    nothing opposed or a sphere under 85 % of their wall fits, so that facets and noise do not count as thin. At last a
    vertex takes the middle wall of itself and those of its neighbours that are within a quarter of it.

    Vertices where faces meet at more than 40 degrees have no normal worth following; they take the wall of the
    nearest samples in the faces around them; such faces are sampled inside, and so are those
    longer than a hundredth of the figure.
    All numbers are bench defaults.
    """
    return _measured(mesh, Rays(mesh), np.ones(len(mesh.faces), bool))


def sample_walls(mesh: Mesh, count: int) -> tuple[Points, Floats]:
    """Points on about ``count`` of the faces (k, 3) and the wall at each (k,), mm, inf where there is none: nearly what
    ``measure_thickness`` finds, facets not counted as round nor anything evened out, for a first look."""
    faces = np.arange(0, len(mesh.faces), max(1, len(mesh.faces) // count))
    rays = Rays(mesh)
    skin = Skin(mesh, rays, np.empty((0, 3)), np.zeros(len(mesh.vertices), bool), True)
    points = mesh.vertices[mesh.faces[faces]].mean(axis=1)
    return points, walls_at(skin, points, rays.normals[faces])[0]


@dataclass(frozen=True)
class LocalThickness:
    """The thickness of a ``piece`` of a mesh, whose vertices and faces are these of it, (k,) and (f,)."""

    piece: Mesh
    thickness: Thickness
    vertices: Ints
    faces: Ints


def measure_near(mesh: Mesh, at: NDArray[np.bool_], upto: float) -> LocalThickness:
    """The walls up to ``upto`` mm in some faces ``at`` (m,) and at their corners, as if the whole were measured.

    It takes as long as what is near takes. Corners at the rim of the faces are evened out over fewer neighbours than
    in the whole; what is thicker, or not asked for, has wall inf.
    """
    reach = _LOCAL * max(upto, THICK_SHARE * float(np.ptp(bounds(mesh), axis=0).max()))
    inner = mesh.vertices[mesh.faces[at]].reshape(-1, 3)
    faces = faces_in_box(mesh, inner.min(axis=0) - reach, inner.max(axis=0) + reach) if len(inner) else np.empty(0, int)
    piece, vertices = submesh(mesh, faces)
    if not len(faces):
        return LocalThickness(piece, Thickness.unknown(piece), vertices, faces)
    thickness = _measured(piece, Rays(piece, within=mesh), at[faces], whole=False)
    walls = np.where(thickness.walls <= upto, thickness.walls, np.inf)
    return LocalThickness(piece, replace(thickness, walls=walls), vertices, faces)


def _measured(mesh: Mesh, rays: Rays, asked: NDArray[np.bool_], whole: bool = True) -> Thickness:
    """The thickness in the faces asked for (m,), with the rays of a mesh, which may be a piece of a larger one."""
    smooth = smooth_vertices(mesh)
    points, normals, face_of = _samples(mesh, smooth, asked, rays.size)
    vertex_points_normals = vertex_normals(mesh)
    skin = Skin(mesh, rays, vertex_points_normals, smooth, whole)
    walls, across = walls_at(skin, points, normals)
    n = len(mesh.vertices)
    vertex_walls = np.full(n, np.inf)
    vertex_across = np.full(n, -1, np.int64)
    own = smooth.copy()
    own[smooth] = np.bincount(mesh.faces[asked].ravel(), minlength=n)[smooth] > 0
    vertex_walls[own], vertex_across[own] = walls_at(skin, mesh.vertices[own], vertex_points_normals[own])
    vertex_walls[own] = _without_noise(mesh, vertex_walls, own)[own]
    _take_from_faces(mesh, ~smooth, (points, face_of, walls, across), vertex_walls, vertex_across)
    points, normals = np.concatenate([mesh.vertices, points]), np.concatenate([vertex_points_normals, normals])
    walls = np.concatenate([vertex_walls, walls])
    buried = np.isfinite(walls)
    buried[buried] = rays.buried(points[buried] + normals[buried] * 2 * rays.grain, normals[buried])
    return Thickness(
        points=points,
        normals=normals,
        walls=walls,
        across=np.concatenate([vertex_across, across]),
        face_of=face_of,
        areas=_areas(mesh, face_of),
        buried=buried,
    )


def straight_walls(mesh: Mesh) -> Floats:
    """How far it is straight through from every vertex along its normal, (n,) mm; inf where nothing is there."""
    rays, normals = Rays(mesh), vertex_normals(mesh)
    return rays.leaves(mesh.vertices - normals * rays.grain, -normals)[0] + rays.grain


def _without_noise(mesh: Mesh, walls: Floats, smooth: NDArray[np.bool_]) -> Floats:
    """Replace the wall of every vertex by the median of itself and similar neighbours."""
    ends = edges_of(mesh).ends
    ends = ends[smooth[ends].all(axis=1) & np.isfinite(walls[ends]).all(axis=1)]
    of, value = np.concatenate([ends[:, 0], ends[:, 1]]), np.concatenate([walls[ends[:, 1]], walls[ends[:, 0]]])
    alike = (value < _ALIKE * walls[of]) & (value * _ALIKE > walls[of])
    of = np.concatenate([np.arange(len(walls)), of[alike]])
    value = np.concatenate([walls, value[alike]])
    value = value[np.lexsort((value, of))]
    count = np.bincount(of, minlength=len(walls))
    start = np.cumsum(count) - count
    return np.asarray((value[start + (count - 1) // 2] + value[start + count // 2]) / 2)


def smooth_vertices(mesh: Mesh) -> NDArray[np.bool_]:
    """Mark vertices (n,) with a reliable normal: no face there turns from it by more than 40 degrees."""
    toward = np.ones(len(mesh.vertices))
    normals, faces = vertex_normals(mesh), face_normals(mesh)
    for k in range(3):
        corner = mesh.faces[:, k]
        np.minimum.at(toward, corner, np.einsum("ij,ij->i", normals[corner], faces))
    return toward >= _SMOOTH


def _samples(
    mesh: Mesh, smooth: NDArray[np.bool_], asked: NDArray[np.bool_], size: float
) -> tuple[Points, Points, Ints]:
    """Points inside those of the faces asked for that are coarse or have a creased corner, their normals and faces."""
    corners = mesh.vertices[mesh.faces]
    longest = np.linalg.norm(np.roll(corners, -1, axis=1) - corners, axis=2).max(axis=1)
    spacing = size * _SPACING_SHARE
    creased = ~smooth[mesh.faces].all(axis=1)
    while True:
        per_side = np.minimum(np.ceil(longest / spacing), _MOST_PER_SIDE).astype(np.int64)
        per_side[(per_side <= 1) & ~creased] = 0
        if (per_side**2).sum() <= max(_MOST_SAMPLES, creased.sum()) or per_side.max() <= 1:
            break
        spacing *= 1.5
    per_side[~asked] = 0
    normals = face_normals(mesh)
    points, owners = [np.empty((0, 3))], [np.empty(0, np.int64)]
    for n in np.unique(per_side[per_side > 0]):
        faces = np.flatnonzero(per_side == n)
        weights = _middles(int(n))
        points.append(np.einsum("wk,fkx->fwx", weights, corners[faces]).reshape(-1, 3))
        owners.append(np.repeat(faces, len(weights)))
    owner = np.concatenate(owners)
    return np.concatenate(points), normals[owner], owner


def _areas(mesh: Mesh, face_of: Ints) -> Floats:
    """Surface of each sample: faces are shared out among the samples inside them, else among their corners."""
    surface = face_areas(mesh)
    inside = np.bincount(face_of, minlength=len(mesh.faces))
    shared = np.where(inside == 0, surface / 3, 0.0)
    corners = np.bincount(mesh.faces.ravel(), np.repeat(shared, 3), len(mesh.vertices))
    return np.concatenate([corners, surface[face_of] / inside[face_of]])


def _middles(n: int) -> Floats:
    """Barycentric middles of the n² triangles into which a triangle is cut, (n², 3)."""
    i, j = np.divmod(np.arange(n * n), n)
    up = i + j < n
    a = np.where(up, i + 1 / 3, n - i - 1 / 3) / n
    b = np.where(up, j + 1 / 3, n - j - 1 / 3) / n
    return np.stack([a, b, 1 - a - b], axis=1)


def _take_from_faces(
    mesh: Mesh,
    wanting: NDArray[np.bool_],
    samples: tuple[Points, Ints, Floats, Ints],
    vertex_walls: Floats,
    vertex_across: Ints,
) -> None:
    """Fill in, for every vertex that wants one, the least wall of the samples nearest to it in the faces around it."""
    points, face_of, walls, across = samples
    for k in range(3):
        corner = mesh.faces[face_of, k]
        asked = np.flatnonzero(wanting[corner])
        away = points[asked] - mesh.vertices[corner[asked]]
        order = np.lexsort((np.einsum("ij,ij->i", away, away), face_of[asked]))
        _, first = np.unique(face_of[asked[order]], return_index=True)
        nearest = asked[order[first]]
        # Thickest first, so that of several faces the thinnest is written last.
        nearest = nearest[np.argsort(-walls[nearest], kind="stable")]
        nearest = nearest[walls[nearest] <= vertex_walls[corner[nearest]]]
        vertex_walls[corner[nearest]] = walls[nearest]
        vertex_across[corner[nearest]] = across[nearest]
