"""Where a brush comes to, at every stage of putting together. Print mm.

A place is reached when a brush, its width tapered to its tip over 60 mm and as wide beyond, lies clear of the figure in
one of 128 directions. Clear is told on a field of distances to the surface, 0.4 mm a step.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import edt
import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Mesh, Points, area, bounds, face_normals
from ulvet.core.geometry.samples import even_directions, spread_points
from ulvet.core.geometry.voxels import surface_distances
from ulvet.core.kernels import kernel, typed

__all__ = ["PartReach", "reach_by_stage", "reached"]

_STEP = 0.4
"""Mm between the nodes of the field."""
_DIRECTIONS = 128
"""Directions in which a brush is held."""
_LONG = 60.0
"""Mm of a brush from its tip to its full width."""
_APART = 0.6
"""Mm between places that are looked at (bench default)."""
_MOST_PLACES = 60_000
"""Places of a figure that are looked at; of a larger one they lie farther apart (bench default)."""
_MOST_NODES = 30_000_000
"""Nodes of the field; of a larger figure they lie farther apart (bench default)."""
_EXACT, _ON_IT = 1.0, 0.5
"""Steps to the surface up to which the distance is exact, and within which a node lies on it for all that are farther:
they are told to half a step."""
_f = typed.float64


@dataclass(frozen=True)
class PartReach:
    """Of a part what no brush comes to: by stage, from the one at which it is put on, its area (mm²), and the middle of
    what is lost by putting together, with the normal there."""

    part: int
    alone: float
    """Before anything is put together."""
    by_stage: dict[int, float]
    point: tuple[float, float, float] | None
    normal: tuple[float, float, float] | None


def reach_by_stage(meshes: Sequence[Mesh], stages: Sequence[Sequence[int]], brush: float) -> tuple[PartReach, ...]:
    """What no brush ``brush`` mm wide comes to of each part, alone and when the parts of each stage stand together.

    What is out of reach once stays so, as more is only added.
    """
    total = sum(area(mesh) for mesh in meshes)
    apart = max(_APART**2, total / _MOST_PLACES)
    looked = [_Looked.of(mesh, max(int(area(mesh) / apart), 40)) for mesh in meshes]
    for mesh, one in zip(meshes, looked, strict=True):
        one.free = reached([mesh], one.points, one.normals, brush)
    alone = [one.out_of_reach for one in looked]
    by_stage: list[dict[int, float]] = [{} for _ in meshes]
    for number, stage in enumerate(stages):
        field = _Field.of([meshes[at] for at in stage], brush / 2) if len(stage) > 1 else None
        for at in stage:
            if field is not None and looked[at].free.any():
                looked[at].hold_against(field)
            by_stage[at][number] = looked[at].out_of_reach
    return tuple(
        PartReach(at, alone[at], by_stage[at], *_worst(one.points, one.normals, one.lost))
        for at, one in enumerate(looked)
    )


@dataclass
class _Looked:
    """Places (n, 3) of a part, each for so much of its area, which of them are free, and which were lost since."""

    points: Points
    normals: Points
    each: float
    free: NDArray[np.bool_]
    lost: NDArray[np.bool_]

    @classmethod
    def of(cls, mesh: Mesh, count: int) -> "_Looked":
        points, faces = spread_points(mesh, count)
        none = np.zeros(count, bool)
        return cls(points, face_normals(mesh)[faces], area(mesh) / count, ~none, none)

    @property
    def out_of_reach(self) -> float:
        return float((~self.free).sum() * self.each)

    def hold_against(self, field: "_Field") -> None:
        """Take off what is free what the field is in the way of."""
        still = self.free.copy()
        still[self.free] = field.reached(self.points[self.free], self.normals[self.free])
        self.lost = self.lost | (self.free & ~still)
        self.free = still


def reached(meshes: Sequence[Mesh], points: Points, normals: Points, brush: float) -> NDArray[np.bool_]:
    """Whether a brush comes to each of the points (n, 3), which look along their normals, past all of the meshes."""
    return _Field.of(meshes, brush / 2).reached(points, normals)


@dataclass(frozen=True)
class _Field:
    """Distances to the surface on a grid from its first node, so many mm a step, for a brush half as wide as that."""

    first: Points
    step: float
    away: NDArray[np.float32]
    half: float

    @classmethod
    def of(cls, meshes: Sequence[Mesh], half: float) -> "_Field":
        boxes = np.array([bounds(mesh) for mesh in meshes])
        low, high = boxes[:, 0].min(axis=0), boxes[:, 1].max(axis=0)
        pad = half + 2 * _STEP
        step = max(_STEP, float((np.prod(high - low + 2 * pad) / _MOST_NODES) ** (1 / 3)))
        shape = np.ceil((high - low + 2 * pad) / step).astype(np.int64) + 1
        corners = np.concatenate([mesh.vertices[mesh.faces] for mesh in meshes])
        near = surface_distances(np.ascontiguousarray((corners - low + pad) / step), shape, _EXACT)
        far = edt.edt(near > _ON_IT, parallel=1) + np.float32(_ON_IT / 2)
        away = np.where(np.isfinite(near), near, far) * np.float32(step)
        return cls(low - pad, step, np.ascontiguousarray(away, np.float32), half)

    def reached(self, points: Points, normals: Points) -> NDArray[np.bool_]:
        """Whether a brush comes to each of the points."""
        ways = np.ascontiguousarray(even_directions(_DIRECTIONS))
        at = np.ascontiguousarray(points - self.first)
        return np.asarray(_reached(at, np.ascontiguousarray(normals), ways, self.away, self.step, self.half))


@kernel(typed.boolean[::1](_f[:, ::1], _f[:, ::1], _f[:, ::1], typed.float32[:, :, ::1], _f, _f))
def _reached(points, normals, ways, field, step, half):  # type: ignore[no-untyped-def]
    nx, ny, nz = field.shape
    free = np.zeros(len(points), np.bool_)
    for p in range(len(points)):
        for w in range(len(ways)):
            if ways[w, 0] * normals[p, 0] + ways[w, 1] * normals[p, 1] + ways[w, 2] * normals[p, 2] < 0.02:
                continue
            clear = True
            # The field is read between nodes only to half a step, so nothing is said of the first steps.
            t = 3 * step
            while True:
                x = (points[p, 0] + t * ways[w, 0]) / step
                y = (points[p, 1] + t * ways[w, 1]) / step
                z = (points[p, 2] + t * ways[w, 2]) / step
                i, j, k = int(x + 0.5), int(y + 0.5), int(z + 0.5)
                if x < 0 or y < 0 or z < 0 or i >= nx or j >= ny or k >= nz:
                    break
                there = field[i, j, k]
                wide = half * min(t / 60.0, 1.0)
                if there < max(wide, 0.75 * step * min(1.0, t / (8 * step))):
                    clear = False
                    break
                t += max(step, 0.7 * (there - wide))
            if clear:
                free[p] = True
                break
    return free


def _worst(
    points: Points, normals: Points, lost: NDArray[np.bool_]
) -> tuple[tuple[float, float, float] | None, tuple[float, float, float] | None]:
    """The place of what is lost that lies nearest to the middle of all that is."""
    if not lost.any():
        return None, None
    there = points[lost]
    at = int(np.argmin(((there - np.median(there, axis=0)) ** 2).sum(axis=1)))
    x, y, z = map(float, there[at])
    a, b, c = map(float, normals[lost][at])
    return (x, y, z), (a, b, c)
