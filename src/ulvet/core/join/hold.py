"""How two solids hold together: depth of their overlap, the neck between them, and what they would seal."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy import sparse
from trimesh.remesh import subdivide_to_size

from ulvet.core.geometry.deviation import distance_to
from ulvet.core.geometry.holes import Hole, holes_of
from ulvet.core.geometry.mesh import (
    Mesh,
    Points,
    area,
    bounds,
    concatenated,
    face_areas,
    face_cross,
    face_normals,
    volume,
)
from ulvet.core.geometry.solids import Solid, TooFarApart, mesh_of, shells_of
from ulvet.core.geometry.topology import edges_of, face_shells, is_connected, without_unused_vertices

__all__ = ["Hold", "hold_between", "middle_of_neck", "sealed_in", "without_sealed"]

_MOST_SAMPLES = 6_000
"""Samples of an overlap's depth, for time."""
_SAMPLES_A_SIDE = 24
"""Samples along the longest side of an overlap."""
_FLAT = 0.7
"""Area of a patch's shadow, of its own, from which it counts as flat (bench default)."""
_NEARLY_ALONG = np.cos(np.radians(30))
"""Cosine of the angle within which a face lies along a way, 30°."""
_WAYS = 200
"""Faces whose normals are tried as the way in, the largest first."""


@dataclass(frozen=True)
class Hold:
    """How two solids hold together, mm.

    ``overlap`` is how deep they reach into each other, square to the neck; where there is no neck to speak of, how far
    one's surface lies under the other's. The ``neck`` (mm²) is the least
    section that holds one to the other where they meet, ``neck_width`` how thick it is at its thickest. ``rim`` (r, 2,
    3) are the edges along which their surfaces cross, ``removed`` (mm²) what of them lies inside.
    """

    overlap: float
    neck: float
    neck_width: float
    removed: float
    rim: Points

    @property
    def middle(self) -> tuple[float, float, float]:
        """The middle of where their surfaces cross."""
        x, y, z = map(float, self.rim.reshape(-1, 3).mean(axis=0) if len(self.rim) else np.zeros(3))
        return x, y, z


@dataclass(frozen=True)
class _Patch:
    """What of one surface lies inside the other, as a section: its area, its width, and the way square to it."""

    cut: float
    width: float
    across: Points | None


@dataclass(frozen=True)
class _Meeting:
    cut: float
    width: float
    depth: float


def hold_between(a: Solid, b: Solid) -> Hold:
    """Measure where two solids overlap.

    Raises TooFarApart when they do not, with the distance between them.
    """
    both, came = mesh_of(a.body ^ b.body)
    if not len(both.faces):
        gap = min(float(distance_to(x, y.vertices).min()) for x, y in ((a.mesh, b.mesh), (b.mesh, a.mesh)))
        raise TooFarApart(
            f"They do not reach into each other: {gap:.2f} mm lie between them. Move one closer, then join them; "
            "nothing was changed."
        )
    count, piece = face_shells(both, edges_of(both))
    meetings = [_meeting(both, np.flatnonzero(piece == k), came, a, b) for k in range(count)]
    strongest = max(meetings, key=lambda one: one.cut)
    ours = edges_of(Mesh(both.vertices, both.faces[came == a.number]))
    return Hold(
        overlap=strongest.depth,
        neck=sum(one.cut for one in meetings),
        neck_width=strongest.width,
        removed=area(both),
        rim=np.asarray(both.vertices[ours.ends[ours.open]]),
    )


def _meeting(both: Mesh, faces: NDArray[np.int64], came: NDArray[np.int64], a: Solid, b: Solid) -> _Meeting:
    """One place where two solids overlap: held by the weaker of what either surface closes off in the other."""
    piece = Mesh(both.vertices, both.faces[faces])
    numbers = np.unique(came[faces])
    sides = [without_unused_vertices(Mesh(both.vertices, piece.faces[came[faces] == number])) for number in numbers]
    weaker = min((_patches(side) for side in sides), key=lambda side: sum(patch.cut for patch in side))
    widest = max(weaker, key=lambda patch: patch.cut, default=None)
    if widest is None or widest.across is None:
        other = [b.mesh if number == a.number else a.mesh for number in numbers]
        depth = _depth_under(list(zip(sides, other, strict=True)))
    else:
        depth = _depth_along(piece, widest.across)
    return _Meeting(sum(patch.cut for patch in weaker), widest.width if widest else 0.0, depth)


def _depth_along(piece: Mesh, across: Points) -> float:
    """How deep an overlap is along a way (3,), or along the normal of one of its larger faces near that way."""
    normals, areas = face_normals(piece), face_areas(piece)
    near = np.flatnonzero(normals @ across > _NEARLY_ALONG)
    largest = near[np.argsort(-areas[near], kind="stable")[:_WAYS]]
    ways = np.concatenate([across[None], normals[largest]])
    return float(np.ptp(piece.vertices[np.unique(piece.faces)] @ ways.T, axis=0).min())


def _depth_under(sides: list[tuple[Mesh, Mesh]]) -> float:
    """How far the surface of either of two meshes lies under the other's at most; ``sides`` are what of each surface
    lies inside, with the other mesh."""
    ends = np.array([bounds(side) for side, _ in sides])
    longest = max(float((ends[:, 1].max(axis=0) - ends[:, 0].min(axis=0)).max()) / _SAMPLES_A_SIDE, 1e-9)
    deepest = 0.0
    for side, other in sides:
        points = side.vertices
        if len(points) < _MOST_SAMPLES:
            points, _ = subdivide_to_size(side.vertices, side.faces, longest, max_iter=20)
        points = points[:: len(points) // _MOST_SAMPLES + 1]
        deepest = max(deepest, float(distance_to(other, points).max()))
    return deepest


def _patches(side: Mesh) -> list[_Patch]:
    """What of one surface lies inside the other: for each patch the least section that closes its rim."""
    found = []
    for patch in shells_of(side):
        rims = holes_of(patch, edges_of(patch))
        if len(rims) == 1:
            # The flat of least area over a rim; the patch itself may bulge.
            across = face_cross(patch).sum(axis=0) / 2
            size = float(np.linalg.norm(across))
            across = across / max(size, 1e-300)
            found.append(_Patch(size, _widest(patch.vertices[rims[0].rim], across), across))
        elif rims:
            covered = float(face_areas(patch).sum())
            found.append(_Patch(covered, covered / max(_length(patch, rims) / 2, 1e-300), _level(patch, covered)))
    return found


def _level(patch: Mesh, covered: float) -> Points | None:
    """The direction (3,) square to a patch that is nearly flat; None where it goes round."""
    across = face_cross(patch).sum(axis=0) / 2
    size = float(np.linalg.norm(across))
    return across / size if size > _FLAT * covered else None


def _widest(rim: Points, across: Points) -> float:
    """Diameter of the largest circle inside a rim (n, 3), seen along the unit vector ``across`` (3,)."""
    if len(rim) < 3 or not across.any():
        return 0.0
    u = np.cross(across, np.eye(3)[np.argmin(np.abs(across))])
    u /= np.linalg.norm(u)
    outline = shapely.make_valid(shapely.Polygon(np.stack([rim @ u, rim @ np.cross(across, u)], axis=1)))
    return float(2 * shapely.maximum_inscribed_circle(outline).length) if outline.area > 0 else 0.0


def _length(patch: Mesh, rims: list[Hole]) -> float:
    ends = [(patch.vertices[hole.rim], patch.vertices[np.roll(hole.rim, -1)]) for hole in rims]
    return float(sum(np.linalg.norm(b - a, axis=1).sum() for a, b in ends))


def middle_of_neck(hold: Hold) -> Points:
    """The middle (3,) of the longest ring along which two solids cross."""
    corners, at = np.unique(hold.rim.reshape(-1, 3).round(9), axis=0, return_inverse=True)
    ends = at.reshape(-1, 2)
    concatenated = sparse.coo_matrix((np.ones(len(ends)), ends.T), shape=(len(corners), len(corners)))
    ring = sparse.csgraph.connected_components(concatenated, directed=False)[1][ends[:, 0]]
    length = np.linalg.norm(hold.rim[:, 0] - hold.rim[:, 1], axis=1)
    longest = ring == np.bincount(ring, length).argmax()
    middles = hold.rim[longest].mean(axis=1)
    return np.asarray(np.average(middles, axis=0, weights=np.maximum(length[longest], 1e-300)))


def sealed_in(after: Mesh, *before: Mesh) -> float:
    """Volume (mm³) of the cavities that a joined solid has and its members did not."""
    return -sum(volume(shell) for shell in _sealed(after, before)[1])


def without_sealed(after: Mesh, *before: Mesh) -> Mesh:
    """A joined solid with those cavities filled."""
    return concatenated(*_sealed(after, before)[0])


def _sealed(after: Mesh, before: Sequence[Mesh]) -> tuple[list[Mesh], list[Mesh]]:
    """The shells of a joined solid that stay, and the cavities its members did not have."""
    if is_connected(after):
        return [after], []
    shells = shells_of(after)
    hollow = [shell for shell in shells if volume(shell) < 0]
    if not hollow:
        return shells, []
    known = [_cavity(shell) for mesh in before for shell in shells_of(mesh) if volume(shell) < 0]
    new = [shell for shell in hollow if not any(_same(_cavity(shell), other) for other in known)]
    return [shell for shell in shells if all(shell is not other for other in new)], new


def _cavity(shell: Mesh) -> NDArray[np.float64]:
    return np.append(bounds(shell).ravel(), volume(shell))


def _same(a: NDArray[np.float64], b: NDArray[np.float64]) -> bool:
    return bool(np.allclose(a, b, rtol=1e-6, atol=1e-6))
