"""The space inside a solid that leaves a wall of one thickness, as a surface drawn on a grid of distances."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import edt
import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import label
from skimage.measure import marching_cubes

from ulvet.core.geometry.mesh import Floats, Mesh, Points, bounds
from ulvet.core.geometry.solids import drawn_body, mesh_of
from ulvet.core.geometry.voxels import ASKEW
from ulvet.core.hollow.depths import depths_inside
from ulvet.core.kernels import THREADS
from ulvet.core.progress import Progress, no_progress

__all__ = ["CannotHollow", "HollowRegion", "Hollowed", "hollow_out", "pitch_for"]

_FINE, _COARSE = 10, 5
"""Steps of the grid in a wall: where memory is enough, and at the least."""
_MOST_NODES = 60_000_000
"""Nodes of the grid, for memory: about twenty bytes each."""
_BAND = 3.0
"""Steps about the surface in which the distance counts: a cell that it passes has no corner farther off than 1.8."""
_UNEVEN = 0.9
"""By which the band is narrower on one side (see ``_drawn``)."""
_ON = np.float32(1e-3)
"""Steps from the surface to a node that would lie on it, so that no triangle has none of its height."""
_CORNERS_BACK = 1.75
"""Radii of the narrowest inside by which what it passes through is let out again: the corner of a box lies 1.73 from
the middle of a ball that touches its three sides."""
_LEAST_SHARE = 0.1
"""A space of less than this share of the largest stays solid: it would want openings of its own (bench default)."""
_FLATTER = 0.004
"""Share of the wall by which triangles may be merged off the drawn surface (bench default)."""


class CannotHollow(Exception):
    """What cannot be hollowed; the message says why and what to do."""


@dataclass(frozen=True)
class HollowRegion:
    """A ball in which the inside is another: its middle (3,) and radius, and the wall there; None stays solid."""

    middle: Points
    radius: float
    wall: float | None


@dataclass(frozen=True)
class Hollowed:
    """The spaces (closed surfaces that look outward) and the pitch they were drawn at, mm."""

    spaces: tuple[Mesh, ...]
    pitch: float


def pitch_for(mesh: Mesh, wall: float) -> float:
    """The pitch of the grid, mm: a tenth of the wall, or as much coarser as memory asks.

    Raises CannotHollow where a fifth of the wall is still too fine.
    """
    size = np.ptp(bounds(mesh), axis=0)
    fine = wall / _FINE
    nodes = float(np.prod(size / fine + 3))
    pitch = fine * max(1.0, (nodes / _MOST_NODES) ** (1 / 3))
    if pitch > wall / _COARSE:
        raise CannotHollow(
            f"A wall of {wall:.1f} mm is too fine for a part {size.max():.0f} mm long: "
            f"give {pitch * _COARSE:.1f} mm or more"
        )
    return float(pitch)


def hollow_out(
    skin: Mesh,
    wall: float,
    narrowest: float,
    regions: Sequence[HollowRegion] = (),
    progress: Progress = no_progress,
) -> Hollowed:
    """The spaces inside a closed ``skin`` that leave ``wall`` mm everywhere, and are nowhere narrower than
    ``narrowest`` mm.

    The space is where a ball of the narrowest diameter can go that keeps ``wall`` from the skin, let out again into
    corners. Distances are those to samples of the skin, so that a voxel that a triangle passes is as good as outside
    and the wall does not depend on the grid. No space at all where the skin is nowhere thick enough.

    Raises CannotHollow.
    """
    pitch = pitch_for(skin, wall)
    low, high = bounds(skin)
    origin = low - (2 - ASKEW) * pitch
    shape = np.ceil((high - origin) / pitch).astype(np.int64) + 3
    thickest = max([wall, *(region.wall for region in regions if region.wall)])
    depth = depths_inside(skin, pitch, origin, shape, thickest + narrowest / 2)
    walls = _walls_at(shape, pitch, origin, wall, regions)
    depth -= walls
    for region in regions:
        if region.wall is None:
            box, away = _about(region, shape, pitch, origin)
            depth[box] = np.minimum(depth[box], away - region.radius)
    progress(0.5, "where it is wide enough")
    within = _where_a_ball_goes(depth, narrowest / 2, pitch)
    if within is None:
        return Hollowed((), pitch)
    field = np.negative(depth, out=depth)
    np.maximum(field, within, out=field)
    progress(0.8, "its surface")
    return _drawn(field, pitch, origin, wall)


def _walls_at(
    shape: NDArray[np.int64], pitch: float, origin: Points, wall: float, regions: Sequence[HollowRegion]
) -> Floats | np.float32:
    """The wall wanted at every node, mm; one number where it is the same everywhere.

    Into a thicker region it grows by one mm for each mm from its rim, so that the inside has no step.
    """
    thicker = [region for region in regions if region.wall is not None]
    if not thicker:
        return np.float32(wall)
    walls = np.full(tuple(shape), np.float32(wall))
    for region in thicker:
        box, away = _about(region, shape, pitch, origin)
        asked = np.minimum(region.wall or wall, wall + np.maximum(region.radius - away, 0))
        walls[box] = np.maximum(walls[box], asked)
    return walls


def _about(
    region: HollowRegion, shape: NDArray[np.int64], pitch: float, origin: Points
) -> tuple[tuple[slice, ...], Floats]:
    """The nodes about a region, as slices, and how far they are from its middle, mm."""
    reach = region.radius + 2 * pitch
    first = np.clip(np.floor((region.middle - reach - origin) / pitch).astype(np.int64), 0, shape)
    last = np.clip(np.ceil((region.middle + reach - origin) / pitch).astype(np.int64) + 1, 0, shape)
    x, y, z = (np.arange(a, b) * pitch + o for a, b, o in zip(first, last, origin - region.middle, strict=True))
    away = np.sqrt(x[:, None, None] ** 2 + y[None, :, None] ** 2 + z[None, None, :] ** 2)
    return tuple(slice(a, b) for a, b in zip(first, last, strict=True)), away


def _where_a_ball_goes(clear: NDArray[Any], radius: float, pitch: float) -> NDArray[Any] | None:
    """How far nodes are outside of what a ball of ``radius`` mm passes through, let out into corners; None where it
    goes nowhere. ``clear`` is how far each node may be from an empty one, mm."""
    middles = clear >= radius
    _drop_small(middles)
    if not middles.any():
        return None
    away: NDArray[Any] = edt.edt(~middles, black_border=False, parallel=THREADS)
    away *= np.float32(pitch)
    away -= np.float32(_CORNERS_BACK * radius)
    return away


def _drop_small(middles: NDArray[np.bool_]) -> None:
    """Take small spaces out."""
    groups, count = label(middles, np.ones((3, 3, 3), bool))
    if count < 2:
        return
    sizes = np.bincount(groups.ravel())
    sizes[0] = 0
    kept = sizes >= _LEAST_SHARE * sizes.max()
    kept[0] = False
    middles &= kept[groups]


def _drawn(field: NDArray[Any], pitch: float, origin: Points, wall: float) -> Hollowed:
    """The surface round what is below zero."""
    if not (field < 0).any():
        return Hollowed((), pitch)
    # Where a face of a cell is cut both ways, which one is told by products of its corners: they must not be equal.
    field /= np.float32(pitch)
    np.clip(field, -_BAND, _BAND * _UNEVEN, out=field)
    field[np.abs(field) < _ON] = _ON
    vertices, faces, _, _ = marching_cubes(field, 0.0)
    body = drawn_body(Mesh(vertices.astype(np.float64) * pitch + origin, faces.astype(np.int32)), _FLATTER * wall)
    return Hollowed(tuple(mesh_of(piece)[0] for piece in body.decompose()), pitch)
