"""Steps that work at places picked on a part."""

from typing import Self

from pydantic import Field

from ulvet.core.lengths import FigureMM
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.step import Step

__all__ = ["StepAtPlaces"]


class StepAtPlaces(Step):
    """A step that works where its ``places`` are; some kinds work everywhere when they have none."""

    places: tuple[Anchor, ...] = Field(default=(), max_length=100)

    def moved_to(self, point: tuple[float, float, float]) -> Self:
        """The same step at another point (figure mm)."""
        x, y, z = (FigureMM(value) for value in point)
        return self.model_copy(update={"places": tuple(a.model_copy(update={"point": (x, y, z)}) for a in self.places)})
