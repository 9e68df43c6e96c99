"""What breaks of a simulated print when supports come off: push times lever against the section modulus of slices."""

from collections import Counter
from collections.abc import Iterator

import numpy as np
from scipy import ndimage

from ulvet.core.geometry.mesh import Floats
from ulvet.standins.growth import Event, Flags, Growth, Labels, pairs_of
from ulvet.standins.truths import Truths

__all__ = ["broken_limbs"]

_LEAST_LIMB = 1.0
"""Mm³ under which a limb is no limb (stand-in)."""
_SAME_LIMB = 6.0
"""Mm within which breaks are one break (stand-in)."""


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


def broken_limbs(left: Flags, growth: Growth, truths: Truths) -> list[Event]:
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
            for k, other in pairs_of(label[met], before[met]):
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
