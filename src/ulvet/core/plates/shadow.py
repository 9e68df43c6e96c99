"""The shadow of a part as it stands, with supports and raft: what no other part on its plate may lie in."""

from dataclasses import dataclass
from functools import cached_property

import edt
import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Floats
from ulvet.core.layers.raster import LayerStack

__all__ = ["CELL", "Shadow", "shadow_of"]

CELL = 0.5
"""Side (mm) of the cells that shadows are packed by (bench default)."""
_FINER = 5
"""Samples along a cell's side by which a turned shadow is drawn: 0.1 mm."""
Cells = NDArray[np.bool_]


@dataclass(frozen=True)
class Shadow:
    """Where any layer of a part is solid, seen from above.

    ``solid`` (rows, columns) on a grid of ``pixel`` mm whose left front corner is ``origin`` (2,), print mm; ``tall``
    mm high.
    """

    solid: Cells
    pixel: float
    origin: Floats
    tall: float

    @cached_property
    def middle(self) -> Floats:
        """The middle of its box, about which it is turned, (2,) print mm."""
        rows, columns = np.nonzero(self.solid)
        low = np.array([columns.min(), rows.min()]) if len(rows) else np.zeros(2)
        high = np.array([columns.max() + 1, rows.max() + 1]) if len(rows) else np.ones(2)
        return np.asarray(self.origin + (low + high) / 2 * self.pixel)

    def turned(self, degrees: float, margin: float, cell: float = CELL) -> tuple[Cells, Floats]:
        """The cells that it, turned about its middle and grown by ``margin`` mm, reaches into, (rows, columns); and
        where its middle lies from their left front corner, (2,) mm.

        A cell counts as soon as any solid pixel reaches into it.
        """
        rows, columns = np.nonzero(self.solid)
        if not len(rows):
            return np.zeros((1, 1), bool), np.zeros(2)
        angle = np.deg2rad(degrees)
        turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
        centres = self.origin + (np.stack([columns, rows], axis=1) + 0.5) * self.pixel - self.middle
        points = centres @ turn.T
        # A pixel reaches half its diagonal from its middle, whichever way it is turned.
        reach = margin + self.pixel * np.sqrt(0.5)
        fine = cell / _FINER
        low = points.min(axis=0) - reach - fine
        size = np.ceil((points.max(axis=0) + reach + fine - low) / fine).astype(int) + 1
        far = np.ones((size[1], size[0]), np.uint8)
        at = ((points - low) / fine).astype(int)
        far[at[:, 1], at[:, 0]] = 0
        # What lies in one fine cell may be as far as its diagonal from where it is drawn.
        near = edt.edt(far, anisotropy=(fine, fine), black_border=False) <= reach + fine * np.sqrt(2)
        deep, wide = (-(-side // _FINER) for side in near.shape)
        held = np.zeros((deep * _FINER, wide * _FINER), bool)
        held[: near.shape[0], : near.shape[1]] = near
        cells: Cells = np.asarray(held.reshape(deep, _FINER, wide, _FINER).max(axis=(1, 3)))
        used_rows, used_columns = np.flatnonzero(cells.any(axis=1)), np.flatnonzero(cells.any(axis=0))
        first = np.array([used_columns[0], used_rows[0]])
        cells = cells[used_rows[0] : used_rows[-1] + 1, used_columns[0] : used_columns[-1] + 1]
        return cells, np.asarray(-low - first * cell)


def shadow_of(stack: LayerStack) -> Shadow:
    """The shadow of a part's layers, on pixels of about a fifth of a cell."""
    coarser = max(int(CELL / _FINER / stack.pixel), 1)
    deep, wide = (-(-side // coarser) for side in stack.shape)
    edges = np.zeros((deep, wide + 1), np.int32)
    row = stack.row // coarser
    np.add.at(edges, (row, stack.begin // coarser), 1)
    np.add.at(edges, (row, -(-stack.end // coarser)), -1)
    solid = np.cumsum(edges[:, :wide], axis=1) > 0
    return Shadow(solid, stack.pixel * coarser, np.array(stack.origin), stack.count * stack.layer)
