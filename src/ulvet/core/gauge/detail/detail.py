"""Detail that will not show: narrower than the process draws, or shallower than primer and paint leave."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulvet.core.bench.setup import Setup
from ulvet.core.geometry.mesh import Floats, Mesh, Points, face_areas, face_normals
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.rods import tangents_of
from ulvet.core.geometry.topology import edges_of, paired_half_edges

__all__ = ["Detail", "LeastShown", "detail_of", "least_shown_by"]

Ints = NDArray[np.int64]

_FILM = 0.03
"""Print mm of primer and paint on a surface, in thin coats (bench default)."""
_PIXELS = 3.0
"""Finest steps of the printer across what still shows (bench default)."""
_DRAWN = 0.2
"""A skin off the bent plane that fits it by less than this share of what shows has no relief that anybody drew, but
facets or noise (bench default)."""
_AROUND = 4.0
"""Relief is told within so many times the width that shows (bench default)."""
_TURNS = np.cos(np.deg2rad(30.0))
"""A skin that turns by more within that shows by its shading (bench default)."""
_FACET = np.deg2rad(20.0)
"""Angle (radians) between faces up to which they stand for something round, 20° (bench default)."""
_FACETED = 3.0
"""How many times what facets leave out they may stand out (bench default)."""
_OPPOSED = -0.5
"""Cosine up to which the skin behind a groove faces the one in front, 120°."""
_SAMPLES = 20_000
"""Places looked at, for time."""
_WIDER = 2.0
"""Times as wide a surrounding by which relief is told from the figure's own shape (bench default)."""
_RINGS, _WAYS = (0.35, 0.7, 1.0), 8
"""Where the skin is looked at about a place: radii, of the reach, and directions."""
_MOST_OF_IT = 0.9
"""Share of the lost detail that the size which is told would show (bench default)."""


@dataclass(frozen=True)
class LeastShown:
    """The smallest detail that shows on a print, mm: raised and sunk width, and depth."""

    raised: float
    sunk: float
    deep: float


@dataclass(frozen=True)
class Detail:
    """Detail at ``points`` (s, 3), each of which speaks for as much of the surface: how many times larger the figure
    must be for it to show, ``needs`` (s,); up to 1 it does, and 0 where there is none.

    ``lost`` is the share of the surface whose detail does not show, ``size`` the factor at which nine tenths of that
    do.
    """

    points: Points
    needs: Floats
    lost: float
    size: float


def least_shown_by(setup: Setup) -> LeastShown:
    """Give the smallest detail a printer shows after priming and painting: paint narrows grooves from both sides and
    fills shallow ones by its own thickness."""
    finest = max(float(setup.line), _PIXELS * float(setup.pixel))
    deep = max(float(setup.layer), float(setup.pixel)) + _FILM
    return LeastShown(raised=finest, sunk=finest + 2 * _FILM, deep=deep)


def detail_of(mesh: Mesh, shown: LeastShown) -> Detail:
    """Detail of a mesh at print size, mm, looked at in 20,000 places spread evenly over its surface.

    Told by how far it is through what is raised and across what is sunk, and by relief: how high and deep the skin is
    about a place, where no bent plane fits it.
    """
    face, points = _spread(mesh)
    if not len(points):
        return Detail(points, np.zeros(0), 0.0, 1.0)
    normals = face_normals(mesh)[face]
    rays = Rays(mesh)
    buried = rays.buried(points + normals * 2 * rays.grain, normals)
    needs = np.zeros(len(points))
    for way, least in ((-1, shown.raised), (1, shown.sunk)):
        far, face = rays.first(points + way * normals * rays.grain, way * normals)
        facing = (face >= 0) & (np.einsum("ij,ij->i", rays.normals[face], normals) < _OPPOSED)
        narrow = facing & (far + rays.grain < least)
        needs[narrow] = np.maximum(needs[narrow], least / (far[narrow] + rays.grain))
    drawn = np.maximum(_DRAWN * shown.deep, _FACETED * _facets(mesh)[face])
    relief = _relief(rays, points, normals, _AROUND * shown.sunk, drawn, shown.deep)
    shallow = (relief > 0) & (relief < shown.deep)
    needs[shallow] = np.maximum(needs[shallow], shown.deep / relief[shallow])
    needs[buried] = 0
    lost = np.sort(needs[needs > 1])
    size = float(lost[int(_MOST_OF_IT * (len(lost) - 1))]) if len(lost) else 1.0
    return Detail(points, needs, len(lost) / max(int((~buried).sum()), 1), size)


def _facets(mesh: Mesh) -> Floats:
    """How far the round skin that each face stands for may lie off it, (m,) mm: the sagitta over its sides, where it
    meets its neighbours at under 20°."""
    edges = edges_of(mesh)
    halves = paired_half_edges(edges)
    one, other = halves.T // 3
    normals = face_normals(mesh)
    angle = np.arccos(np.clip(np.einsum("ij,ij->i", normals[one], normals[other]), -1, 1))
    ends = mesh.vertices[edges.ends[edges.of_half[halves[:, 0]]]]
    width = np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1)
    sagitta = np.where(angle < _FACET, angle * width / 8, 0)
    most = np.zeros(len(mesh.faces))
    np.maximum.at(most, one, sagitta)
    np.maximum.at(most, other, sagitta)
    return most


def _spread(mesh: Mesh) -> tuple[Ints, Points]:
    """Points (s, 3) spread evenly over the faces, always the same, and the face each lies in."""
    areas = face_areas(mesh)
    covered = np.cumsum(areas)
    if not len(areas) or covered[-1] <= 0:
        return np.empty(0, np.int64), np.empty((0, 3))
    k = np.arange(_SAMPLES)
    face = np.searchsorted(covered, (k + 0.5) / _SAMPLES * covered[-1])
    # Two irrational steps that fill a square evenly (Roberts 2018).
    u, v = (0.7548776662466927 * k) % 1, (0.5698402909980532 * k) % 1
    over = u + v > 1
    u, v = np.where(over, 1 - u, u), np.where(over, 1 - v, v)
    a, b, c = (mesh.vertices[mesh.faces[face, corner]] for corner in range(3))
    return face, a + u[:, None] * (b - a) + v[:, None] * (c - a)


def _relief(rays: Rays, points: Points, normals: Points, reach: float, drawn: Floats, deep: float) -> Floats:
    """How high and deep the skin is about each point, (s,) mm; 0 where a bent plane fits it within ``drawn`` (s,) mm.

    What seems shallower than ``deep`` may be the side of something wide, which is looked at twice as far around.
    """
    high, off = _around(rays, points, normals, reach)
    relief = np.where(off > drawn, high, 0.0)
    asked = np.flatnonzero((relief > 0) & (relief < deep))
    _, wider = _around(rays, points[asked], normals[asked], _WIDER * reach)
    relief[asked] = np.maximum(relief[asked], np.where(wider < deep, 0, wider))
    return relief


def _around(rays: Rays, points: Points, normals: Points, reach: float) -> tuple[Floats, Floats]:
    """From the lowest to the highest of the skin within ``reach`` mm of each point, and the same off the bent plane
    that fits it best, (s,) mm; inf where the skin ends or turns away."""
    u, v = tangents_of(normals)
    across = [(0.0, 0.0)]
    across += [(r * np.cos(a), r * np.sin(a)) for r in _RINGS for a in np.arange(_WAYS) * 2 * np.pi / _WAYS]
    heights = np.zeros((len(points), len(across)))
    shows: NDArray[np.bool_] = np.zeros(len(points), bool)
    for k, (x, y) in enumerate(across[1:], start=1):
        above = points + reach * (x * u + y * v + normals)
        far, face = rays.first(above, -normals)
        heights[:, k] = reach - far
        turned = np.einsum("ij,ij->i", rays.normals[face], normals) < _TURNS
        shows |= (face < 0) | (far > 2 * reach) | turned
    heights[shows] = 0
    x, y = np.array(across).T
    bent = np.stack([np.ones_like(x), x, y, x * x, x * y, y * y], axis=1)
    off = heights - heights @ np.linalg.pinv(bent).T @ bent.T
    return np.where(shows, np.inf, np.ptp(heights, axis=1)), np.where(shows, np.inf, np.ptp(off, axis=1))
