"""A plate as a sheet of paper: its parts in true size with their names and heights, and the card of its setting."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ulvet.core.geometry.mesh import Floats
from ulvet.core.paper.drawing import Drawing, Line, Outline, Words
from ulvet.core.plates.outline import outline_on_plate
from ulvet.core.plates.packing import Lying

__all__ = ["SheetPart", "plate_sheet"]

_LETTER_MM, _ROW_MM, _FOOT_MM = 3.2, 5.0, 8.0
"""Height of letters, of a row of the card, and room between plate and card, mm."""


@dataclass(frozen=True)
class SheetPart:
    """A part on the plate: its name, height in mm, outlines about its middle, and where it lies."""

    name: str
    tall: float
    outlines: Sequence[Floats]
    lying: Lying


def plate_sheet(
    title: str, parts: Sequence[SheetPart], wide: float, deep: float, card: Sequence[tuple[str, str]]
) -> Drawing:
    """The sheet of a plate of ``wide`` x ``deep`` mm; its front is at the foot."""
    rows = [f"{number}  {part.name}, {part.tall:.0f} mm" for number, part in enumerate(parts, 1)]
    rows += ["", *(f"{name}: {value}" for name, value in card)]
    foot = _FOOT_MM + _ROW_MM * len(rows)
    up = np.array([0.0, foot])
    shapes: list[Outline | Line | Words] = [Words((0.0, foot + deep + 3.0), title, _LETTER_MM * 1.3, "start")]
    edge = np.array([[0, 0], [wide, 0], [wide, deep], [0, deep], [0, 0]], float) + up
    shapes.append(Outline((edge,), fill=None))
    for number, part in enumerate(parts, 1):
        rings = tuple(outline_on_plate(np.asarray(ring), part.lying) + up for ring in part.outlines)
        shapes.append(Outline(rings))
        shapes.append(Words((part.lying.x, part.lying.y + foot), str(number), _LETTER_MM))
    shapes += [
        Words((0.0, foot - _FOOT_MM - _ROW_MM * k), row, _LETTER_MM, "start") for k, row in enumerate(rows) if row
    ]
    return Drawing(wide, foot + deep + _FOOT_MM, title, tuple(shapes))
