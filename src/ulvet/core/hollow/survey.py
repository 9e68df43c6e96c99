"""What is measured of the spaces in a part: how large they are, what leads out, and what stays in them."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np
from pydantic import BaseModel, ConfigDict

from ulvet.core.geometry.mesh import Mesh, Points, scaled, volume
from ulvet.core.geometry.rays import Rays
from ulvet.core.hollow.flat_walls import flat_walls, widest_roof
from ulvet.core.hollow.opening_proposals import propose_openings
from ulvet.core.hollow.pool_outlets import outlet_for
from ulvet.core.hollow.retained_resin import Pool, pools_in, resin_cell
from ulvet.core.hollow.spaces import Mouth, Space, mouths_of, spaces_of
from ulvet.core.mend.diagnosis import Diagnosis
from ulvet.core.recipe.stance import Vector
from ulvet.core.recipe.step import Part

__all__ = ["FlatSeen", "PlannedOpening", "ResinLeft", "SpaceSeen", "cavities_of", "look_at_spaces", "resin_left"]

_END = 0.15
"""Share of a space's height within which a mouth is at its end (bench default)."""
_END_LEAST = 1.0
"""Mm of that at the least, besides the mouth's own radius (bench default)."""
_ON_PLATE = 0.5
"""Mm over the plate under which a mouth is shut by it (bench default)."""
_HELD = tuple(
    np.array(way) / np.linalg.norm(way) for way in product((-1, 0, 1), repeat=3) if np.count_nonzero(way) in (1, 3)
)
"""Ways to hold a part when it is emptied: along its axes, and over its corners."""
_MOST_FLATS = 20
"""Flat walls of a space that are told, the widest."""
_VENTED = 5
"""Pools for which a vent is sought, the largest."""
_ROUGH = 2.0
"""Cells with which ways to hold it are compared, of those that are told."""


class PlannedOpening(BaseModel):
    """An opening that could be cut: its place on the skin and its way out, figure mm, and its diameter, print mm."""

    model_config = ConfigDict(frozen=True)

    point: Vector
    way: Vector
    diameter: float


class FlatSeen(BaseModel):
    """A flat wall of a space: the width of the widest disc in it and its thickness, print mm, the place over its middle
    on the inside, and the way out, figure mm."""

    model_config = ConfigDict(frozen=True)

    width: float
    wall: float
    point: Vector
    way: Vector


class SpaceSeen(BaseModel):
    """A space of a part as it stands: ml of print, a place in its wall, figure mm, the numbers of the openings that
    lead out of it, which of them are at its plate end and at its film end, and which the plate shuts; with openings
    that are proposed where it is sealed."""

    model_config = ConfigDict(frozen=True)

    millilitres: float
    place: Vector
    openings: tuple[int, ...] = ()
    at_plate_end: tuple[int, ...] = ()
    at_film_end: tuple[int, ...] = ()
    shut_by_plate: tuple[int, ...] = ()
    proposed: tuple[PlannedOpening, ...] = ()
    flats: tuple[FlatSeen, ...] = ()
    roof: float = 0.0
    """Width of the widest disc that its roof spans as it stands, print mm."""

    @property
    def sealed(self) -> bool:
        """Whether nothing leads out of it."""
        return not self.openings


def look_at_spaces(part: Part, factor: float, show: Points | None) -> tuple[SpaceSeen, ...]:
    """The spaces of a part as it stands, the largest first; ``show`` (3,) is the direction of the side that is kept
    clean."""
    mesh = scaled(part.mesh, factor)
    mouths = mouths_of(part.openings, factor)
    spaces = spaces_of(mesh, mouths)
    if not spaces:
        return ()
    rays = Rays(mesh)
    seen = [_seen(part, mesh, space, mouths, factor, rays) for space in spaces]
    lacking = {
        number: tuple(end for end, there in ((True, one.at_plate_end), (False, one.at_film_end)) if not there)
        for number, one in enumerate(seen)
    }
    for one in propose_openings(rays, mesh, spaces, mouths, lacking, part.stance, show):
        mouth = one.drill.mouth
        planned = PlannedOpening(point=_triple(mouth.point / factor), way=_triple(mouth.way), diameter=mouth.diameter)
        known = seen[one.space]
        seen[one.space] = known.model_copy(update={"proposed": (*known.proposed, planned)})
    return tuple(seen)


def cavities_of(found: Diagnosis, factor: float) -> tuple[SpaceSeen, ...]:
    """The sealed spaces of a mesh that is not sound, the largest first: its shells that look inward within others."""
    seen = []
    for number in found.shells.voids:
        shell = Mesh(found.mesh.vertices, found.mesh.faces[found.shells.of == number])
        place = found.mesh.vertices[shell.faces[0, 0]]
        seen.append(SpaceSeen(millilitres=abs(volume(shell)) * factor**3 / 1000, place=_triple(place)))
    return tuple(sorted(seen, key=lambda one: -one.millilitres))


def _seen(part: Part, mesh: Mesh, space: Space, mouths: Sequence[Mouth], factor: float, rays: Rays) -> SpaceSeen:
    up = part.stance.turn[2]
    height = space.mesh.vertices @ up
    low, high = float(height.min()), float(height.max())
    on_plate = float((mesh.vertices @ up).min()) - float(part.stance.lift) + _ON_PLATE
    at_plate, at_film, shut = [], [], []
    for number in space.mouths:
        mouth = mouths[number]
        near = max(_END * (high - low), _END_LEAST) + mouth.diameter / 2
        if mouth.point @ up < on_plate:
            shut.append(number)
            continue
        inner = float(mouth.inner @ up)
        if inner < low + near:
            at_plate.append(number)
        if inner > high - near:
            at_film.append(number)
    lowest = space.mesh.vertices[int(height.argmin())]
    return SpaceSeen(
        millilitres=space.millilitres,
        place=_triple(lowest / factor),
        openings=space.mouths,
        at_plate_end=tuple(at_plate),
        at_film_end=tuple(at_film),
        shut_by_plate=tuple(shut),
        flats=tuple(
            FlatSeen(width=one.width, wall=one.wall, point=_triple(one.point / factor), way=_triple(one.way))
            for one in flat_walls(rays, space.mesh)[:_MOST_FLATS]
        ),
        roof=widest_roof(space.mesh, up),
    )


@dataclass(frozen=True)
class ResinLeft:
    """Resin that stays in a part: as it hangs when it is printed, and held the best way, ``best`` being the direction
    of the figure that points down then. Places in figure mm."""

    pools: tuple[Pool, ...]
    outlets: tuple[PlannedOpening, ...] = ()
    """Vents through which the largest would run out as they hang, where there is one."""
    best: Vector | None = None
    best_pools: tuple[Pool, ...] = ()

    @property
    def millilitres(self) -> float:
        """All that stays as it hangs."""
        return sum(pool.millilitres for pool in self.pools)


def resin_left(part: Part, factor: float) -> ResinLeft:
    """What stays in a part after printing in resin: it hangs with the side that is printed last down."""
    mesh = scaled(part.mesh, factor)
    mouths = mouths_of(part.openings, factor)
    cell = resin_cell(mesh)
    down = part.stance.turn[2]
    pools = pools_in(mesh, down, cell)
    if not pools:
        return ResinLeft(())
    rays = Rays(mesh)
    outlets = [outlet_for(rays, pool, down) for pool in pools[:_VENTED]]
    best, rest = _best_way(mesh, [-down, *(mouth.way for mouth in mouths), *_HELD], cell)
    return ResinLeft(
        tuple(_in_figure(pool, factor) for pool in pools),
        tuple(
            PlannedOpening(point=_triple(one.point / factor), way=_triple(one.way), diameter=one.diameter)
            for one in outlets
            if one
        ),
        _triple(best),
        tuple(_in_figure(pool, factor) for pool in rest),
    )


def _best_way(mesh: Mesh, ways: Sequence[Points], cell: float) -> tuple[Points, list[Pool]]:
    """Of some ways to hold a part the first that lets all out, or the one that keeps least, and what it keeps."""
    least, best = np.inf, ways[0]
    for way in ways:
        left = sum(pool.millilitres for pool in pools_in(mesh, way, _ROUGH * cell))
        if left < least:
            least, best = left, way
        if not left:
            break
    return best, pools_in(mesh, best, cell) if least else []


def _in_figure(pool: Pool, factor: float) -> Pool:
    return Pool(pool.millilitres, pool.point / factor)


def _triple(vector: Points) -> Vector:
    x, y, z = map(float, vector)
    return x, y, z
