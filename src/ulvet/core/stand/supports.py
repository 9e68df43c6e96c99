"""Holding a figure: contacts at islands and under overhangs, columns to the plate, and a look at the layers again."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulvet.core.bench.setup import Setup
from ulvet.core.bench.support_limits import SupportLimits
from ulvet.core.geometry.face_orientation import orient_faces
from ulvet.core.geometry.mesh import Floats, Mesh, Points, concatenated, translated
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.topology import without_collapsed_faces
from ulvet.core.layers.island_limits import ISLAND_LEAST_AREA, island_dilation
from ulvet.core.layers.islands import Island, find_islands
from ulvet.core.layers.raster import LayerStack, raster_layers
from ulvet.core.lengths import PrintMM
from ulvet.core.progress import Progress, no_progress
from ulvet.core.recipe.stance import Contact
from ulvet.core.stand.clearance_grid import ClearanceGrid, clearance_grid_of
from ulvet.core.stand.columns import Column, supports_mesh
from ulvet.core.stand.contacts import find_tips, loads_of, spread_contacts, strongest_load, tip_for
from ulvet.core.stand.orientation import lies_flat
from ulvet.core.stand.screening import SHOWN
from ulvet.core.stand.struts import pin_below, strut_below
from ulvet.core.stand.undersides import Undersides, skin_above, undersides_of

__all__ = ["SupportedFigure", "support_figure"]

_ROUNDS = 6
"""Looks at the layers again, each holding what still begins in the air."""
_STRONGER_ROUNDS = 4
"""Times that contacts are added where one would tear."""
_SAME = 0.4  # mm: two contacts nearer than this are one
_NEAR = 0.8  # mm: an island no farther than this from a contact was to be held by it
_FOOT = 1.3  # mm by which a foot is wider than its column all round
_SLIM = 0.6  # of the usual column, where that has no way down
Bools = NDArray[np.bool_]


@dataclass(frozen=True)
class SupportedFigure:
    """A figure with its supports, print mm, on the plate at z = 0."""

    lift: PrintMM
    contacts: tuple[Contact, ...]
    supports: Mesh | None
    islands_before: int
    unheld: tuple[Island, ...]
    support_ml: float
    """Resin or filament the supports add, outside the figure."""


@dataclass(frozen=True)
class _Hold:
    point: Points
    head: Points | None
    """Where tip and column meet; None for a strut."""
    room: ClearanceGrid | None
    strut: Column | None = None
    shows: bool = False


def support_figure(
    figure: Mesh,
    setup: Setup,
    show: Points | None = None,
    lift: float | None = None,
    spacing: float | None = None,
    progress: Progress = no_progress,
) -> SupportedFigure:
    """Hold a turned figure, in print mm with its lowest point at z = 0.

    Every island is held first, also on the show side ``show`` (3,); undersides are held elsewhere only. ``lift`` mm,
    rounded to whole layers; None stands what lies flat on the plate and hangs the rest. ``spacing`` mm replaces the
    process's own.

    After each round the layers of figure and supports are looked at again, and what still begins in the air is held
    too, until nothing does or no way is left. ``progress`` hears how far it is.

    Raises TooManyLayers.
    """
    holding = setup.supports
    if spacing is not None:
        holding = holding.model_copy(update={"spacing": PrintMM(spacing)})
    progress(0.0, "layers of the figure")
    stack = raster_layers(figure, setup.layer, setup.pixel)
    progress(0.2, "where it must be held")
    if lift is None:
        lift = 0.0 if lies_flat(figure) else holding.lift
    lift = PrintMM(round(lift / setup.layer) * setup.layer)
    work = _Work(translated(figure, np.array([0.0, 0, lift])), stack, setup, holding, show, lift)
    islands = find_islands(stack, island_dilation(setup), ISLAND_LEAST_AREA)
    if lift > 0:
        # Lifted off the plate, the lowest layer begins in the air like any island.
        work.hold_places(_first_layer(stack) + np.array([0, 0, lift]))
    work.hold_islands(islands, lift)
    work.hold_undersides()
    unheld: list[Island] = islands
    contacts: list[Contact] = []
    supports: Mesh | None = None
    whole = stack
    for number in range(_ROUNDS):
        progress(0.6 + 0.4 * number / _ROUNDS, f"columns and the layers again, round {number + 1}")
        contacts, columns = work.columns()
        supports = supports_mesh(columns, holding.raft, with_bars=lift > 0)
        if supports is None:
            break
        whole = raster_layers(concatenated(work.figure, supports), setup.layer, setup.pixel)
        unheld = find_islands(whole, island_dilation(setup), ISLAND_LEAST_AREA)
        if not unheld or not work.hold_left(unheld):
            break
    added = float(whole.areas.sum() - stack.areas.sum()) * setup.layer / 1000
    return SupportedFigure(lift, tuple(contacts), supports, len(islands), tuple(unheld), max(added, 0.0))


class _Work:
    """What is known while contacts are gathered."""

    def __init__(
        self, figure: Mesh, stack: LayerStack, setup: Setup, holding: SupportLimits, show: Points | None, lift: PrintMM
    ) -> None:
        self.figure = figure
        self.holds: list[_Hold] = []
        self._stack, self._setup, self._holding, self._lift = stack, setup, holding, lift
        # A face that looks the wrong way would hide undersides.
        seen = orient_faces(without_collapsed_faces(figure))[0]
        self._rays = Rays(seen)
        self._room = clearance_grid_of(stack, lift, 0.6 * holding.column + holding.clearance)
        self._slim: ClearanceGrid | None = None
        # What the plate holds needs no more than a few layers to be past it.
        plate = 0.0 if lift > 0 else 3 * setup.layer
        self._under: Undersides = undersides_of(seen, self._rays, holding, plate)
        self._tips = find_tips(self._under.points, self._under.normals, self._rays, self._room, holding)
        self._show = show
        self._able = self._tips.found & ~self._shows(self._under.normals)

    def hold_islands(self, islands: list[Island], lift: float) -> None:
        """Hold where islands begin, ``lift`` mm above the layers they were found in."""
        self.hold_places(self._places(islands, lift))

    def hold_left(self, islands: list[Island]) -> bool:
        """Hold what begins in the air although it was held: another way, at last with a pin; whether any was added."""
        before = len(self.holds)
        for place in self._places(islands, 0.0):
            away = np.linalg.norm(self._held() - place, axis=1)
            held = len(self.holds)
            if not (away < _NEAR).any():
                self.hold_places(place[None])
            if len(self.holds) == held and not (away < 1e-9).any():
                pin = pin_below(place, self._rays, self._holding, self._setup.layer)
                self.holds.append(_Hold(place, None, None, pin))
        return len(self.holds) > before

    def _places(self, islands: list[Island], lift: float) -> Points:
        layer = self._setup.layer
        return np.array([[i.x, i.y, lift + (i.layer + 0.5) * layer] for i in islands]).reshape(-1, 3)

    def hold_places(self, places: Points) -> None:
        """Hold the skin at some places (n, 3), from the plate or, where no way leads down, from the figure."""
        holding = self._holding
        points, normals = skin_above(self._rays, places, 3 * self._setup.layer + 2 * self._setup.pixel)
        tips = find_tips(points, normals, self._rays, self._room, holding)
        shown = self._shows(normals)
        for point, normal, head, found, shows in zip(points, normals, tips.heads, tips.found, shown, strict=True):
            if any(np.linalg.norm(hold.point - point) < _SAME for hold in self.holds):
                continue
            if found:
                self.holds.append(_Hold(point, head, self._room, shows=bool(shows)))
                continue
            slim = self._slim_room()
            tip = find_tips(point[None], normal[None], self._rays, slim, holding)
            if tip.found[0]:
                self.holds.append(_Hold(point, tip.heads[0], slim, shows=bool(shows)))
            elif strut := strut_below(point, normal, self._rays, holding):
                self.holds.append(_Hold(point, None, None, strut, bool(shows)))

    def hold_undersides(self) -> None:
        """Hold undersides, then more about every contact that would tear."""
        points, holding = self._under.points, self._holding
        self._take(spread_contacts(points, self._able & self._under.wanting, self._held(), holding.spacing, self._lift))
        spacing = float(holding.spacing)
        for _ in range(_STRONGER_ROUNDS):
            loads, _ = self._loads()
            torn = self._held()[loads > strongest_load(holding) * (1 + 1e-9)]
            if not len(torn):
                break
            near = cKDTree(torn).query(points)[0] <= 1.5 * holding.spacing if len(points) else np.empty(0, bool)
            spacing /= 2**0.5
            self._take(spread_contacts(points, self._able & near, self._held(), spacing / 1.4, self._lift))

    def columns(self) -> tuple[list[Contact], list[Column]]:
        """Every contact with its load and tip, and its column."""
        loads, tips = self._loads()
        contacts, columns = [], []
        for hold, load, tip in zip(self.holds, loads, tips, strict=True):
            column = hold.strut or self._column(hold, float(tip))
            columns.append(column)
            x, y, z = map(float, hold.point)
            contacts.append(
                Contact(
                    point=(x, y, z),
                    tip_mm=PrintMM(tip),
                    load_N=float(load),
                    on_figure=hold.strut is not None and hold.strut.axis[-1, 2] > 0,
                    shows=hold.shows,
                )
            )
        return contacts, columns

    def _take(self, chosen: list[int]) -> None:
        self.holds += [_Hold(self._under.points[k], self._tips.heads[k], self._room) for k in chosen]

    def _shows(self, normals: Points) -> Bools:
        return np.zeros(len(normals), bool) if self._show is None else normals @ self._show > SHOWN

    def _held(self) -> Points:
        return np.array([hold.point for hold in self.holds]).reshape(-1, 3)

    def _loads(self) -> tuple[Floats, Floats]:
        held = self._held()
        if not len(held):
            return np.empty(0), np.empty(0)
        spacing = self._holding.spacing
        wanting = self._under.points[self._under.wanting]
        distance, nearest = cKDTree(held).query(wanting) if len(wanting) else (np.empty(0), np.empty(0, np.int64))
        counts = np.bincount(nearest[distance <= 2 * spacing], minlength=len(held))
        shares = np.maximum(counts * self._under.cell, spacing**2 / 4)
        areas = self._stack.areas
        plate = float(areas[0]) if self._lift <= 0 and len(areas) else 0.0
        layer = self._setup.layer
        loads = loads_of(held[:, 2] - self._lift, shares, areas, layer, plate, self._holding.pull)
        return loads, tip_for(loads, self._holding)

    def _column(self, hold: _Hold, tip: float) -> Column:
        assert hold.head is not None and hold.room is not None
        holding = self._holding
        way = hold.head - hold.point
        way = way / np.linalg.norm(way)
        inside = hold.point - way * max(tip / 3, 1.5 * self._setup.layer)
        stub = not np.isfinite(hold.room.cost_at(hold.head[None])[0])
        down = np.array([hold.head, hold.head * [1, 1, 0]]) if stub else hold.room.way_down(hold.head)
        length = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(down, axis=0), axis=1))])
        air = _least_air(hold.room, down)
        slim = hold.room is self._slim
        head = max(holding.column / 2 * (_SLIM if slim else 1), 0.8 * tip)
        foot = max(head, min(length[-1] / holding.slender / 2, air - holding.clearance / 2))
        radii = head + (foot - head) * length / max(length[-1], 1e-9)
        beside = float(hold.room.air_at(down[-1:] + np.array([0, 0, hold.room.pitch / 2]))[0])
        wide = foot + float(np.clip(beside - foot - holding.clearance, 0.1, _FOOT))
        return Column(
            np.concatenate([[inside, hold.point], down]),
            np.concatenate([[0.4 * tip, 0.5 * tip], radii]),
            wide,
        )

    def _slim_room(self) -> ClearanceGrid:
        if self._slim is None:
            need = 0.5 * _SLIM * self._holding.column + 0.4 * self._holding.clearance
            self._slim = clearance_grid_of(self._stack, self._lift, need)
        return self._slim


def _first_layer(stack: LayerStack) -> Points:
    """The middle of the longest run of pixels in the lowest layer that has any, (n, 3): one place, or none."""
    used = np.flatnonzero(np.diff(stack.starts))
    if not len(used):
        return np.empty((0, 3))
    runs = slice(int(stack.starts[used[0]]), int(stack.starts[used[0] + 1]))
    row, begin, end = stack.row[runs], stack.begin[runs], stack.end[runs]
    longest = int((end - begin).argmax())
    x = stack.origin[0] + (begin[longest] + end[longest]) / 2 * stack.pixel
    y = stack.origin[1] + (row[longest] + 0.5) * stack.pixel
    return np.array([[x, y, (used[0] + 0.5) * stack.layer]])


def _least_air(room: ClearanceGrid, down: Points) -> float:
    """Least distance to the figure along a way (p, 3), looked at every half cell."""
    least = np.inf
    for a, b in pairwise(down):
        steps = max(int(np.linalg.norm(b - a) / room.pitch * 2), 2)
        least = min(least, float(room.air_at(a + (b - a) * np.linspace(0, 1, steps, endpoint=False)[:, None]).min()))
    return least
