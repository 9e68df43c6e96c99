"""Ray casting through a mesh, guarded against single precision."""

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Floats, Mesh, Points, bounds, face_normals

__all__ = ["Rays"]

_BATCH = 1 << 18
"""Rays cast at a time, for memory."""
_GRAIN = 2e-5
"""Distance, of the mesh's size, by which a ray is started off the surface (single precision)."""
_THROUGH = 12
"""Coinciding faces that a ray is taken through."""
Ints = NDArray[np.int64]


class Rays:
    """A mesh made ready for rays. It is recentred inside, since the caster computes in float32."""

    def __init__(self, mesh: Mesh, within: Mesh | None = None) -> None:
        """``within`` is the mesh that this is a piece of, whose size and middle count."""
        low, high = bounds(within or mesh)
        self._centre = (low + high) / 2
        self.size = float((high - low).max())
        """Longest side of the mesh, mm."""
        self.grain = self.size * _GRAIN
        """Length (mm) below which two hits are not told apart."""
        self.normals = face_normals(mesh)
        """Outward unit normal of every face, (m, 3)."""
        self._scene = EmbreeScene()
        vertices = (mesh.vertices - self._centre).astype(np.float32)
        self._kept_alive = TriangleMesh(self._scene, vertices, np.array(mesh.faces))

    def first(self, origins: Points, directions: Points) -> tuple[Floats, Ints]:
        """Distance (r,) and face (r,) of the first hit of each ray; inf and -1 where it leaves."""
        distance, face = np.full(len(origins), np.inf), np.full(len(origins), -1, np.int64)
        for start in range(0, len(origins), _BATCH):
            batch = slice(start, start + _BATCH)
            hits = self._scene.run(
                (origins[batch] - self._centre).astype(np.float32),
                directions[batch].astype(np.float32),
                output=1,
            )
            hit = hits["primID"] >= 0
            distance[batch] = np.where(hit, hits["tfar"], np.inf)
            face[batch] = np.where(hit, hits["primID"], -1)
        return distance, face

    def leaves(self, origins: Points, directions: Points) -> tuple[Floats, Ints]:
        """Distance and face where each ray that starts inside one solid leaves the last it has entered.

        A ray that enters overlapping shells on its way goes on until it has left as many as it entered, at most
        through twelve surfaces; inf and -1 where it never does (open surfaces).
        """
        total = np.zeros(len(origins))
        face = np.full(len(origins), -1, np.int64)
        depth = np.ones(len(origins), np.int64)
        going = np.arange(len(origins))
        for _ in range(_THROUGH):
            step, hit = self.first(origins[going] + total[going, None] * directions[going], directions[going])
            total[going] += step
            landed = hit >= 0
            out = np.einsum("ij,ij->i", self.normals[hit], directions[going]) > 0
            depth[going] -= np.where(out, 1, -1)
            done = landed & (depth[going] <= 0)
            face[going[done]] = hit[done]
            going = going[landed & ~done]
            total[going] += self.grain
            if not len(going):
                break
        total[face < 0] = np.inf
        return total, face

    def buried(self, points: Points, directions: Points) -> NDArray[np.bool_]:
        """Which points lie inside a solid, by what a ray from each enters and leaves on its way out."""
        depth = np.zeros(len(points), np.int64)
        total = np.zeros(len(points))
        going = np.arange(len(points))
        for _ in range(4 * _THROUGH):
            step, hit = self.first(points[going] + total[going, None] * directions[going], directions[going])
            landed = hit >= 0
            out = np.einsum("ij,ij->i", self.normals[hit], directions[going]) > 0
            depth[going[landed]] += np.where(out, 1, -1)[landed]
            total[going] += step + self.grain
            going = going[landed]
            if not len(going):
                break
        return depth > 0

    def passed(
        self, origins: Points, directions: Points, group: Ints, own: Ints, counted: NDArray[np.bool_]
    ) -> tuple[Ints, Ints]:
        """How many faces of counted groups other than its own each ray passes, (r,), and how many more of them it
        leaves than enters, (r,): in so many solids it begins, less the hollows in them.

        ``group`` (m,) is the group of each face, ``own`` (r,) that of each ray's origin, ``counted`` (groups,) those
        that matter.
        """
        number, net = np.zeros(len(origins), np.int64), np.zeros(len(origins), np.int64)
        total = np.zeros(len(origins))
        going = np.arange(len(origins))
        while len(going):
            step, hit = self.first(origins[going] + total[going, None] * directions[going], directions[going])
            landed = hit >= 0
            going, face = going[landed], hit[landed]
            matters = counted[group[face]] & (group[face] != own[going])
            out = np.einsum("ij,ij->i", self.normals[face], directions[going]) > 0
            number[going] += matters
            net[going] += np.where(out, 1, -1) * matters
            total[going] += step[landed] + self.grain
        return number, net
