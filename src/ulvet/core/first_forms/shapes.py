"""Plain solids as closed meshes, round to within a chord."""

from collections.abc import Sequence
from typing import Literal, get_args

import numpy as np
import shapely
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Mesh, Points

__all__ = ["Form", "UnusableForm", "form_mesh"]

Form = Literal["sphere", "capsule", "box", "cylinder", "cone", "torus", "tube"]
"""A box is wide, deep and tall; a sphere, capsule, cylinder, cone or torus is round, ``wide`` across and ``tall`` high;
a tube goes along a curve, ``wide`` across."""
_CHORD = 0.0005
"""Chord error of round forms, of their diameter: 0.01 mm on 20 mm (bench default)."""


class UnusableForm(Exception):
    """Sizes or a curve that make no solid; the message says why."""


def form_mesh(form: str, wide: float, deep: float, tall: float, curve: Sequence[Sequence[float]] = ()) -> Mesh:  # noqa: PLR0911  # one shape each
    """A form standing on the ground over the origin, a tube where its curve lies; mm.

    Round forms are as many-sided as keeps the chord within 0.05 % of their width. Raises UnusableForm.
    """
    if not all(np.isfinite(side) and 0 < side < 1e5 for side in (wide, deep, tall)):
        raise UnusableForm("A form needs sizes above 0 and below 100 m.")
    radius = wide / 2
    sides = 4 * int(np.ceil(np.pi / np.arccos(1 - 2 * _CHORD) / 4))
    match form:
        case "box":
            return _box(wide, deep, tall)
        case "cylinder":
            return _turned(np.array([[0, 0], [radius, 0], [radius, tall], [0, tall]]), sides)
        case "cone":
            return _turned(np.array([[0, 0], [radius, 0], [0, tall]]), sides)
        case "sphere":
            angle = np.linspace(-np.pi / 2, np.pi / 2, sides // 2 + 1)
            return _turned(_on_axis(np.stack([radius * np.cos(angle), radius + radius * np.sin(angle)], axis=1)), sides)
        case "capsule":
            if tall < wide:
                raise UnusableForm("A capsule is at least as tall as it is wide.")
            quarter = np.linspace(0, np.pi / 2, sides // 4 + 1)
            angle = np.concatenate([-quarter[::-1], quarter]) if tall > wide else np.append(-quarter[:0:-1], quarter)
            middle = np.where(np.arange(len(angle)) < len(angle) / 2, radius, tall - radius)
            return _turned(_on_axis(np.stack([radius * np.cos(angle), middle + radius * np.sin(angle)], axis=1)), sides)
        case "torus":
            if tall >= radius:
                raise UnusableForm("The rim of a torus is less than half as thick as the torus is wide.")
            angle = np.linspace(-np.pi / 2, 1.5 * np.pi, sides // 2, endpoint=False)
            thick = tall / 2
            rim = np.stack([radius - thick + thick * np.cos(angle), thick + thick * np.sin(angle)], axis=1)
            return _ring(rim, sides)
        case "tube":
            return _along(np.array(curve, float).reshape(-1, 3), radius, sides)
    raise UnusableForm(f"There is no form called {form}: take one of {', '.join(get_args(Form))}.")


def _on_axis(profile: Points) -> Points:
    profile[[0, -1], 0] = 0.0
    return profile


def _box(wide: float, deep: float, tall: float) -> Mesh:
    corners = np.array([[i, j, k] for i in (0, 1) for j in (0, 1) for k in (0, 1)], float)
    quads = [(0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3)]
    faces = [half for a, b, c, d in quads for half in ((a, b, c), (a, c, d))]
    return Mesh((corners - [0.5, 0.5, 0]) * [wide, deep, tall], np.array(faces, np.int32))


def _turned(profile: Points, sides: int) -> Mesh:
    """A profile (p, 2) of radius and height, from axis to axis, turned about the upright."""
    inner = profile[1:-1]
    angle = np.linspace(0, 2 * np.pi, sides, endpoint=False)
    rings = np.stack(
        [np.outer(inner[:, 0], np.cos(angle)), np.outer(inner[:, 0], np.sin(angle)), np.tile(inner[:, 1:], sides)],
        axis=-1,
    ).reshape(-1, 3)
    ends = np.array([[0, 0, profile[0, 1]], [0, 0, profile[-1, 1]]])
    k = np.arange(sides)
    onward = (k + 1) % sides
    foot, top, last = len(rings), len(rings) + 1, (len(inner) - 1) * sides
    faces = [
        np.stack([np.full(sides, foot), onward, k], axis=1),
        np.stack([last + k, last + onward, np.full(sides, top)], axis=1),
        _bands(len(inner), sides, False),
    ]
    return Mesh(np.concatenate([rings, ends]), np.concatenate(faces).astype(np.int32))


def _ring(profile: Points, sides: int) -> Mesh:
    """A closed profile (p, 2) of radius and height turned about the upright."""
    angle = np.linspace(0, 2 * np.pi, sides, endpoint=False)
    wide, high = profile[:, 0], np.tile(profile[:, 1:], sides)
    points = np.stack([np.outer(wide, np.cos(angle)), np.outer(wide, np.sin(angle)), high], axis=-1).reshape(-1, 3)
    return Mesh(points, _bands(len(profile), sides, True).astype(np.int32))


def _bands(rings: int, sides: int, closed: bool) -> NDArray[np.int64]:
    """Faces between rings of points that follow each other outward-up, and between the last and the first if closed."""
    ring, k = np.divmod(np.arange((rings if closed else rings - 1) * sides), sides)
    onward, above = (k + 1) % sides, (ring + 1) % rings
    a, b, c, d = ring * sides + k, ring * sides + onward, above * sides + onward, above * sides + k
    return np.concatenate([np.stack([a, b, c], axis=1), np.stack([a, c, d], axis=1)])


def _along(curve: Points, radius: float, sides: int) -> Mesh:
    """A round tube along a smooth curve through some points, with round ends left flat."""
    if len(curve) < 2 or not np.isfinite(curve).all() or (np.linalg.norm(np.diff(curve, axis=0), axis=1) == 0).any():
        raise UnusableForm("A tube needs a curve of two places or more, no two the same one after the other.")
    line = _smooth(curve)
    steps = np.diff(line, axis=0)
    way = np.concatenate([steps[:1], steps[:-1] + steps[1:], steps[-1:]])
    way /= np.linalg.norm(way, axis=1)[:, None]
    if _crosses_itself(line, radius):
        raise UnusableForm(
            "The curve comes closer to itself than the tube is wide: draw it apart, or the tube narrower."
        )
    u = np.cross(way[0], np.eye(3)[np.argmin(np.abs(way[0]))])
    angle = np.linspace(0, 2 * np.pi, min(sides, 64), endpoint=False)
    rings = []
    for at, along in zip(line, way, strict=True):  # carried along without twisting (Bishop 1975)
        u = u - along * (u @ along)
        u /= np.linalg.norm(u)
        v = np.cross(along, u)
        rings.append(at + radius * (np.outer(np.cos(angle), u) + np.outer(np.sin(angle), v)))
    points = np.concatenate([*rings, line[[0, -1]]])
    n, k = len(angle), np.arange(len(angle))
    onward, last = (k + 1) % n, (len(line) - 1) * n
    ends = len(line) * n
    caps = [
        np.stack([np.full(n, ends), onward, k], axis=1),
        np.stack([last + k, last + onward, np.full(n, ends + 1)], axis=1),
    ]
    return Mesh(points, np.concatenate([_bands(len(line), n, False), *caps]).astype(np.int32))


def _smooth(curve: Points) -> Points:
    """A curve through some points, sixteen steps between each (centripetal; Catmull and Rom 1974)."""
    if len(curve) == 2:
        return curve
    ends = np.concatenate([[2 * curve[0] - curve[1]], curve, [2 * curve[-1] - curve[-2]]])
    t = np.linspace(0, 1, 16, endpoint=False)[:, None]
    pieces = []
    for p0, p1, p2, p3 in zip(ends, ends[1:], ends[2:], ends[3:], strict=False):
        pieces.append(
            0.5 * (2 * p1 + (p2 - p0) * t + (2 * p0 - 5 * p1 + 4 * p2 - p3) * t**2 + (3 * p1 - p0 - 3 * p2 + p3) * t**3)
        )
    return np.concatenate([*pieces, curve[-1:]])


def _crosses_itself(line: Points, radius: float) -> bool:
    """Whether a line bends tighter than ``radius`` or comes within twice that of itself elsewhere."""
    steps = np.diff(line, axis=0)
    long = np.linalg.norm(steps, axis=1)
    cosine = np.clip(np.einsum("ij,ij->i", steps[1:], steps[:-1]) / np.maximum(long[1:] * long[:-1], 1e-300), -1, 1)
    bend = np.tan(np.arccos(cosine) / 2)
    if (2 * radius * bend > np.minimum(long[1:], long[:-1]) * (1 + 1e-9)).any():
        return True
    pieces = shapely.linestrings(np.stack([line[:-1], line[1:]], axis=1)[..., :2])
    tree = shapely.STRtree(pieces)
    one, other = tree.query(pieces, predicate="dwithin", distance=2 * radius)
    arc = np.concatenate([[0], np.cumsum(long)])
    far = arc[np.maximum(one, other)] - arc[np.minimum(one, other) + 1] > np.pi * radius
    one, other = one[far], other[far]
    middle = (line[:-1] + line[1:]) / 2
    away = np.linalg.norm(middle[one] - middle[other], axis=1)
    return bool((away < 2 * radius).any())
