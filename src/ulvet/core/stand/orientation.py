"""Choosing how a figure stands: screening many ways, then looking at the layers of the best."""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from scipy.spatial import ConvexHull, QhullError

from ulvet.core.bench.printers import Printer
from ulvet.core.bench.setup import Setup
from ulvet.core.bench.support_limits import SupportLimits
from ulvet.core.geometry.mesh import Floats, Mesh, Points
from ulvet.core.kernels import THREADS
from ulvet.core.layers.estimate import estimate_print
from ulvet.core.layers.island_limits import ISLAND_LEAST_AREA, island_dilation
from ulvet.core.layers.islands import find_islands
from ulvet.core.layers.raster import raster_layers
from ulvet.core.progress import Progress, no_progress
from ulvet.core.recipe.stance import turn_to
from ulvet.core.stand.screening import Screened, directions_for, screen_directions

__all__ = [
    "EXACT",
    "Orienting",
    "WeighedStance",
    "corners_of",
    "fits_some_way",
    "fitting_spin",
    "lies_flat",
    "orient_figure",
]

EXACT = 20
"""Ways whose layers are looked at."""
# What a way costs, in minutes of hands (bench defaults).
_MACHINE = 0.08  # of a minute of the printer's time
_CONTACT = 0.25  # to cut and clean one contact
_SHOWN = 3.0  # to make one good again where it shows
_COLUMN_MM = 0.004  # for every mm of column, which may shake or fail
_ISLAND = 1.0
"""Minutes of hands that an island costs (bench default)."""
_NEWTON = 1.0  # for every newton the largest layer is torn with
_LOOSE = 20.0  # for what hardly touches the plate, in filament
_STUCK_SHARE = 0.2  # of the largest layer that must lie on the plate to be sure
_SIDE_ROOM = 4.0  # mm kept free beside the figure for columns and feet
_FLAT_SHARE = 0.35  # of the footprint that must lie on the plate for the figure to stand there
_FLAT_NEAR = 0.05  # mm
_SCREENING = 0.3  # of the time
_COARSER = 2  # than the printer's pixel: ways are told apart as well; the one chosen is looked at in full


@dataclass(frozen=True)
class WeighedStance:
    """One way to stand and what it costs, in minutes of hands; ``islands`` once its layers were looked at."""

    up: tuple[float, float, float]
    spin: float
    fits: bool
    minutes: float
    islands: int | None = None


@dataclass(frozen=True)
class Orienting:
    """The ways that were weighed exactly, the best first, and how many were screened."""

    best: tuple[WeighedStance, ...]
    screened: int


def orient_figure(mesh: Mesh, setup: Setup, show: Points | None, progress: Progress = no_progress) -> Orienting:
    """Weigh the ways a mesh in print mm could stand. ``show`` (3,) is the side that must stay clean, if any.

    ``progress`` hears how far it is.

    Raises TooManyLayers when the layers of one of the best ways cannot be looked at.
    """
    holding = setup.supports
    # Faces beside each other in memory are fetched once: files often have them in any order.
    mesh = Mesh(mesh.vertices, mesh.faces[np.argsort(mesh.faces.min(axis=1), kind="stable")])
    progress(0.0, "looking at every way")
    found = screen_directions(mesh, directions_for(mesh), holding.flattest, show, _FLAT_NEAR)
    minutes = _screened_minutes(found, setup, holding)
    corners = corners_of(mesh)
    chosen: list[WeighedStance] = []
    spare: list[WeighedStance] = []
    for k in np.argsort(minutes, kind="stable"):
        up = found.directions[k]
        spin = fitting_spin(corners, up, setup.printer, 0.0 if found.flat[k] else holding.lift)
        said = WeighedStance(_vector(up), spin or 0.0, spin is not None, float(minutes[k]))
        (chosen if said.fits else spare).append(said)
        if len(chosen) == EXACT:
            break
    ways = (chosen or spare)[:EXACT]
    # Finding islands keeps one core busy: meanwhile the next way's layers are made.
    with ThreadPoolExecutor(THREADS) as pool:
        weighed = []
        for way in pool.map(lambda way: _exact(mesh, way, setup, holding, found), ways):
            weighed.append(way)
            share = _SCREENING + (1 - _SCREENING) * len(weighed) / len(ways)
            progress(share, f"layers of way {len(weighed)} of {len(ways)}")
    best = sorted(weighed, key=lambda way: way.minutes)
    return Orienting(tuple(best), len(found.directions))


def lies_flat(mesh: Mesh) -> bool:
    """Whether so much of a turned mesh lies level at its lowest that it can stand on the plate without a lift.

    At least a third of its footprint's hull, within 0.05 mm of the lowest point.
    """
    found = screen_directions(mesh, np.array([[0.0, 0.0, 1.0]]), 40.0, None, _FLAT_NEAR)
    try:
        footprint = ConvexHull(mesh.vertices[:, :2]).volume
    except QhullError:
        return False
    return bool(found.flat[0] >= _FLAT_SHARE * footprint)


def fitting_spin(corners: Points, up: Points, printer: Printer, lift: float) -> float | None:
    """The least turn about the upright, in radians, at which the box about ``corners`` (n, 3) fits the printer with
    room for supports beside it; None when there is none. Tried every five degrees."""
    turned = corners @ turn_to(up).T
    wide, deep, tall = printer.room
    if np.ptp(turned[:, 2]) + lift > tall:
        return None
    for degrees in range(0, 180, 5):
        spin = np.radians(degrees)
        across = turned[:, 0] * np.cos(spin) - turned[:, 1] * np.sin(spin)
        along = turned[:, 0] * np.sin(spin) + turned[:, 1] * np.cos(spin)
        if np.ptp(across) + 2 * _SIDE_ROOM <= wide and np.ptp(along) + 2 * _SIDE_ROOM <= deep:
            return float(spin)
    return None


def fits_some_way(mesh: Mesh, setup: Setup) -> bool:
    """Whether a mesh in print mm fits the printer in one of the ways that are screened, with room for supports."""
    corners, lift = corners_of(mesh), setup.supports.lift
    return any(fitting_spin(corners, up, setup.printer, lift) is not None for up in directions_for(mesh))


def _screened_minutes(found: Screened, setup: Setup, holding: SupportLimits) -> Floats:
    cell = holding.spacing**2
    lift = np.where(found.flat > 0, 0.0, holding.lift)
    seconds = (found.height + lift) / setup.layer * setup.setting.times.seconds_per_layer
    contacts = found.overhang / cell + found.minima
    columns = found.support / cell + contacts * lift
    return np.asarray(
        seconds / 60 * _MACHINE
        + contacts * _CONTACT
        + columns * _COLUMN_MM
        + found.shown / cell * _SHOWN
        + found.minima * _ISLAND
        + _risk(found.peak, found.flat, setup, holding)
    )


def _risk(peak: Floats | float, flat: Floats | float, setup: Setup, holding: SupportLimits) -> Floats:
    """What a failure costs times its chance: in resin by the pull on the largest layer, in filament by how little
    lies on the plate for the size of the print."""
    if setup.process == "resin":
        return np.asarray(peak * holding.pull * _NEWTON)
    return np.asarray(_LOOSE * (1 - np.minimum(flat / np.maximum(_STUCK_SHARE * np.asarray(peak), 1e-9), 1)))


def _exact(mesh: Mesh, way: WeighedStance, setup: Setup, holding: SupportLimits, found: Screened) -> WeighedStance:
    up = np.array(way.up)
    k = int((found.directions @ up).argmax())
    turned = Mesh(mesh.vertices @ turn_to(up).T, mesh.faces)
    stack = raster_layers(turned, setup.layer, _COARSER * setup.pixel)
    islands = len(find_islands(stack, _COARSER * island_dilation(setup), ISLAND_LEAST_AREA))
    estimate = estimate_print(stack, setup)
    cell = holding.spacing**2
    lift = 0.0 if found.flat[k] else holding.lift
    contacts = found.overhang[k] / cell + islands
    seconds = estimate.seconds + lift / setup.layer * setup.setting.times.seconds_per_layer
    minutes = (
        seconds / 60 * _MACHINE
        + contacts * _CONTACT
        + (found.support[k] / cell + contacts * lift) * _COLUMN_MM
        + found.shown[k] / cell * _SHOWN
        + islands * _ISLAND
        + float(_risk(estimate.peak_area_mm2, found.flat[k], setup, holding))
    )
    return WeighedStance(way.up, way.spin, way.fits, float(minutes), islands)


def corners_of(mesh: Mesh) -> Points:
    """The points that decide every box about a mesh, (c, 3)."""
    try:
        return np.asarray(mesh.vertices[ConvexHull(mesh.vertices).vertices])
    except QhullError:  # flat, or fewer than four points
        return mesh.vertices


def _vector(up: Points) -> tuple[float, float, float]:
    x, y, z = map(float, up)
    return x, y, z
