"""A few really different ways to stand a figure, each with what it gives and what it costs."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

from ulvet.core.bench.setup import Setup
from ulvet.core.geometry.face_orientation import orient_faces
from ulvet.core.geometry.mesh import Mesh, Points, face_cross
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.topology import without_collapsed_faces
from ulvet.core.layers.cups import find_cups
from ulvet.core.layers.estimate import estimate_print
from ulvet.core.layers.forces import jumps_of
from ulvet.core.layers.island_limits import ISLAND_LEAST_AREA, island_dilation
from ulvet.core.layers.islands import find_islands
from ulvet.core.layers.raster import LayerStack, raster_layers
from ulvet.core.lengths import PrintMM
from ulvet.core.progress import Progress, no_progress, progress_within
from ulvet.core.recipe.stance import Contact, Stance, Vector, side_named
from ulvet.core.stand.clearance_grid import clearance_grid_of
from ulvet.core.stand.contacts import spread_contacts
from ulvet.core.stand.orientation import WeighedStance, corners_of, fitting_spin, lies_flat, orient_figure
from ulvet.core.stand.reach import CUTTERS, reached
from ulvet.core.stand.screening import SHOWN
from ulvet.core.stand.undersides import skin_above, undersides_of

__all__ = ["Way", "cleanup_of", "name_of_way", "ways_to_stand"]

_MOST_WAYS = 6
"""Ways that are set beside each other."""
_APART = np.cos(np.radians(30.0))
"""Cosine of the angle by which two ways differ at least (bench default)."""
_LEAN = 35.0
"""Degrees of the way that leans where none of the best does (bench default)."""
_COARSER = 2
"""Pixels of the printer to one of the layers that ways are told apart by."""
_STEP_SHOWS = 0.25
"""Mm that a layer runs on beyond the one above it from which on its step is seen (bench default)."""
_LEVEL = 0.9995
"""Cosine from which a face lies level and has no steps, 1.8°."""
_A_CONTACT = 0.25
"""Minutes to cut and sand one contact (bench default)."""
_A_SHOWN = 3.0
"""Minutes more to make one good that shows (bench default)."""
_A_TRAPPED = 5.0
"""Minutes more for one that cutters do not reach (bench default)."""
_THICK = 1.4
"""Times its head that a column is thick on average, of feet and taper (bench default)."""


class Way(BaseModel):
    """One way to stand, with estimates from where contacts would be; nothing is held yet."""

    model_config = ConfigDict(frozen=True)

    name: str
    up: Vector
    spin: float
    """Radians."""
    fits: bool
    lean_deg: float
    on_plate: bool
    """Whether it stands on the plate itself; else it is raised on supports."""
    contacts: int
    on_show: int
    """Contacts on the side that shows."""
    trapped: int
    """Contacts that no cutters reach."""
    islands: int
    support_ml: float
    cups: int
    cup_mm2: float
    """Largest mouth that sucks."""
    peak_mm2: float
    """Largest layer."""
    jump_mm2: float
    """What one layer adds at most to the one before, where that is much."""
    height_mm: PrintMM
    seconds: float
    steps_mm2: float
    """Skin on which steps of layers are seen, on the side that shows where one was said."""
    cleanup_min: float


@dataclass(frozen=True)
class _Found:
    up: Points
    spin: float
    fits: bool


def ways_to_stand(
    mesh: Mesh, setup: Setup, show: Points | None, also: Sequence[Vector] = (), progress: Progress = no_progress
) -> tuple[Way, ...]:
    """Up to six ways a mesh in print mm could stand, at least 30° from each other.

    Among them are how it stands now (``also``), straight up and on end where these fit, the best of all by the weighing
    of ``orient_figure``, the best that leans, and then the next best. ``show`` (3,) is the side that shows, if any.

    Raises TooManyLayers.
    """
    weighed = orient_figure(mesh, setup, show, progress_within(progress, 0.0, 0.5, "ways"))
    chosen = _different(_offered(mesh, setup, weighed.best, also, show))
    ways = []
    for number, one in enumerate(chosen):
        progress(0.5 + 0.5 * number / len(chosen), f"what way {number + 1} of {len(chosen)} costs")
        ways.append(_told(mesh, setup, show, one))
    return tuple(ways)


def _minutes_of_cleanup(contacts: int, shown: int, trapped: int) -> float:
    """Minutes of hands to cut and sand contacts, of them some that show and some that cutters do not reach."""
    return contacts * _A_CONTACT + shown * _A_SHOWN + trapped * _A_TRAPPED


def cleanup_of(contacts: Sequence[Contact]) -> float:
    """Minutes of hands to cut and sand contacts that are there."""
    shown, trapped = sum(one.shows for one in contacts), sum(not one.reachable for one in contacts)
    return _minutes_of_cleanup(len(contacts), shown, trapped)


def name_of_way(up: Vector) -> str:
    """What a way to stand is called, by the side of the figure that is turned to the plate.

    >>> name_of_way((0.0, 0.0, 1.0)), name_of_way((0.0, -0.6, 0.8)), name_of_way((0.0, -1.0, 0.0))
    ('Upright', 'Leaned 37° onto its back', 'Lying on its back')
    """
    lean = float(np.degrees(np.arccos(np.clip(up[2], -1, 1))))
    if lean < 1:
        return "Upright"
    if lean > 179:
        return "Head down"
    x, y = (-1.0, 0.0) if up[0] > 0 else (1.0, 0.0)
    if abs(up[1]) >= abs(up[0]):
        x, y = (0.0, -1.0) if up[1] > 0 else (0.0, 1.0)
    side = side_named((x, y, 0.0))
    side = f"{side} side" if side in ("left", "right") else side
    if 80 <= lean <= 100:
        return f"Lying on its {side}"
    return f"Leaned {lean:.0f}° onto its {side}" if lean < 90 else f"Head down, {180 - lean:.0f}° onto its {side}"


def _offered(
    mesh: Mesh, setup: Setup, best: Sequence[WeighedStance], also: Sequence[Vector], show: Points | None
) -> list[_Found]:
    """Ways in the order in which they are asked for; one that does not fit comes last."""
    corners, lift = corners_of(mesh), setup.supports.lift

    def asked(up: Points) -> _Found:
        spin = fitting_spin(corners, up, setup.printer, lift)
        return _Found(up, spin or 0.0, spin is not None)

    longest = np.linalg.eigh(np.cov((corners - corners.mean(axis=0)).T))[1][:, -1]
    on_end = longest if longest[2] >= 0 else -longest
    sought = [_Found(np.array(one.up), one.spin, one.fits) for one in best]
    leaned = next((one for one in sought if 0.5 <= one.up[2] <= 0.95), None) or asked(_leaned(show))
    wanted = [*(asked(np.array(up)) for up in also), *sought[:1], asked(np.array([0.0, 0, 1])), leaned, asked(on_end)]
    return sorted([*wanted, *sought[1:]], key=lambda one: not one.fits)


def _leaned(show: Points | None) -> Points:
    """Leaned so that the side that shows, or the front, turns away from the plate."""
    side = np.array([0.0, -1, 0]) if show is None or np.linalg.norm(show[:2]) < 1e-6 else show * [1, 1, 0]
    lean = np.radians(_LEAN)
    return np.asarray(side / np.linalg.norm(side) * np.sin(lean) + [0, 0, np.cos(lean)])


def _different(ways: Sequence[_Found]) -> list[_Found]:
    kept: list[_Found] = []
    for one in ways:
        if len(kept) < _MOST_WAYS and all(one.up @ other.up < _APART for other in kept):
            kept.append(one)
    return kept


def _told(mesh: Mesh, setup: Setup, show: Points | None, one: _Found) -> Way:
    x, y, z = map(float, one.up)
    stance = Stance(up=(x, y, z), spin=one.spin)
    turned = stance.in_print(mesh, 1.0)
    holding = setup.supports
    lift = 0.0 if lies_flat(turned) else float(holding.lift)
    stack = raster_layers(turned, setup.layer, _COARSER * setup.pixel)
    seen = None if show is None else np.asarray(stance.turn @ show)
    islands = find_islands(stack, _COARSER * island_dilation(setup), ISLAND_LEAST_AREA)
    places = np.array([[i.x, i.y, (i.layer + 0.5) * stack.layer] for i in islands]).reshape(-1, 3)
    points, normals = _contacts(turned, setup, seen, places, lift)
    room = clearance_grid_of(stack, lift, 0.6 * holding.column + holding.clearance)
    raised = points + np.array([0.0, 0, lift])
    comes = reached(room, raised - [0, 0, holding.tip_length / 2], CUTTERS)
    on_show = np.zeros(len(points), bool) if seen is None else normals @ seen > SHOWN
    cups = find_cups(stack) if setup.process == "resin" else []
    estimate = estimate_print(stack, setup)
    jumps = jumps_of(stack)
    more = lift / setup.layer * setup.setting.times.seconds_per_layer
    shown, trapped = int(on_show.sum()), int((~comes).sum())
    return Way(
        name=name_of_way((x, y, z)),
        up=(x, y, z),
        spin=one.spin,
        fits=one.fits,
        lean_deg=stance.lean,
        on_plate=lift <= 0,
        contacts=len(points),
        on_show=shown,
        trapped=trapped,
        islands=len(islands),
        support_ml=float(raised[:, 2].sum() * np.pi / 4 * (_THICK * holding.column) ** 2 / 1000),
        cups=len(cups),
        cup_mm2=max((cup.mouth for cup in cups), default=0.0),
        peak_mm2=estimate.peak_area_mm2,
        jump_mm2=jumps[0].by if jumps else 0.0,
        height_mm=PrintMM(stack.count * stack.layer + lift),
        seconds=estimate.seconds + more,
        steps_mm2=_stepped(turned, seen, stack),
        cleanup_min=_minutes_of_cleanup(len(points), shown, trapped),
    )


def _contacts(turned: Mesh, setup: Setup, seen: Points | None, islands: Points, lift: float) -> tuple[Points, Points]:
    """Where contacts would be, (n, 3), and the skin's normals there: islands first, then undersides that do not
    show."""
    holding = setup.supports
    skin = orient_faces(without_collapsed_faces(turned))[0]
    rays = Rays(skin)
    under = undersides_of(skin, rays, holding, 0.0 if lift > 0 else 3 * setup.layer)
    held, looks = skin_above(rays, islands, 3 * setup.layer + 2 * setup.pixel)
    able: NDArray[np.bool_] = under.wanting if seen is None else under.wanting & (under.normals @ seen <= SHOWN)
    chosen = spread_contacts(under.points, able, held, holding.spacing, 0.0)
    return np.concatenate([held, under.points[chosen]]), np.concatenate([looks, under.normals[chosen]])


def _stepped(turned: Mesh, seen: Points | None, stack: LayerStack) -> float:
    """Skin (mm²) whose layers run on by more than a quarter of a mm beyond the one above, where it shows."""
    halves = face_cross(turned) / 2
    area = np.linalg.norm(halves, axis=1)
    flat = np.abs(halves[:, 2]) / np.maximum(area, 1e-300)
    run = stack.layer * flat / np.sqrt(np.maximum(1 - flat**2, 1e-12))
    stepped = (run > _STEP_SHOWS) & (flat < _LEVEL)
    if seen is not None:
        stepped &= halves @ seen > SHOWN * area
    return float(area[stepped].sum())
