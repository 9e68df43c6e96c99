"""What is measured of Hollow: a shell with its wall, openings, cups."""

import numpy as np

from benchmarks.measured import clock
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.formats.read import read_mesh
from ulvet.core.geometry.rays import Rays
from ulvet.core.hollow.hollow_mesh import hollow_mesh, walls_between
from ulvet.core.hollow.opening_proposals import propose_openings
from ulvet.core.hollow.spaces import spaces_of
from ulvet.core.layers.cups import find_cups
from ulvet.core.layers.islands import find_islands
from ulvet.core.layers.raster import raster_layers
from ulvet.core.recipe.stance import AS_IT_STANDS

__all__ = ["WALL", "cups_ours", "hollow_ours", "openings_ours"]

WALL = 1.5  # mm, so that the pitch is 0.15


def hollow_ours(path: str) -> float:
    """Hollowed, and its wall measured at 20,000 points; the middle one, as a share of the wall."""
    mesh = read_mesh(path)
    with clock():
        made = hollow_mesh(mesh, WALL, 1.5)
        walls = walls_between(made.skin, made.spaces)
    if made.pitch > WALL / 10 * 1.001 or walls.min() < 0.9 * WALL:
        raise ValueError("the wall is not what was asked for")
    return round(float(np.median(walls)) / WALL, 4)


def openings_ours(path: str) -> int:
    """Openings proposed at both ends of every space, the spaces found as well."""
    made = hollow_mesh(read_mesh(path), WALL, 1.5)
    with clock():
        spaces = spaces_of(made.mesh)
        lacking = dict.fromkeys(range(len(spaces)), (True, False))
        found = list(propose_openings(Rays(made.mesh), made.mesh, spaces, (), lacking, AS_IT_STANDS, None))
    return len(found)


def cups_ours(path: str) -> int:
    """Layers, their areas, islands and cups."""
    mesh, setup = read_mesh(path), DEFAULT_BENCH.setup()
    with clock():
        stack = raster_layers(mesh, setup.layer, setup.pixel)
        return len(find_islands(stack, setup.pixel, 0.02)) + len(find_cups(stack)) + int(stack.areas.sum() < 0)
