"""First forms as distance fields, joined smoothly and meshed."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from skimage.measure import marching_cubes

from ulvet.core.geometry.degenerate_faces import drop_faces
from ulvet.core.geometry.mesh import Mesh, Points

__all__ = ["Form", "ball", "egg", "limb", "meshed", "sheet"]

Field = NDArray[np.float64]
Vector = tuple[float, float, float]
_SLIVER = 2e-5
"""Height (mm) under which a face has no area."""


@dataclass(frozen=True)
class Form:
    """A solid as a distance function of points (..., 3), with its box and how softly it joins what came before (mm).

    ``hollow`` forms are taken away instead of added.
    """

    distance: Callable[[Points], Field]
    low: Points
    high: Points
    blend: float = 1.0
    hollow: bool = False


def limb(a: Vector, b: Vector, ra: float, rb: float, blend: float = 1.0) -> Form:
    """A rounded limb from a to b, its radius going from ``ra`` to ``rb``."""
    start, end = np.array(a, float), np.array(b, float)
    axis = end - start

    def distance(points: Points) -> Field:
        along = np.clip(((points - start) @ axis) / (axis @ axis), 0, 1)
        nearest = start + along[..., None] * axis
        return np.asarray(np.linalg.norm(points - nearest, axis=-1) - (ra + along * (rb - ra)))

    reach = max(ra, rb)
    return Form(distance, np.minimum(start, end) - reach, np.maximum(start, end) + reach, blend)


def egg(middle: Vector, radii: Vector, blend: float = 1.0, hollow: bool = False) -> Form:
    """An ellipsoid (distance by Quilez' first-order bound)."""
    centre, r = np.array(middle, float), np.array(radii, float)

    def distance(points: Points) -> Field:
        p = points - centre
        k0 = np.linalg.norm(p / r, axis=-1)
        k1 = np.linalg.norm(p / r**2, axis=-1)
        return np.asarray(k0 * (k0 - 1) / np.maximum(k1, 1e-9))

    return Form(distance, centre - r, centre + r, blend, hollow)


def ball(middle: Vector, radius: float, blend: float = 1.0, hollow: bool = False) -> Form:
    """A sphere."""
    return egg(middle, (radius, radius, radius), blend, hollow)


def meshed(forms: list[Form], grid: float) -> Mesh:
    """The forms, one after the other, on a grid of the given step (mm)."""
    solid = [form for form in forms if not form.hollow]
    low = np.min([form.low for form in solid], axis=0) - 3 * grid
    high = np.max([form.high for form in solid], axis=0) + 3 * grid
    axes = [np.arange(low[k], high[k] + grid, grid) for k in range(3)]
    field = np.full([len(axis) for axis in axes], 1e3)
    for form in forms:
        near = 2 * form.blend + 3 * grid
        window = tuple(
            slice(*np.searchsorted(axis, [form.low[k] - near, form.high[k] + near])) for k, axis in enumerate(axes)
        )
        points = np.stack(
            np.meshgrid(*(axis[cut] for axis, cut in zip(axes, window, strict=True)), indexing="ij"), axis=-1
        )
        distance = form.distance(points)
        here = field[window]
        field[window] = -_joined(-here, distance, form.blend) if form.hollow else _joined(here, distance, form.blend)
    vertices, faces, _, _ = marching_cubes(field, 0.0, spacing=(grid, grid, grid))
    mesh = Mesh(vertices.astype(np.float64) + low, faces.astype(np.int32))
    return drop_faces(mesh, _SLIVER)[0]


def sheet(front: Points, thickness: Field) -> Mesh:
    """A closed sheet over a grid of points (u, v, 3), ``thickness`` (u, v) mm deep behind it along its normals."""
    across, down = np.gradient(front, axis=0), np.gradient(front, axis=1)
    normal = np.cross(across, down)
    normal /= np.linalg.norm(normal, axis=-1, keepdims=True)
    back = front + normal * thickness[..., None]
    u, v = thickness.shape
    corner = np.arange(u * v).reshape(u, v)
    a, b, c, d = corner[:-1, :-1], corner[1:, :-1], corner[1:, 1:], corner[:-1, 1:]
    quads = np.stack([a, d, c, b], axis=-1).reshape(-1, 4)
    rim = np.concatenate([corner[:-1, 0], corner[-1, :-1], corner[:0:-1, -1], corner[0, :0:-1]])
    turn = np.roll(rim, -1)
    sides = np.stack([rim, turn, turn + u * v, rim + u * v], axis=1)
    quads = np.concatenate([quads, quads[:, ::-1] + u * v, sides])
    faces = np.concatenate([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]])
    points = np.concatenate([front.reshape(-1, 3), back.reshape(-1, 3)])
    return Mesh(points, faces.astype(np.int32))


def _joined(a: Field, b: Field, blend: float) -> Field:
    """Smooth minimum, cubic in the overlap (Quilez 2013)."""
    if blend <= 0:
        return np.minimum(a, b)
    h = np.maximum(blend - np.abs(a - b), 0) / blend
    return np.asarray(np.minimum(a, b) - h**3 * blend / 6)
