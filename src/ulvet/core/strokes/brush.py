"""A surface under a brush: each sample of a stroke moves a few of its vertices."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulvet.core.geometry.mesh import Floats, Mesh, Points
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.topology import edges_of
from ulvet.core.kernels import kernel, typed

__all__ = ["TOOLS", "Brush", "MovedVertices", "StrokedMesh", "Tool"]

Ints = NDArray[np.int64]
Tool = Literal["raise", "lower", "smooth", "flatten", "crease", "thicken"]
TOOLS: tuple[Tool, ...] = ("raise", "lower", "smooth", "flatten", "crease", "thicken")
_i8 = typed.int64[::1]
_f8r = typed.Array(typed.float64, 2, "C", readonly=True)
_i4r = typed.Array(typed.int32, 2, "C", readonly=True)
_INSIDE = 4
"""How far inside a ray starts, in grains of the caster, so that it does not hit the side it comes from."""
_PINCH = 0.35
"""How far a crease draws its sides together, as a share of the way to its middle."""


@dataclass(frozen=True)
class Brush:
    """What a stroke does: ``radius`` and ``amount`` in the mm of the mesh.

    The amount is how far the middle moves a sample; for smooth and flatten the share (0 to 1) of the way to the mean or
    the plane; for thicken the wall that is wanted.
    """

    tool: Tool
    radius: float
    amount: float


@dataclass(frozen=True)
class MovedVertices:
    """Vertices that a sample moved, (k,), in order, and where they are now, (k, 3)."""

    vertices: Ints
    points: Points


class StrokedMesh:
    """A mesh while strokes are applied to it: its faces stay, its vertices move."""

    def __init__(self, mesh: Mesh) -> None:
        corners = mesh.faces.ravel().astype(np.int64)
        self._face_at = np.argsort(corners, kind="stable") // 3
        self._face_start = np.concatenate([[0], np.cumsum(np.bincount(corners, minlength=len(mesh.vertices)))])
        ends = edges_of(mesh).ends
        both = np.concatenate([ends, ends[:, ::-1]])
        order = np.argsort(both[:, 0], kind="stable")
        self._beside = both[order, 1]
        self._beside_start = np.concatenate([[0], np.cumsum(np.bincount(both[:, 0], minlength=len(mesh.vertices)))])
        self._start_from(mesh)

    def _start_from(self, mesh: Mesh) -> None:
        self.start = mesh
        """The mesh as the stroke found it."""
        self.points = np.array(mesh.vertices)
        self._tree = cKDTree(mesh.vertices)
        self._strayed = 0.0
        self._behind: _Behind | None = None

    def next(self) -> None:
        """Start another stroke from what this one left, as a new ``StrokedMesh`` on it would, only quicker."""
        self._start_from(self.mesh)

    def back(self) -> None:
        """Take the stroke back."""
        self.points = np.array(self.start.vertices)
        self._strayed = 0.0

    def start_within(self, point: Points, radius: float) -> Ints:
        """Vertices within a radius of a point (3,), where they were at the start of the stroke, in order."""
        return np.array(self._tree.query_ball_point(point, radius, return_sorted=True), np.int64)

    def start_nearest(self, point: Points) -> float:
        """How far the nearest vertex was from a point (3,) at the start of the stroke."""
        return float(self._tree.query(point)[0])

    def faces_round(self, vertices: Ints) -> Ints:
        """The faces that have any of some vertices, in order."""
        return np.unique(_gathered(vertices, self._face_start, self._face_at)[1])

    @property
    def mesh(self) -> Mesh:
        """The mesh as it is now."""
        return Mesh(self.points, self.start.faces)

    def sample(self, brush: Brush, point: Points, normal: Points) -> MovedVertices:
        """Apply a brush once at a place (3,) that looks along ``normal`` (3,); what looks away from it stays."""
        # The tree holds where vertices were: none has gone farther from there than the strokes since have moved any.
        near = self.start_within(point, brush.radius + self._strayed)
        near = near[np.linalg.norm(self.points[near] - point, axis=1) < brush.radius]
        if len(near):
            normals = self.normals(near)
            turned = normals @ normal > 0
            near, normals = near[turned], normals[turned]
        if not len(near):
            return MovedVertices(near, np.empty((0, 3)))
        at = self.points[near]
        share = (1 - (np.linalg.norm(at - point, axis=1) / brush.radius) ** 2) ** 2
        moved = at + self._move(brush, near, at, normals, share, point)
        self.points[near] = moved
        strayed = np.linalg.norm(moved - self.start.vertices[near], axis=1).max()
        self._strayed = max(self._strayed, float(strayed))
        return MovedVertices(near, moved)

    def _move(self, brush: Brush, near: Ints, at: Points, normals: Points, share: Floats, point: Points) -> Points:
        up = (normals * share[:, None]).sum(axis=0)
        up /= max(float(np.linalg.norm(up)), 1e-300)
        match brush.tool:
            case "raise":
                return up * (brush.amount * share)[:, None]
            case "lower":
                return -up * (brush.amount * share)[:, None]
            case "smooth":
                return (self._mean_beside(near) - at) * (min(brush.amount, 1.0) * share)[:, None]
            case "flatten":
                middle = (at * share[:, None]).sum(axis=0) / share.sum()
                return -up * (((at - middle) @ up) * min(brush.amount, 1.0) * share)[:, None]
            case "crease":
                inward = point - at
                inward -= (inward @ up)[:, None] * up
                return -up * (brush.amount * share**2)[:, None] + inward * (_PINCH * share**2)[:, None]
            case "thicken":
                lacking = np.maximum(brush.amount - self.behind.walls(near) - self.grown(near), 0)
                return normals * (lacking * share)[:, None]

    def normals(self, vertices: Ints, points: Points | None = None) -> Points:
        """Area-weighted unit normals (k, 3) at some vertices, of the surface as it is or with vertices elsewhere."""
        at = self.points if points is None else points
        return np.asarray(_normals_at(vertices, self._face_start, self._face_at, at, self.start.faces))

    def _mean_beside(self, near: Ints) -> Points:
        vertex, beside = _gathered(near, self._beside_start, self._beside)
        count = np.maximum(np.bincount(vertex, minlength=len(near)), 1)
        total = [np.bincount(vertex, self.points[beside, k], minlength=len(near)) for k in range(3)]
        return np.asarray(np.stack(total, axis=1) / count[:, None])

    @property
    def behind(self) -> "_Behind":
        """What lies behind the surface as the stroke found it; made ready when it is first asked for."""
        if self._behind is None:
            self._behind = _Behind(self.start, self.normals)
        return self._behind

    def grown(self, vertices: Ints) -> Floats:
        """How much thicker (k,) the walls under some vertices are than at the start of the stroke, by how far this side
        and the face behind have moved."""
        behind = self.behind
        behind.look(vertices)
        face, start = behind.face[vertices], self.start.vertices
        corners = self.start.faces[np.maximum(face, 0)]
        gone = (self.points[corners] - start[corners]).mean(axis=1)
        gone[face < 0] = 0
        moved = self.points[vertices] - start[vertices]
        return np.asarray(np.einsum("ij,ij->i", moved - gone, behind.looks[vertices]))


class _Behind:
    """The other side of a surface, looked for vertex by vertex as it is asked for."""

    def __init__(self, mesh: Mesh, normals: Callable[[Ints, Points], Points]) -> None:
        self._mesh, self._normals, self._rays = mesh, normals, Rays(mesh)
        count = len(mesh.vertices)
        self._looked = np.zeros(count, bool)
        self._wall = np.full(count, np.inf)
        self.face = np.full(count, -1, np.int64)
        """The face behind each vertex; -1 where there is none."""
        self.looks = np.zeros((count, 3))
        """Which way the surface looks there."""

    def walls(self, vertices: Ints) -> Floats:
        """How far it is from some vertices to the other side, (k,); infinite where there is none."""
        self.look(vertices)
        return np.asarray(self._wall[vertices])

    def look(self, vertices: Ints) -> None:
        """Look behind those of some vertices that were not looked behind before."""
        fresh = vertices[~self._looked[vertices]]
        if not len(fresh):
            return
        at = self._mesh.vertices
        looks = self._normals(fresh, at)
        inside = _INSIDE * self._rays.grain
        away, self.face[fresh] = self._rays.first(at[fresh] - looks * inside, -looks)
        self._wall[fresh], self.looks[fresh] = away + inside, looks
        self._looked[fresh] = True


def _gathered(which: Ints, start: Ints, values: Ints) -> tuple[Ints, Ints]:
    """What a table of runs holds for some entries: for each value the place of its entry in ``which``, and itself."""
    count = start[which + 1] - start[which]
    entry = np.repeat(np.arange(len(which)), count)
    within = np.arange(len(entry)) - np.repeat(np.cumsum(count) - count, count)
    return entry, values[start[which][entry] + within]


@kernel(typed.float64[:, ::1](_i8, _i8, _i8, _f8r, _i4r))
def _normals_at(near, start, face_at, points, faces):  # type: ignore[no-untyped-def]
    """The cross products of the faces round each vertex added up, of length one."""
    found = np.zeros((len(near), 3))
    for k in range(len(near)):
        x, y, z = 0.0, 0.0, 0.0
        for place in range(start[near[k]], start[near[k] + 1]):
            a, b, c = faces[face_at[place], 0], faces[face_at[place], 1], faces[face_at[place], 2]
            ux, uy, uz = points[b, 0] - points[a, 0], points[b, 1] - points[a, 1], points[b, 2] - points[a, 2]
            vx, vy, vz = points[c, 0] - points[a, 0], points[c, 1] - points[a, 1], points[c, 2] - points[a, 2]
            x += uy * vz - uz * vy
            y += uz * vx - ux * vz
            z += ux * vy - uy * vx
        long = max(np.sqrt(x * x + y * y + z * z), 1e-300)
        found[k, 0], found[k, 1], found[k, 2] = x / long, y / long, z / long
    return found
