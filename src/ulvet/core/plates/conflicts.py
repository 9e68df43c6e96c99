"""What is wrong with parts where the hand placed them: they meet, or reach over an edge."""

from collections.abc import Sequence

import numpy as np
import shapely
from pydantic import BaseModel, ConfigDict

from ulvet.core.geometry.mesh import Floats
from ulvet.core.plates.outline import outline_on_plate
from ulvet.core.plates.packing import Lying

__all__ = ["Conflicts", "conflicts_of"]

_CLOSE_MM = 0.2
"""By which outlines may be off, as they are simplified to be drawn (bench default)."""


class Conflicts(BaseModel):
    """Pairs of parts, by number, that come nearer to each other than the margin, and parts that reach over an edge."""

    model_config = ConfigDict(frozen=True)

    meet: tuple[tuple[int, int], ...]
    off: tuple[int, ...]


def conflicts_of(
    outlines: Sequence[Sequence[Floats]], lying: Sequence[Lying], wide: float, deep: float, margin: float
) -> Conflicts:
    """Conflicts of parts with their outlines about their middles, mm, where they lie on a plate of ``wide`` x ``deep``
    mm; ``number`` of what lies is its place among the outlines."""
    shapes = [
        shapely.union_all([shapely.Polygon(outline_on_plate(np.asarray(ring), one)) for ring in outlines[one.number]])
        for one in lying
    ]
    plate = shapely.box(-_CLOSE_MM, -_CLOSE_MM, wide + _CLOSE_MM, deep + _CLOSE_MM)
    off = tuple(one.number for one, shape in zip(lying, shapes, strict=True) if not plate.contains(shape))
    tree = shapely.STRtree(shapes)
    near = tree.query(shapes, predicate="dwithin", distance=max(margin - _CLOSE_MM, 0.0))
    meet = sorted({(lying[a].number, lying[b].number) for a, b in near.T if a < b})
    return Conflicts(meet=tuple(meet), off=off)
