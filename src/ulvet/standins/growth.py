"""A simulated print as it grows: pull against held area layer by layer, rooms that suck, and what is lost."""

from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict
from scipy import ndimage

from ulvet.core.geometry.mesh import Floats
from ulvet.core.layers.raster import LayerStack
from ulvet.standins.truths import Truths

__all__ = ["PITCH", "Event", "EventKind", "Flags", "Growth", "Labels", "pairs_of"]

Flags = NDArray[np.bool_]
Labels = NDArray[np.int32]
EventKind = Literal["island", "came-off-supports", "did-not-stick", "suction", "broke", "trapped", "layer-shift"]
PITCH = 0.1
"""Mm of a cell of a layer, of which a tip of 0.2 mm has four (stand-in)."""
_MOST_CELLS = 120e6
"""In which limbs are weighed, for memory; a larger plate is weighed in larger cells (stand-in)."""
_LEAST_LOST = 0.02
"""Mm² under which an island is lost unseen (stand-in)."""
_LEAST_TRAPPED = 20.0
"""Mm³ under which resin that stays in is not seen (stand-in)."""
_LEAST_CUP = 4.0
"""Mm² under which a cup is too small to suck (stand-in)."""
_NEAR_PLATE = 1.0
"""Mm over the plate within which what is lost was lost by the plate (stand-in)."""
_SAME = 2.0
"""Mm within which what is lost is told once (stand-in)."""
_COUNTED = 1_000_000
"""Pairs that are counted, and not sorted."""


class Event(BaseModel):
    """Something that happened: at which layer, where (print mm on the plate), and how much of it, mm³."""

    model_config = ConfigDict(frozen=True)

    kind: EventKind
    layer: int
    at: tuple[float, float, float]
    volume: float = 0.0
    after: bool = False
    """Whether it happened after the print, when supports came off."""


@dataclass
class Growth:
    """A print as it grows: what lives of the last layer, what each piece of it can bear, and rooms that are shut."""

    stack: LayerStack
    truths: Truths
    foot: float
    events: list[Event] = field(default_factory=list)

    def __post_init__(self) -> None:
        step = max(round(PITCH / self.stack.pixel), 1)
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
            pairs = pairs_of(label[met], before[met])
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
            pairs = pairs_of(void[~alive], self._void[~alive])
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


def pairs_of(above: Labels, below: Labels) -> Labels:
    """Which labels lie on which, (n, 2)."""
    wide = int(below.max(initial=0)) + 1
    keys = above.astype(np.int64) * wide + below
    many = int(above.max(initial=0) + 1) * wide
    met = np.flatnonzero(np.bincount(keys, minlength=1)) if many < _COUNTED else np.unique(keys)
    return np.stack([met // wide, met % wide], axis=1).astype(np.int32)
