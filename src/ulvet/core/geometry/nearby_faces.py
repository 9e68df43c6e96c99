"""Signed distance from a finely meshed surface, by the faces around the nearest vertices."""

from concurrent.futures import ThreadPoolExecutor

import numpy as np
from scipy.spatial import cKDTree

from ulvet.core.geometry.mesh import Floats, Mesh, Points
from ulvet.core.geometry.near_triangle import nearest_weights
from ulvet.core.kernels import THREADS, kernel, typed

__all__ = ["NearbyFaces"]

_NEAR = 3
"""Nearest vertices whose faces are looked at."""
_LEAF = 64
"""Vertices in a leaf of the tree: points far from the surface have many about equally near, found faster side by side
(of 16 to 256, bench default)."""
_f8, _i4, _i8 = typed.float64[:, ::1], typed.int32[:, ::1], typed.int64[::1]
_f8r, _i4r = typed.Array(typed.float64, 2, "C", readonly=True), typed.Array(typed.int32, 2, "C", readonly=True)


class NearbyFaces:
    """A surface prepared for distances to the faces around the three vertices nearest to a point."""

    def __init__(self, mesh: Mesh) -> None:
        self._mesh = mesh
        self.tree = cKDTree(mesh.vertices, leafsize=_LEAF)
        order = np.argsort(mesh.faces.ravel(), kind="stable")
        self._starts = np.searchsorted(mesh.faces.ravel()[order], np.arange(len(mesh.vertices) + 1))
        self._face_at = order // 3

    def distance(self, points: Points) -> Floats:
        """Distance (n,) of points (n, 3) from those faces, below zero inside.

        It is no less than the distance from the surface, and hardly more where faces are small against it.
        """
        with ThreadPoolExecutor(THREADS) as workers:
            return np.concatenate(list(workers.map(self._distance, np.array_split(points, THREADS))))

    def _distance(self, points: Points) -> Floats:
        _, near = self.tree.query(points, k=_NEAR)
        mesh = self._mesh
        found = _distance_to_nearby(
            points, near.astype(np.int64), mesh.vertices, mesh.faces, self._face_at, self._starts
        )
        return np.asarray(found)


@kernel(typed.float64[::1](_f8, typed.int64[:, ::1], _f8r, _i4r, _i8, _i8))
def _distance_to_nearby(points, near, vertices, faces, face_at, starts):  # type: ignore[no-untyped-def]
    """Signed distance of each point from the faces round the vertices near it. Of faces that are
    equally near, the one that is seen most squarely tells the side."""
    found = np.empty(len(points))
    for k in range(len(points)):
        px, py, pz = points[k, 0], points[k, 1], points[k, 2]
        best, square = np.inf, 0.0
        for n in range(near.shape[1]):
            v = near[k, n]
            for place in range(starts[v], starts[v + 1]):
                a, b, c = faces[face_at[place], 0], faces[face_at[place], 1], faces[face_at[place], 2]
                ax, ay, az = vertices[a, 0], vertices[a, 1], vertices[a, 2]
                ux, uy, uz = vertices[b, 0] - ax, vertices[b, 1] - ay, vertices[b, 2] - az
                wx, wy, wz = vertices[c, 0] - ax, vertices[c, 1] - ay, vertices[c, 2] - az
                qx, qy, qz = px - ax, py - ay, pz - az
                s, t = nearest_weights(ux, uy, uz, wx, wy, wz, qx, qy, qz)
                gx, gy, gz = qx - s * ux - t * wx, qy - s * uy - t * wy, qz - s * uz - t * wz
                away = gx * gx + gy * gy + gz * gz
                nx, ny, nz = uy * wz - uz * wy, uz * wx - ux * wz, ux * wy - uy * wx
                side = (gx * nx + gy * ny + gz * nz) / max(np.sqrt(nx * nx + ny * ny + nz * nz), 1e-300)
                if away < best * (1 - 1e-9) or (away <= best * (1 + 1e-9) and abs(side) > abs(square)):
                    square = side
                best = min(best, away)
        found[k] = np.sqrt(best) if square >= 0 else -np.sqrt(best)
    return found
