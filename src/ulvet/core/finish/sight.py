"""How much of a surface is seen of a figure that stands on a shelf: by rays to where eyes are."""

from collections.abc import Sequence

import numpy as np

from ulvet.core.geometry.mesh import Floats, Mesh, area, concatenated, face_normals
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.samples import even_directions, spread_points

__all__ = ["seen_shares"]

_DIRECTIONS = 64
"""Directions over the whole sphere, of which those are looked along that eyes are in."""
_LOWEST, _HIGHEST = 0.0, 0.82
"""Height of eyes as the sine of the angle they look down at: level up to 55° above (bench default)."""
_GRAZES = 0.25
"""Sine of the angle to a surface under which it is not seen for what it is (bench default)."""
_PLACES = 12_000
"""Places of a figure that are looked at (bench default)."""


def seen_shares(meshes: Sequence[Mesh], groups: Sequence[np.ndarray], count: int) -> list[Floats]:
    """Of every part the share (count,) of each group of its faces that is seen from any side once all parts are
    together; 0 of a group it has not. ``groups`` gives the group of every face, negative for none."""
    whole = concatenated(*meshes)
    rays = Rays(whole)
    ways = even_directions(_DIRECTIONS)
    ways = ways[(ways[:, 2] >= _LOWEST) & (ways[:, 2] <= _HIGHEST)]
    total = sum(area(mesh) for mesh in meshes)
    found = []
    for mesh, group in zip(meshes, groups, strict=True):
        points, faces = spread_points(mesh, max(int(_PLACES * area(mesh) / max(total, 1e-12)), 200))
        points, faces = points[group[faces] >= 0], faces[group[faces] >= 0]
        seen = _seen(rays, points, face_normals(mesh)[faces], ways)
        of = group[faces]
        many = np.bincount(of, minlength=count)
        found.append(np.bincount(of, seen, minlength=count) / np.maximum(many, 1))
    return found


def _seen(rays: Rays, points: Floats, normals: Floats, ways: Floats) -> Floats:
    """Of places on a surface 1 where a ray gets away towards an eye, else 0."""
    seen = np.zeros(len(points))
    begin = points + 4 * rays.grain * normals
    for way in ways:
        asked = np.flatnonzero((seen == 0) & (normals @ way > _GRAZES))
        if len(asked):
            distance, _ = rays.first(begin[asked], np.broadcast_to(way, (len(asked), 3)))
            seen[asked[np.isinf(distance)]] = 1.0
    return seen
