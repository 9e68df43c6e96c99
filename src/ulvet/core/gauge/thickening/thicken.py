"""Adding material where walls are too thin, and nowhere else."""

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulvet.core.gauge.thickening.displacement import carried_displacement, faded, outward_displacement
from ulvet.core.gauge.thickening.fill_spheres import can_be_united, fill_thin_walls
from ulvet.core.gauge.thickening.free_movement import NewCrossings, free_share
from ulvet.core.gauge.walls.remeasure import faces_around
from ulvet.core.gauge.walls.thickness import measure_near
from ulvet.core.geometry.deviation import distance_to
from ulvet.core.geometry.mesh import Floats, Mesh, Points
from ulvet.core.geometry.topology import edges_of, submesh

__all__ = ["thicken_walls"]

Mask = NDArray[np.bool_]
_TURNS = 4
"""Times that what is still too thin is moved again."""
_UNDONE = 4
"""How often what a turn made thinner is taken back, and the turn tried again."""
_WORSE = 0.02
"""Share of the wall by which a vertex has to be thinner to count as that: more than measuring differs by."""
_SOFT = 0.3
"""Share of the wall over which a movement rises to the whole beside vertices that stay (bench default)."""
_OVER = 0.1
"""Share of the wall by which more is aimed at where it was not reached at once: facets take some of it (bench
default)."""
_ROUNDED = 1e-6
"""Share of the wall that is aimed at above it, since rounding may take some."""
_HELPS = 0.9
"""What a vertex misses after it moved has to be less than this share of what it missed, or it stays."""
_RINGS = 3  # of faces beyond what moves, which bear on its directions


def thicken_walls(mesh: Mesh, wall: float, fade: float, places: Points, reach: float) -> tuple[Mesh, int, float]:
    """Grow walls under ``wall`` mm to it, near ``places`` (p, 3): the mesh, vertices moved and the greatest movement.

    Vertices within ``reach`` mm of a place whose wall is too thin move outward by half of what is missing; around
    them the movement fades linearly to nothing over ``fade`` mm along the surface, so that no step shows. Directions
    are smoothed over neighbours, so that a noisy surface does not grow spikes. At square corners the movement is
    lengthened so that the faces, not the corner, move by the half; at sharper ones, which would grow thorns, it is not.
    Where faces would cross so, such as at the foot of a pin, what is around is carried along instead (harmonically).
    What is still too thin when it is measured again, as at the end of a tip, moves once more, while that helps.
    Vertices of faces that would cross, fold or tilt stay, as do those that would end thinner; what is still thin is
    filled (see ``fill_thin_walls``). A mesh that does not close cannot be filled; there faces may tilt. All lengths are
    figure mm.
    """
    grown, near = mesh, cKDTree(places).query(mesh.vertices)[0] <= reach
    walls = _Walls(mesh, near, wall * (1 + _OVER))
    missing, thin = walls.missing(wall, 0.0)
    held = _stiff(grown, missing, fade)
    if held.any() and not can_be_united(mesh):
        held[:] = False
    for _ in range(_TURNS):
        if not missing[~held].any():
            break
        shift = _shift(grown, missing, fade, thin)
        grown, walls, held = _moved_on(grown, shift, walls, wall, held)
        before = missing
        missing, thin = walls.missing(wall, _OVER)
        # Where it did not help it would grow a thorn.
        held |= (before > 0) & (missing > _HELPS * before)
    grown = fill_thin_walls(grown, wall, fade, places, reach)
    return grown, *_moved(mesh, grown)


def _stiff(mesh: Mesh, missing: Floats, fade: float) -> Mask:
    """Mark vertices (n,) that must not move because their faces would tilt: the faces reach past the fading zone to
    where nothing moves."""
    ends = edges_of(mesh).ends
    long = ends[np.linalg.norm(mesh.vertices[ends[:, 0]] - mesh.vertices[ends[:, 1]], axis=1) > fade]
    moves = faded(mesh, missing, fade) > 0
    stiff = np.zeros(len(moves), bool)
    while (tilts := moves[long[:, 0]] != moves[long[:, 1]]).any():
        stiff[long[tilts]] = True
        moves &= ~stiff
    return stiff


class _Walls:
    """The walls up to ``upto`` mm of the vertices (n,) that are near some place."""

    def __init__(self, mesh: Mesh, near: Mask, upto: float) -> None:
        self.near, self.upto = near, upto
        self._local = measure_near(mesh, faces_around(mesh, near), upto)
        self._faces = len(mesh.faces)
        self.walls = np.full(len(mesh.vertices), np.inf)
        self.walls[self._local.vertices] = self._local.thickness.walls[: len(self._local.vertices)]

    def missing(self, wall: float, over: float) -> tuple[Floats, Mask]:
        """By how much vertices (n,) that are thinner than ``wall`` have to move, mm: to be as much thicker than it as
        they are thinner, at most its share ``over`` and at least a tenth of that; and the faces (m,) found to be too
        thin."""
        least, most = max(over / 10, _ROUNDED), max(over, _ROUNDED)
        aim = np.clip(2 * wall - self.walls, wall * (1 + least), wall * (1 + most))
        missing = np.where(self.near & (self.walls < wall), (aim - self.walls) / 2, 0.0)
        missing[~np.isfinite(missing)] = 0
        thin = np.zeros(self._faces, bool)
        inside = self._local.thickness.walls[len(self._local.vertices) :] < wall
        thin[self._local.faces[self._local.thickness.face_of[inside]]] = True
        return missing, thin


def _moved_on(mesh: Mesh, shift: Points, walls: _Walls, wall: float, held: Mask) -> tuple[Mesh, _Walls, Mask]:
    """The mesh after what can be taken of a movement (n, 3), its walls, and which vertices (n,) cannot move on.

    What got thinner by it, in a fold, is taken back and stays.
    """
    back = np.zeros(len(held), bool)
    for _ in range(_UNDONE):
        share, stays = free_share(mesh, shift, _SOFT * wall, held | back)
        made = Mesh(mesh.vertices + share[:, None] * shift, mesh.faces)
        now = _Walls(made, walls.near, walls.upto)
        worse = (now.walls < np.minimum(walls.walls, wall) - _WORSE * wall) & ~stays
        if not worse.any():
            break
        back |= worse
    return made, now, held | (stays & ~back)


def _shift(mesh: Mesh, missing: Floats, fade: float, thin: Mask) -> Points:
    """How vertices move, (n, 3): outward, or with what is around carried along, whichever makes fewer faces cross."""
    reached = cKDTree(mesh.vertices[missing > 0]).query(mesh.vertices, distance_upper_bound=fade)[0] <= fade
    for _ in range(_RINGS):
        reached[mesh.faces[reached[mesh.faces].any(axis=1)]] = True
    faces = reached[mesh.faces].all(axis=1)
    piece, vertices = submesh(mesh, faces)
    shift, aside = np.zeros_like(mesh.vertices), np.zeros_like(mesh.vertices)
    shift[vertices] = outward_displacement(piece, missing[vertices], fade)
    if crossed := len(NewCrossings(mesh, shift).after(shift)):
        aside[vertices] = carried_displacement(piece, missing[vertices], fade, thin[faces])
        if len(NewCrossings(mesh, aside).after(aside)) < crossed:
            return aside
    return shift


def _moved(before: Mesh, after: Mesh) -> tuple[int, float]:
    """How many vertices are not where one was, and how far the farthest of them is from the surface that was, mm."""
    if after is before:
        return 0, 0.0
    new = after.vertices[cKDTree(before.vertices).query(after.vertices)[0] > 0]
    return len(new), float(distance_to(before, new).max(initial=0.0))
