"""Packing shadows on plates."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.fft import irfft2, rfft2

from ulvet.core.geometry.mesh import Floats
from ulvet.core.plates.shadow import CELL, Shadow

__all__ = ["TURNS", "Lying", "Room", "pack", "place_on"]

TURNS = tuple(range(0, 360, 30))
"""Degrees about the upright in which a part is tried (bench default)."""
_MOST_PLATES = 200
"""Plates that one packing makes."""
_NONE = 0.5
"""Cells that meet: less is none, and rounding."""
Cells = NDArray[np.bool_]
Waves = NDArray[np.complexfloating[Any, Any]]


@dataclass(frozen=True)
class Room:
    """What of a plate may be used: its sides less what is kept clear along its edges, mm; how tall; how far parts keep
    from each other; and how many may lie on it at most, where that is limited."""

    wide: float
    deep: float
    tall: float
    margin: float
    most: int | None = None


@dataclass(frozen=True)
class Lying:
    """A part on a plate: its number, where its middle lies from the left front corner of the room, mm, and how far it
    is turned, degrees."""

    number: int
    x: float
    y: float
    turn: float


class _Plate:
    """What lies on a plate, and which of its cells (rows, columns) are taken."""

    def __init__(self, room: Room) -> None:
        self.taken = np.zeros(_cells_of(room), bool)
        self.lying: list[Lying] = []
        self._waves: Waves | None = None

    def take(self, cells: Cells, row: int, column: int) -> None:
        """Take cells whose first lies at a row and column, as far as they are on the plate."""
        deep, wide = self.taken.shape
        rows = slice(max(row, 0), min(row + cells.shape[0], deep))
        columns = slice(max(column, 0), min(column + cells.shape[1], wide))
        own = cells[rows.start - row : rows.stop - row, columns.start - column : columns.stop - column]
        self.taken[rows, columns] |= own
        self._waves = None

    def free_for(self, cells: Cells, waves: Waves) -> Cells:
        """Rows and columns at which cells, whose transform is ``waves``, meet nothing that is taken."""
        deep, wide = self.taken.shape[0] - cells.shape[0] + 1, self.taken.shape[1] - cells.shape[1] + 1
        if deep <= 0 or wide <= 0:
            return np.zeros((0, 0), bool)
        if self._waves is None:
            self._waves = rfft2(self.taken.astype(np.float32))
        # Within these rows and columns nothing runs round the edge.
        meets = irfft2(self._waves * np.conj(waves), s=self.taken.shape)[:deep, :wide]
        return np.asarray(meets < _NONE)


def pack(
    shadows: Sequence[Shadow], room: Room, fixed: Sequence[Sequence[Lying]] = ()
) -> tuple[list[list[Lying]], list[int]]:
    """Lay shadows on as few plates as are found; gives the plates, and the numbers of those that fit none.

    The tallest come first, so that alike heights lie together; each goes on the first plate that has room, where it
    reaches least far from the corner. ``fixed`` says what already lies where: it stays, and its plates come first.
    """
    cells = _Turned(shadows, room)
    plates = []
    held = set()
    for lying in fixed:
        plate = _Plate(room)
        for one in lying:
            cells.mark(plate, one)
            held.add(one.number)
        plates.append(plate)
    left = [k for k in range(len(shadows)) if k not in held]
    order = sorted(left, key=lambda k: (-round(shadows[k].tall), -int(shadows[k].solid.sum()), k))
    unfit = [k for k in order if shadows[k].tall > room.tall or not cells.lay(k, plates)]
    return [plate.lying for plate in plates if plate.lying], sorted(unfit)


def place_on(shadows: Sequence[Shadow], room: Room, lying: Sequence[Lying], number: int) -> Lying | None:
    """Where one more shadow finds room beside what lies on a plate; None where it does not."""
    cells = _Turned(shadows, room)
    plate = _Plate(room)
    for one in lying:
        cells.mark(plate, one)
    return cells.best(number, plate)


def _cells_of(room: Room) -> tuple[int, int]:
    return int(room.deep / CELL + 1e-9), int(room.wide / CELL + 1e-9)


class _Turned:
    """Shadows by number and turn, as cells and their transforms, made when they are asked for, once for all copies."""

    def __init__(self, shadows: Sequence[Shadow], room: Room) -> None:
        self._shadows, self._room = shadows, room
        self._cells: dict[tuple[int, float], tuple[Cells, Floats, Waves]] = {}

    def of(self, number: int, turn: float) -> tuple[Cells, Floats, Waves]:
        """Cells with half the margin about them, so that two keep the whole of it from each other; where the middle
        lies in them, mm; and their transform on the plate."""
        shadow = self._shadows[number]
        key = (id(shadow), turn)
        if key not in self._cells:
            cells, middle = shadow.turned(turn, self._room.margin / 2)
            deep, wide = _cells_of(self._room)
            whole = np.zeros((deep, wide), np.float32)
            if cells.shape[0] <= deep and cells.shape[1] <= wide:
                whole[: cells.shape[0], : cells.shape[1]] = cells
            self._cells[key] = cells, middle, rfft2(whole)
        return self._cells[key]

    def mark(self, plate: _Plate, one: Lying) -> None:
        """Take the cells that a part lies on."""
        cells, middle, _ = self.of(one.number, one.turn)
        at = (np.array([one.x, one.y]) - middle) / CELL
        first = np.floor(at + 1e-6).astype(int)
        # Off the grid by less than a cell, it reaches into one more.
        more = (at - first > 1e-6).astype(int)
        for down in range(more[1] + 1):
            for along in range(more[0] + 1):
                plate.take(cells, int(first[1]) + down, int(first[0]) + along)
        plate.lying.append(one)

    def lay(self, number: int, plates: list[_Plate]) -> bool:
        """Lay a part on the first plate with room, at last on a new one; whether it fits any."""
        for plate in plates:
            if (self._room.most is None or len(plate.lying) < self._room.most) and (found := self.best(number, plate)):
                self.mark(plate, found)
                return True
        fresh = _Plate(self._room)
        found = self.best(number, fresh) if len(plates) < _MOST_PLATES else None
        if found is None:
            return False
        self.mark(fresh, found)
        plates.append(fresh)
        return True

    def best(self, number: int, plate: _Plate) -> Lying | None:
        """Where a part reaches least far back, then least far right, over all its turns."""
        found: tuple[int, int, Lying] | None = None
        for turn in TURNS:
            cells, middle, waves = self.of(number, turn)
            if int(cells.sum()) + int(plate.taken.sum()) > plate.taken.size:
                continue
            rows, columns = np.nonzero(plate.free_for(cells, waves))
            if not len(rows):
                continue
            # They come row by row, so the first reaches least far back.
            row, column = int(rows[0]), int(columns[0])
            reach = (row + cells.shape[0], column + cells.shape[1])
            if found is None or reach < found[:2]:
                x, y = np.array([column, row]) * CELL + middle
                found = (*reach, Lying(number, float(x), float(y), float(turn)))
        return found[2] if found else None
