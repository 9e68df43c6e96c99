"""Hole patches that continue the curvature of the surrounding surface."""

import igl  # its module under a copyleft licence is never imported
import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import Delaunay

from ulvet.core.geometry.crossing import crossing_faces
from ulvet.core.geometry.mesh import Floats, Mesh, Points, face_areas, face_normals
from ulvet.core.geometry.splitting import split_longer

__all__ = ["FacesAt", "faired_over", "faired_patch", "in_its_steps", "in_plane"]

Ints = NDArray[np.int64]
_LEAST_RIM = 8
"""Edges of a rim that is too short to carry curvature on."""
_MOST_INNER = 20_000
"""New vertices of a patch, for time."""
_LONGEST = 1.5
"""Steps of a rim that a side of its patch may have."""
_OFF_RIM = 0.6
"""Steps that new points stay away from a rim."""
_DIGITS = 7
"""Decimals of a rim's mean side that are kept of it, so that a hole is filled alike at every size."""
_SMOOTH = np.cos(np.deg2rad(60.0))
"""Where the surface meets its patch more sharply the rim is an edge, and a flat patch carries it on better (bench
default)."""
_ROUGH = 0.1
"""Share of a rim's faces that may do so all the same."""


class FacesAt:
    """The faces at each vertex of a mesh."""

    def __init__(self, mesh: Mesh) -> None:
        corners = mesh.faces.ravel()
        order = np.argsort(corners, kind="stable")
        self._faces, self._mesh = order // 3, mesh
        self._starts = np.searchsorted(corners[order], np.arange(len(mesh.vertices) + 1))

    def __call__(self, vertices: Ints) -> Ints:
        """The faces at any of some vertices, each once."""
        spans = [np.arange(self._starts[v], self._starts[v + 1]) for v in vertices]
        return np.unique(self._faces[np.concatenate(spans)]) if spans else np.empty(0, np.int64)


def faired_patch(mesh: Mesh, at: FacesAt, rim: Ints) -> tuple[Points, Ints] | None:
    """New points (k, 3) and triangles over the vertices of a rim (n,), then those; None where a flat patch is as good.

    Points as far apart as the rim's vertices fill the hole in the plane of its area vector (Delaunay), then are moved
    so that the surface bends least over it and the two rings of faces about it: the biharmonic surface (Botsch and
    Kobbelt 2004).
    """
    if len(rim) < _LEAST_RIM:
        return None
    points, middle, step = in_its_steps(mesh.vertices[rim])
    flat, frame = in_plane(points)
    polygon = shapely.Polygon(flat)
    near = at(rim)
    if (
        not polygon.is_valid
        or not polygon.exterior.is_ccw
        or (face_normals(Mesh(mesh.vertices, mesh.faces[near])) @ frame[2] < _SMOOTH).mean() > _ROUGH
    ):
        return None
    inner = _filled(polygon)
    triangles = _triangles(flat, inner, polygon)
    if triangles is None:
        return None
    around = at(np.unique(mesh.faces[near]))
    made = _bent_least(mesh, around, rim, middle + step * (inner @ frame[:2]), triangles)
    return None if made is None else (made, triangles)


def faired_over(mesh: Mesh, at: FacesAt, rim: Ints, patch: Ints) -> tuple[Points, Ints] | None:
    """Refine and fair triangles that span a rim (n,), for a rim that does not project onto a plane.

    The triangles, such as those of least area, are split until they are as fine as the rim, then bent. Gives None where
    they are fine already or would cross after bending.
    """
    points, middle, step = in_its_steps(mesh.vertices[rim])
    coarse = Mesh(points, patch.astype(np.int32))
    if len(rim) < _LEAST_RIM or face_areas(coarse).sum() > _MOST_INNER or _meets_sharply(mesh, at, rim, coarse):
        return None
    fine, _ = split_longer(coarse, _LONGEST, rims=False)
    if len(fine.vertices) == len(rim):
        return None
    ring = at(np.unique(mesh.faces[at(rim)]))
    made = _bent_least(mesh, ring, rim, middle + step * fine.vertices[len(rim) :], fine.faces.astype(np.int64))
    if made is None:
        return None
    place = np.concatenate([rim, len(mesh.vertices) + np.arange(len(made))])
    faces = np.concatenate([mesh.faces[ring], place[fine.faces].astype(np.int32)])
    crossing = crossing_faces(Mesh(np.concatenate([mesh.vertices, made]), faces))
    return None if len(crossing.pairs) else (made, fine.faces.astype(np.int64))


def _meets_sharply(mesh: Mesh, at: FacesAt, rim: Ints, patch: Mesh) -> bool:
    """Whether a patch meets the surface round it at an edge, along more than half of the rim."""
    side = {(int(a), int(b)): n for f, n in zip(patch.faces, face_normals(patch), strict=True) for a, b in _sides(f)}
    place = {int(vertex): k for k, vertex in enumerate(rim)}
    near = Mesh(mesh.vertices, mesh.faces[at(rim)])
    cosines = [
        float(side[ends] @ normal)
        for face, normal in zip(near.faces, face_normals(near), strict=True)
        for a, b in _sides(face)
        if (ends := (place.get(int(b), -1), place.get(int(a), -1))) in side
    ]
    return bool(np.median(cosines) < _SMOOTH) if cosines else True


def _sides(face: Ints) -> list[tuple[int, int]]:
    a, b, c = face
    return [(a, b), (b, c), (c, a)]


def _bent_least(mesh: Mesh, ring: Ints, rim: Ints, inner: Points, triangles: Ints) -> Points | None:
    """Place the new points (k, 3) of a patch so that the surface bends least over it and the faces around it.

    ``triangles`` count the rim's vertices first, then the new points. Gives None where the solution diverges.
    """
    used, ring_faces = np.unique(mesh.faces[ring], return_inverse=True)
    place = np.concatenate([np.searchsorted(used, rim), len(used) + np.arange(len(inner))])
    around = mesh.vertices[used]
    centre = around.mean(axis=0)
    bent = igl.harmonic(
        np.concatenate([around, inner]) - centre,
        np.concatenate([ring_faces.reshape(-1, 3), place[triangles]]).astype(np.int64),
        np.arange(len(used)),
        around - centre,
        2,
    )
    # As they will be written, so that they need not move again.
    made = (np.asarray(bent)[len(used) :] + centre).astype(np.float32).astype(float)
    points = mesh.vertices[rim]
    reach = np.ptp(points, axis=0).max()
    sane = np.isfinite(made).all() and np.abs(made - points.mean(axis=0)).max(initial=0.0) < reach
    return made if sane else None


def in_its_steps(points: Points) -> tuple[Points, Points, float]:
    """Points (n, 3) of a closed rim from their middle, in lengths of its mean side and rounded; the middle and that
    length."""
    middle = points.mean(axis=0)
    step = float(np.linalg.norm(points - np.roll(points, -1, axis=0), axis=1).mean())
    return np.round((points - middle) / (step or 1.0), _DIGITS), middle, step


def in_plane(points: Points) -> tuple[Floats, Points]:
    """Points (n, 3) of a closed rim, seen along its area vector, in which it runs anticlockwise, (n, 2); and the frame
    (3, 3) they are seen in: two directions in the plane, then the one square to it."""
    centred = points - points.mean(axis=0)
    normal = np.cross(centred, np.roll(centred, -1, axis=0)).sum(axis=0)
    length = np.linalg.norm(normal)
    normal = normal / length if length > 0 else np.array([0.0, 0, 1])
    across = np.cross(normal, np.eye(3)[np.abs(normal).argmin()])
    across /= np.linalg.norm(across)
    frame = np.stack([across, np.cross(normal, across), normal])
    return np.asarray(centred @ frame[:2].T), frame


def _filled(polygon: shapely.Polygon) -> Points:
    """Points (k, 2) on a grid of triangles inside a polygon, 1 apart or as far as keeps them few."""
    step = max(1.0, float(np.sqrt(polygon.area / _MOST_INNER)))
    low_x, low_y, high_x, high_y = polygon.bounds
    row = step * np.sqrt(3) / 2
    y = np.arange(low_y, high_y, row)
    x = np.arange(low_x, high_x, step)
    grid = np.stack(np.meshgrid(x, y), axis=-1)
    grid[1::2, :, 0] += step / 2
    grid = grid.reshape(-1, 2)
    inside = polygon.buffer(-_OFF_RIM * step)
    return np.asarray(grid[shapely.contains_xy(inside, grid[:, 0], grid[:, 1])])


def _triangles(flat: Points, inner: Points, polygon: shapely.Polygon) -> Ints | None:
    """Delaunay triangles over a rim and points inside it, anticlockwise; None where some side of the rim is none of
    theirs, or there is no point inside."""
    if not len(inner):
        return None
    n, points = len(flat), np.concatenate([flat, inner])
    found = Delaunay(points).simplices.astype(np.int64)
    a, b, c = (points[found[:, k]] for k in range(3))
    turn = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    found[turn < 0] = found[turn < 0][:, ::-1]
    middle = (a + b + c) / 3
    found = found[shapely.contains_xy(polygon, middle[:, 0], middle[:, 1])]
    if len(found) != n - 2 + 2 * len(inner):
        return None
    halves = np.stack([found, np.roll(found, -1, axis=1)], axis=-1).reshape(-1, 2)
    sides = halves[(halves < n).all(axis=1)]
    return found if np.isin(np.arange(n), sides[sides[:, 1] == (sides[:, 0] + 1) % n, 0]).all() else None
