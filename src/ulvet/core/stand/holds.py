"""What is held, where, and how: contacts gathered one after another, by rule and by hand."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulvet.core.bench.setup import Setup
from ulvet.core.bench.support_limits import SupportLimits
from ulvet.core.geometry.face_orientation import orient_faces
from ulvet.core.geometry.mesh import Floats, Mesh, Points
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.topology import without_collapsed_faces
from ulvet.core.layers.islands import Island
from ulvet.core.layers.raster import LayerStack
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.stance import Contact
from ulvet.core.stand.by_hand import THICKER, PlacedAct, Skin
from ulvet.core.stand.clearance_grid import ClearanceGrid, clearance_grid_of
from ulvet.core.stand.columns import Column
from ulvet.core.stand.contacts import find_tips, loads_of, spread_contacts, strongest_load, tip_for
from ulvet.core.stand.reach import CUTTERS, reached
from ulvet.core.stand.screening import SHOWN
from ulvet.core.stand.struts import pin_below, strut_below
from ulvet.core.stand.undersides import Undersides, skin_above, undersides_of

__all__ = ["Holds"]

_STRONGER_ROUNDS = 4
"""Times that contacts are added where one would tear."""
_SAME = 0.4  # mm: two contacts nearer than this are one
_NEAR = 0.8  # mm: an island no farther than this from a contact was to be held by it
_ASKED = 0.6
"""Times the usual spacing of contacts where more were asked for (bench default)."""
_FOOT = 1.3  # mm by which a foot is wider than its column all round
_SLIM = 0.6  # of the usual column, where that has no way down
Bools = NDArray[np.bool_]


@dataclass(frozen=True)
class _Hold:
    point: Points
    normal: Points
    head: Points | None
    """Where tip and column meet; None for a strut."""
    room: ClearanceGrid | None
    strut: Column | None = None
    shows: bool = False
    wide: float = 1.0
    """Times as wide as its load wants that its tip was made by hand."""
    by_hand: bool = False


class Holds:
    """What is known while contacts are gathered."""

    def __init__(
        self,
        figure: Mesh,
        stack: LayerStack,
        setup: Setup,
        holding: SupportLimits,
        show: Points | None,
        lift: PrintMM,
        acts: Sequence[PlacedAct] = (),
    ) -> None:
        self.figure = figure
        self.holds: list[_Hold] = []
        self.undone: set[int] = set()
        """Acts by their numbers that found no contact, or no way for one."""
        self._acts = acts
        self._bare = [(act.at.point, act.radius) for act in acts if act.does == "forbid"]
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
        self._able = self._tips.found & ~self._shows(self._under.normals) & ~self._is_bare(self._under.points)

    def hold_islands(self, islands: list[Island], lift: float) -> None:
        """Hold where islands begin, ``lift`` mm above the layers they were found in."""
        self.hold_places(self._places(islands, lift))

    def hold_left(self, islands: list[Island]) -> bool:
        """Hold what begins in the air although it was held: another way, at last with a pin; whether any was added."""
        before = len(self.holds)
        places = self._places(islands, 0.0)
        for place in places[~self._is_bare(places)]:
            away = np.linalg.norm(self._held() - place, axis=1)
            held = len(self.holds)
            if not (away < _NEAR).any():
                self.hold_places(place[None])
            if len(self.holds) == held and not (away < 1e-9).any():
                pin = pin_below(place, self._rays, self._holding, self._setup.layer)
                self.holds.append(_Hold(place, np.array([0.0, 0, -1]), None, None, pin))
        return len(self.holds) > before

    def _places(self, islands: list[Island], lift: float) -> Points:
        layer = self._setup.layer
        return np.array([[i.x, i.y, lift + (i.layer + 0.5) * layer] for i in islands]).reshape(-1, 3)

    def hold_places(self, places: Points) -> None:
        """Hold the skin at some places (n, 3), from the plate or, where no way leads down, from the figure."""
        holding = self._holding
        points, normals = skin_above(self._rays, places, 3 * self._setup.layer + 2 * self._setup.pixel)
        free = ~self._is_bare(points)
        points, normals = points[free], normals[free]
        tips = find_tips(points, normals, self._rays, self._room, holding)
        shown = self._shows(normals)
        for point, normal, head, found, shows in zip(points, normals, tips.heads, tips.found, shown, strict=True):
            if any(np.linalg.norm(hold.point - point) < _SAME for hold in self.holds):
                continue
            if found:
                self.holds.append(_Hold(point, normal, head, self._room, shows=bool(shows)))
            elif hold := self._hard_hold(point, normal, bool(shows)):
                self.holds.append(hold)

    def _hard_hold(self, point: Points, normal: Points, shows: bool) -> _Hold | None:
        """A slim column, or a strut from the figure below, where the usual column has no way down."""
        slim = self._slim_room()
        tip = find_tips(point[None], normal[None], self._rays, slim, self._holding)
        if tip.found[0]:
            return _Hold(point, normal, tip.heads[0], slim, shows=shows)
        strut = strut_below(point, normal, self._rays, self._holding)
        return _Hold(point, normal, None, None, strut, shows) if strut else None

    def apply_acts(self) -> None:
        """Do what was asked for by hand, in its order; what could not be done is in ``undone``."""
        for act in self._acts:
            if act.does != "forbid" and not self._done(act):
                self.undone.add(act.number)

    def _done(self, act: PlacedAct) -> bool:
        if act.does == "add":
            return self._add(act.at)
        if act.does == "ask":
            return self._ask(act)
        near = self._nearest(act)
        if near is None:
            return False
        hold = self.holds[near]
        if act.does in ("thicken", "thin"):
            wide = hold.wide * (THICKER if act.does == "thicken" else 1 / THICKER)
            self.holds[near] = replace(hold, wide=wide, by_hand=True)
            return True
        del self.holds[near]
        if act.does == "move" and (act.to is None or not self._add(act.to)):
            self.holds.insert(near, hold)
            return False
        self._bare.append((hold.point, _NEAR))
        return True

    def _add(self, skin: Skin) -> bool:
        """Hold the skin at a place that was picked, whichever way a support comes to it."""
        point, normal = skin.point, skin.normal
        tip = find_tips(point[None], normal[None], self._rays, self._room, self._holding)
        shows = bool(self._shows(normal[None])[0])
        found = (
            _Hold(point, normal, tip.heads[0], self._room) if tip.found[0] else self._hard_hold(point, normal, shows)
        )
        if found is not None:
            self.holds.append(replace(found, shows=shows, by_hand=True))
        return found is not None

    def _ask(self, act: PlacedAct) -> bool:
        """Hold all undersides about a place more closely, also where they show."""
        points = self._under.points
        able = self._tips.found & (np.linalg.norm(points - act.at.point, axis=1) <= act.radius)
        if not able.any():
            return False
        before = len(self.holds)
        self._take(spread_contacts(points, able, self._held(), _ASKED * self._holding.spacing, self._lift))
        self.holds[before:] = [replace(hold, by_hand=True) for hold in self.holds[before:]]
        return True

    def _nearest(self, act: PlacedAct) -> int | None:
        away = np.linalg.norm(self._held() - act.at.point, axis=1)
        near = int(away.argmin()) if len(away) else -1
        return near if near >= 0 and away[near] <= act.radius else None

    def _is_bare(self, points: Points) -> Bools:
        """Whether places (n, 3) were to be left without supports."""
        bare = np.zeros(len(points), bool)
        for at, radius in self._bare:
            bare |= np.linalg.norm(points - at, axis=1) <= radius
        return bare

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
        breaks = np.array([self._break(hold) for hold in self.holds]).reshape(-1, 3)
        reach = reached(self._room, breaks, CUTTERS)
        for hold, load, tip, comes in zip(self.holds, loads, tips, reach, strict=True):
            column = hold.strut or self._column(hold, float(tip))
            columns.append(column)
            x, y, z = map(float, hold.point)
            across, deep, up = map(float, hold.normal)
            contacts.append(
                Contact(
                    point=(x, y, z),
                    normal=(across, deep, up),
                    tip_mm=PrintMM(tip),
                    load_N=float(load),
                    on_figure=hold.strut is not None and hold.strut.axis[-1, 2] > 0,
                    shows=hold.shows,
                    by_hand=hold.by_hand,
                    reachable=bool(comes),
                )
            )
        return contacts, columns

    def _break(self, hold: _Hold) -> Points:
        """Where a support is cut: half-way down its tip."""
        if hold.head is not None:
            return (hold.point + hold.head) / 2
        assert hold.strut is not None
        down = hold.strut.axis[-1] - hold.strut.axis[0]
        length = float(np.linalg.norm(down))
        return hold.point + down / length * min(self._holding.tip_length, length) / 2

    def _take(self, chosen: list[int]) -> None:
        shown = self._shows(self._under.normals[chosen])
        self.holds += [
            _Hold(self._under.points[k], self._under.normals[k], self._tips.heads[k], self._room, shows=bool(shows))
            for k, shows in zip(chosen, shown, strict=True)
        ]

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
        return loads, tip_for(loads, self._holding) * [hold.wide for hold in self.holds]

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


def _least_air(room: ClearanceGrid, down: Points) -> float:
    """Least distance to the figure along a way (p, 3), looked at every half cell."""
    least = np.inf
    for a, b in pairwise(down):
        steps = max(int(np.linalg.norm(b - a) / room.pitch * 2), 2)
        least = min(least, float(room.air_at(a + (b - a) * np.linspace(0, 1, steps, endpoint=False)[:, None]).min()))
    return least
