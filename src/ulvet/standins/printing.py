"""A simulated printer's own account of a print: what holds, what is lost, what breaks when supports come off.

It shares the raster of layers with the checks and nothing else: what is lost is decided by pull against held area layer
by layer, over columns of pixels, and what breaks by push times lever against the section modulus of slices.
"""

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict
from scipy import ndimage

from ulvet.core.geometry.mesh import Floats, Mesh, bounds, concatenated
from ulvet.core.layers.raster import LayerStack, raster_layers
from ulvet.core.progress import Progress, no_progress

__all__ = ["Event", "EventKind", "Fit", "Outcome", "Truths", "caliper", "fit_of", "is_left", "print_of", "truths_of"]


Flags = NDArray[np.bool_]
Labels = NDArray[np.int32]
EventKind = Literal["island", "came-off-supports", "did-not-stick", "suction", "broke", "trapped", "layer-shift"]
Fit = Literal["none", "pressed", "slides", "turns"]
_PITCH = 0.1
"""Mm of a cell of a layer, of which a tip of 0.2 mm has four (stand-in)."""
_MOST_CELLS = 120e6
"""In which limbs are weighed, for memory; a larger plate is weighed in larger cells (stand-in)."""
_LEAST_LOST = 0.02
"""Mm² under which an island is lost unseen (stand-in)."""
_LEAST_TRAPPED = 20.0
"""Mm³ under which resin that stays in is not seen (stand-in)."""
_LEAST_LIMB = 1.0
"""Mm³ under which a limb is no limb (stand-in)."""
_LEAST_CUP = 4.0
"""Mm² under which a cup is too small to suck (stand-in)."""


class Truths(BaseModel):
    """What a printer really does, which nobody is told."""

    model_config = ConfigDict(frozen=True)

    shrink: tuple[float, float, float]
    growth: float
    """Of edges, mm a side."""
    seconds_factor: float
    material_factor: float
    plate: float
    """N/mm² at which what lies on the plate lets go."""
    green: float
    """N/mm² at which uncured material tears."""
    pull: float
    """N/mm² by which a layer is torn off the film."""
    suction: float
    """N/mm² under a cup."""
    bending: float
    """N/mm² at which a limb breaks."""
    push: float
    """N by which limbs are pushed when supports come off."""
    gap: float
    """By which a gap comes out narrower than drawn, mm a side."""
    reading: float
    """Standard deviation of a caliper's reading, mm."""
    shifts: float
    """Chance that layers shift in a print."""
    slides: float
    turns: float
    """Air, mm a side, at which a peg slides in its hole, and at which it turns freely; with less it is pressed in."""


def truths_of(seed: int) -> Truths:
    """The truths of the printer with this number."""
    dice = np.random.default_rng(seed)
    across, deep, up = (float(value) for value in dice.uniform(0.001, 0.009, 3))
    return Truths(
        shrink=(across, deep, up),
        growth=float(dice.uniform(0.0, 0.06)),
        seconds_factor=float(dice.uniform(0.95, 1.25)),
        material_factor=float(dice.uniform(1.0, 1.15)),
        plate=float(dice.uniform(0.05, 0.12)),
        green=float(dice.uniform(7.0, 12.0)),
        pull=float(dice.uniform(0.006, 0.011)),
        suction=float(dice.uniform(0.02, 0.04)),
        bending=float(dice.uniform(35.0, 60.0)),
        push=float(dice.uniform(0.25, 0.45)),
        gap=float(dice.uniform(0.0, 0.05)),
        reading=float(dice.uniform(0.01, 0.03)),
        shifts=float(dice.uniform(0.0, 0.02)),
        slides=float(dice.uniform(0.03, 0.06)),
        turns=float(dice.uniform(0.08, 0.14)),
    )


class Event(BaseModel):
    """Something that happened: at which layer, where (print mm on the plate), and how much of it, mm³."""

    model_config = ConfigDict(frozen=True)

    kind: EventKind
    layer: int
    at: tuple[float, float, float]
    volume: float = 0.0
    after: bool = False
    """Whether it happened after the print, when supports came off."""


@dataclass(frozen=True)
class Outcome:
    """What came out: events in their order, what is left as cells (up, deep, across) with ``sides`` in mm, from
    ``origin`` on, and how much material went."""

    events: tuple[Event, ...]
    layers: int
    left: Flags
    origin: tuple[float, float, float]
    sides: tuple[float, float, float]
    ml: float


def caliper(
    begin: tuple[float, float, float], end: tuple[float, float, float], over: str, truths: Truths, seed: int
) -> float:
    """What calipers would read between two places of a print, mm."""
    away = np.subtract(end, begin)
    real = away * (1 - np.array(truths.shrink))
    far = float(np.linalg.norm(real))
    level = 1 - (away[2] / np.linalg.norm(away)) ** 2 if far else 0.0
    grown = {"outside": 2.0, "inside": -2.0, "step": 0.0}[over] * truths.growth * level
    key = np.abs(np.round(np.concatenate([begin, end]) * 1000)).astype(np.int64).tolist()
    noise = np.random.default_rng([seed, *key]).normal(0, truths.reading)
    return round(max(far + grown + float(noise), 0.01), 3)


def fit_of(peg: float, hole: float, truths: Truths, seed: int) -> Fit:
    """How a peg goes into a hole, both by the widths they are drawn with, mm."""
    key = np.round([peg * 1000, hole * 1000]).astype(np.int64).tolist()
    noise = float(np.random.default_rng([seed, *key]).normal(0, truths.reading / 4))
    air = (hole - peg) / 2 - truths.gap + noise
    return "none" if air < 0 else "pressed" if air < truths.slides else "slides" if air < truths.turns else "turns"


def is_left(outcome: Outcome, at: tuple[float, float, float]) -> bool:
    """Whether something is left of a print at a place, mm on its plate."""
    up, deep, across = np.floor(np.subtract(at, outcome.origin)[::-1] / outcome.sides).astype(int)
    inside = all(0 <= k < n for k, n in zip((up, deep, across), outcome.left.shape, strict=True))
    return inside and bool(outcome.left[up, deep, across])


def print_of(
    parts: Mesh, supports: Mesh | None, layer: float, pixel: float, truths: Truths, seed: int,
    progress: Progress = no_progress,
) -> Outcome:  # fmt: skip
    """Print parts that stand on a plate, with their supports, both in mm on one plate.

    Raises TooManyLayers.
    """
    whole = parts if supports is None else concatenated(parts, supports)
    stack = raster_layers(whole, layer, pixel)
    progress(0.2, "layers drawn")
    growth = _Growth(stack, truths, float(bounds(whole)[0, 2]))
    for number, solid in enumerate(_cells(stack)):
        growth.add(number, solid)
        if number % 100 == 0:
            progress(0.2 + 0.6 * number / max(stack.count, 1), f"layer {number + 1} of {stack.count}")
    left, events = growth.left(), list(growth.events)
    if stack.count and np.random.default_rng(seed).random() < truths.shifts:
        at = int(np.random.default_rng(seed + 1).integers(stack.count))
        events.append(Event(kind="layer-shift", layer=at, at=growth.place(at, 0.0, 0.0)))
    progress(0.85, "supports come off")
    events.sort(key=lambda event: event.layer)
    bare = left if supports is None else left & _occupied(parts, growth)
    broken = _broken(bare, growth, truths)
    ml = float(stack.areas.sum() * layer) / 1000 * truths.material_factor
    return Outcome((*events, *broken), stack.count, bare, growth.corner, growth.voxel, ml)


def _cells(stack: LayerStack) -> Iterator[Flags]:
    """Layers as cells of about 0.1 mm: those whose middle is solid."""
    step = max(round(_PITCH / stack.pixel), 1)
    rows, columns = -(-stack.shape[0] // step), -(-stack.shape[1] // step)
    for k in range(stack.count):
        runs = slice(stack.starts[k], stack.starts[k + 1])
        row, begin, end = stack.row[runs], stack.begin[runs], stack.end[runs]
        met = row % step == step // 2
        edges = np.zeros((rows, columns + 1), np.int32)
        np.add.at(edges, (row[met] // step, (begin[met] + step - 1 - step // 2) // step), 1)
        np.add.at(edges, (row[met] // step, (end[met] + step - 1 - step // 2) // step), -1)
        yield np.cumsum(edges[:, :-1], axis=1) > 0


@dataclass
class _Growth:
    """A print as it grows: what lives of the last layer, what each piece of it can bear, and rooms that are shut."""

    stack: LayerStack
    truths: Truths
    foot: float
    events: list[Event] = field(default_factory=list)

    def __post_init__(self) -> None:
        step = max(round(_PITCH / self.stack.pixel), 1)
        self.cell = step * self.stack.pixel
        self._label: Labels | None = None
        self._bears = np.zeros(1)
        self._dead: Flags | None = None
        """What was lost of the last layer."""
        self._void: Labels | None = None
        self._open = np.zeros(1, bool)
        """Whether air gets to a room while it is printed."""
        self._leads_out = np.zeros(1, bool)
        """Whether a room leads out once the print is off its plate."""
        self._room = np.zeros(1)
        self.dims = tuple(-(-side // step) for side in self.stack.shape)
        self.rise = max(round(self.cell / self.stack.layer), 1)
        self.bundle = 1
        while self.stack.count / self.rise * self.dims[0] * self.dims[1] / self.bundle**3 > _MOST_CELLS:
            self.bundle += 1
        self.rise *= self.bundle
        self._kept: list[Flags] = []
        self._lost: set[tuple[str, int, int]] = set()

    @property
    def corner(self) -> tuple[float, float, float]:
        return (*self.stack.origin, self.foot)

    @property
    def voxel(self) -> tuple[float, float, float]:
        """Sides of a kept cell: up, deep, across, mm."""
        return self.rise * self.stack.layer, self.bundle * self.cell, self.bundle * self.cell

    def place(self, layer: int, row: float, column: float) -> tuple[float, float, float]:
        x, y = self.stack.origin
        return x + (column + 0.5) * self.cell, y + (row + 0.5) * self.cell, self.foot + (layer + 0.5) * self.stack.layer

    def add(self, number: int, solid: Flags) -> None:
        label, count = ndimage.label(solid)
        before = self._label
        area = np.asarray(np.bincount(label.ravel(), minlength=count + 1)[: count + 1] * self.cell**2, np.float64)
        load = area * self.truths.pull
        sucked = self._suction(number, solid, label, count)
        load += sucked
        bears = np.zeros(count + 1)
        why: dict[int, EventKind] = {}
        if before is None:
            bears[1:] = area[1:] * self.truths.plate
            why = dict.fromkeys(range(1, count + 1), "did-not-stick")
        else:
            met = solid & (before > 0)
            held = np.bincount(label[met], minlength=count + 1)[: count + 1] * self.cell**2
            pairs = _pairs(label[met], before[met])
            below = np.zeros(count + 1)
            np.add.at(below, pairs[:, 0], self._bears[pairs[:, 1]])
            bears = np.minimum(below, held * self.truths.green)
            for k in range(1, count + 1):
                if held[k] == 0:
                    why[k] = "island"
                elif sucked[k] > 0 and load[k] - sucked[k] <= bears[k]:
                    why[k] = "suction"
                elif number * self.stack.layer < _NEAR_PLATE and below[k] < held[k] * self.truths.green:
                    why[k] = "did-not-stick"
                else:
                    why[k] = "came-off-supports"
        lost = np.flatnonzero((bears < load) & (area > 0))
        lost = lost[lost > 0]
        gone = np.zeros(count + 1, bool)
        gone[lost] = True
        dead = gone[label]
        if len(lost):
            self._say(number, label, lost, area, why)
        alive = solid & ~dead
        label = np.where(alive, label, 0)
        self._dead = dead
        self._label, self._bears = label, bears
        self._keep(number, alive)
        self._shut(number, alive)

    def _say(self, number: int, label: Labels, lost: NDArray[np.int64], area: Floats,
             why: dict[int, EventKind]) -> None:  # fmt: skip
        """Name what is lost, once for each place: what goes on growing in the air over it is lost with it."""
        over = np.zeros(0, np.int32) if self._dead is None else np.unique(label[self._dead])
        lost = np.setdiff1d(lost, over)
        if not len(lost):
            return
        middles = ndimage.center_of_mass(label > 0, label, lost)
        for k, (row, column) in zip(lost, middles, strict=True):
            kind = why[int(k)]
            near = (kind, round(row * self.cell / _SAME), round(column * self.cell / _SAME))
            if near in self._lost or area[k] < _LEAST_LOST:
                continue
            self._lost |= {(kind, near[1] + i, near[2] + j) for i in (-1, 0, 1) for j in (-1, 0, 1)}
            self.events.append(Event(kind=kind, layer=number, at=self.place(number, row, column)))

    def _suction(self, number: int, solid: Flags, label: Labels, count: int) -> Floats:
        """Newtons by which rooms, open to the film only, hold on to the solid around them."""
        pull = np.zeros(count + 1)
        if self._void is None:
            return pull
        void, voids = ndimage.label(~solid)
        if voids < 2:
            return pull
        outside = self._outside(void)
        for k, place in enumerate(ndimage.find_objects(void), 1):
            if k in outside or place is None:
                continue
            here = void[place] == k
            size = float(here.sum()) * self.cell**2
            if size < _LEAST_CUP:
                continue
            beneath = np.unique(self._void[place][here])
            if len(beneath) and self._open[beneath].any():
                continue
            around = tuple(slice(max(one.start - 1, 0), one.stop + 1) for one in place)
            ring = ndimage.binary_dilation(void[around] == k)
            beside = np.unique(label[around][ring])
            beside = beside[beside > 0]
            if len(beside):
                pull[beside[0]] += size * self.truths.suction
        return pull

    def _shut(self, number: int, alive: Flags) -> None:
        """Follow rooms from layer to layer: which lead out, and what they hold."""
        void, voids = ndimage.label(~alive)
        outside = self._outside(void)
        is_open = np.zeros(voids + 1, bool)
        is_open[list(outside)] = True
        leads_out = is_open.copy() if self._void is not None else np.ones(voids + 1, bool)
        room = np.bincount(void.ravel(), minlength=voids + 1).astype(float) * self.cell**2 * self.stack.layer
        if self._void is not None:
            pairs = _pairs(void[~alive], self._void[~alive])
            pairs = pairs[(pairs[:, 1] > 0) & (pairs[:, 0] > 0)]
            np.logical_or.at(is_open, pairs[:, 0], self._open[pairs[:, 1]])
            np.logical_or.at(leads_out, pairs[:, 0], self._leads_out[pairs[:, 1]])
            shut = ~self._leads_out
            np.add.at(room, pairs[:, 0], np.where(shut[pairs[:, 1]], self._room[pairs[:, 1]], 0.0))
            # A room that goes on nowhere, and never led out, keeps what is in it.
            ended = np.setdiff1d(np.flatnonzero(shut), [0, *pairs[:, 1]])
            for k in ended:
                self._keeps(number, int(k))
        self._void, self._open, self._leads_out, self._room = void, is_open, leads_out, room

    def _keeps(self, number: int, k: int) -> None:
        if self._room[k] >= _LEAST_TRAPPED and self._void is not None:
            row, column = ndimage.center_of_mass(self._void == k)
            at = self.place(number, row, column)
            self.events.append(Event(kind="trapped", layer=number, at=at, volume=float(self._room[k])))

    @staticmethod
    def _outside(void: Labels) -> set[int]:
        rim = (void[0], void[-1], void[:, 0], void[:, -1])
        return {int(k) for side in rim for k in np.unique(side) if k > 0}

    def _keep(self, number: int, alive: Flags) -> None:
        """One slice of every few is kept, in larger cells, to weigh limbs in."""
        if number % self.rise == self.rise // 2:
            step = self.bundle
            self._kept.append(alive[step // 2 :: step, step // 2 :: step].copy())

    def left(self) -> Flags:
        return np.stack(self._kept) if self._kept else np.zeros((0, 1, 1), bool)


_NEAR_PLATE = 1.0
"""Mm over the plate within which what is lost was lost by the plate (stand-in)."""
_SAME = 2.0
"""Mm within which what is lost is told once (stand-in)."""


def _occupied(parts: Mesh, growth: _Growth) -> Flags:
    """Cells that the parts without their supports fill."""
    stack = raster_layers(parts, growth.stack.layer, growth.stack.pixel)
    up = round((float(bounds(parts)[0, 2]) - growth.foot) / stack.layer)
    down, aside = (round((stack.origin[k] - growth.stack.origin[k]) / growth.cell) for k in (1, 0))
    filled = np.zeros_like(growth.left())
    half, step, rise = growth.bundle // 2, growth.bundle, growth.rise
    whole = np.zeros(growth.dims, bool)
    for number, solid in enumerate(_cells(stack), up):
        if number % rise == rise // 2 and number // rise < len(filled):
            whole[:] = False
            rows, columns = (min(solid.shape[k], whole.shape[k] - (down, aside)[k]) for k in (0, 1))
            whole[down : down + rows, aside : aside + columns] = solid[:rows, :columns]
            filled[number // rise] = whole[half::step, half::step]
    return filled


def _pairs(above: Labels, below: Labels) -> Labels:
    """Which labels lie on which, (n, 2)."""
    wide = int(below.max(initial=0)) + 1
    keys = above.astype(np.int64) * wide + below
    many = int(above.max(initial=0) + 1) * wide
    met = np.flatnonzero(np.bincount(keys, minlength=1)) if many < _COUNTED else np.unique(keys)
    return np.stack([met // wide, met % wide], axis=1).astype(np.int32)


_COUNTED = 1_000_000
"""Pairs that are counted, and not sorted."""


class _Limbs:
    """What hangs together beyond a slice: how many cells, and how far it reaches."""

    def __init__(self) -> None:
        self._under: list[int] = []
        self.cells: list[int] = []
        self.end: list[int] = []

    def new(self, cells: int, end: int) -> int:
        self._under.append(len(self._under))
        self.cells.append(cells)
        self.end.append(end)
        return len(self._under) - 1

    def root(self, one: int) -> int:
        while self._under[one] != one:
            self._under[one] = one = self._under[self._under[one]]
        return one

    def join(self, one: int, other: int) -> int:
        one, other = self.root(one), self.root(other)
        if one != other:
            self._under[other] = one
            self.cells[one] += self.cells[other]
            self.end[one] = max(self.end[one], self.end[other])
        return one


def _broken(left: Flags, growth: _Growth, truths: Truths) -> list[Event]:
    """Limbs that a push at their ends breaks at their weakest slice, the surest to break first, each told once."""
    sides = growth.voxel
    found: list[tuple[float, float, Event, Floats]] = []
    whole = int(left.sum())
    for axis in range(3):
        for forward in (True, False):
            slices = np.moveaxis(left, axis, 0)
            slices = slices if forward else slices[::-1]
            across = [sides[k] for k in range(3) if k != axis]
            # A piece one cell thick has the least modulus of all with as many cells.
            least = truths.bending / truths.push * float(np.prod(across)) * min(across) / 6
            for at, mask, lever, cells in _single_roots(slices, whole, sides[axis], least):
                stress = truths.push * lever / _modulus(mask, across)
                if stress > truths.bending and cells * float(np.prod(sides)) >= _LEAST_LIMB:
                    middle = [float(value) for value in np.argwhere(mask).mean(axis=0)]
                    middle.insert(axis, at if forward else len(slices) - 1 - at)
                    z, y, x = (middle[k] * sides[k] for k in range(3))
                    point = np.array([x, y, z]) + growth.corner
                    event = Event(
                        kind="broke", layer=growth.stack.count, after=True, volume=cells * float(np.prod(sides)),
                        at=(float(point[0]), float(point[1]), float(point[2])),
                    )  # fmt: skip
                    found.append((stress, lever, event, point))
    told: list[tuple[float, Event, Floats]] = []
    for _, lever, event, point in sorted(found, key=lambda one: -one[0]):
        # What hangs on a slice that breaks is off already.
        if all(np.linalg.norm(point - other) > max(_SAME_LIMB, far) for far, _, other in told):
            told.append((lever, event, point))
    return [event for _, event, _ in told]


def _single_roots(slices: Flags, whole: int, side: float, least: float) -> Iterator[tuple[int, Flags, float, int]]:
    """For every piece of a slice that alone holds what lies beyond it: the slice's number, the piece, the lever in mm
    to the far end of what it holds, and how many cells that is. Slices are gone through from the last to the first; a
    lever under ``least`` mm for each cell of the piece breaks nothing."""
    before: Labels | None = None
    limbs, held = _Limbs(), np.zeros(1, np.int64)
    for at in range(len(slices) - 1, -1, -1):
        label, count = ndimage.label(slices[at])
        sizes = np.bincount(label.ravel(), minlength=count + 1)
        mine: list[set[int]] = [set() for _ in range(count + 1)]
        if before is not None and count:
            met = slices[at] & (before > 0)
            for k, other in _pairs(label[met], before[met]):
                mine[k].add(limbs.root(int(held[other])))
        # A limb that several pieces of this slice hold is joined by all of them.
        now = np.array([0, *(limbs.new(0, at) for _ in range(count))])
        for k in range(1, count + 1):
            for other in mine[k]:
                limbs.join(int(now[k]), other)
        roots = [limbs.root(int(one)) for one in now[1:]]
        many = Counter(roots)
        for k, root in enumerate(roots, 1):
            beyond, lever = limbs.cells[root], (limbs.end[root] - at) * side
            if beyond and 2 * beyond < whole and lever > least * sizes[k] and many[root] == 1:
                yield at, label == k, lever, beyond
        for k, root in enumerate(roots, 1):
            limbs.cells[root] += int(sizes[k])
        before, held = label, now


def _modulus(mask: Flags, sides: list[float]) -> float:
    """Section modulus about the weaker axis of a slice of cells, mm³."""
    places = np.argwhere(mask) * sides
    off = places - places.mean(axis=0)
    cell = float(np.prod(sides))
    tensor = off.T @ off * cell + np.diag([cell * sides[0] ** 2, cell * sides[1] ** 2]) / 12 * len(places)
    values, ways = np.linalg.eigh(tensor)
    reach = float(np.abs(off @ ways[:, 0]).max()) + min(sides) / 2
    return max(float(values[0]) / reach, 1e-9)


_SAME_LIMB = 6.0
"""Mm within which breaks are one break (stand-in)."""
