"""The steps of Size: measurements, which are kept, have a name, and follow the figure."""

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field, field_validator, model_validator

from ulvet.core.lengths import spoken
from ulvet.core.recipe.anchors import project_anchors
from ulvet.core.recipe.receipt import GreatestKnown, Receipt
from ulvet.core.recipe.stance import Vector, unit_vector
from ulvet.core.recipe.step import AnchoredStep, Context, Part, Sentence
from ulvet.core.size.measure import PICKS, How, measure_between
from ulvet.core.stations import Station

__all__ = ["MeasureFigure"]

_HOWS = {
    "straight": "point to point",
    "surface": "along the surface",
    "diameter": "across, by three picks",
    "angle": "between its picks",
    "girth": "round about",
}


class MeasureReceipt(Receipt):
    """The length on the figure and as printed, mm; or an angle, degrees, as both."""

    figure: GreatestKnown = None
    printed: GreatestKnown = None


class MeasureFigure(AnchoredStep):
    """A named measurement between points picked on one part; it changes nothing and is taken anew on every run."""

    needs: ClassVar[tuple[str, ...]] = ("factor",)
    rank: ClassVar[int] = 9
    once: ClassVar[bool] = True
    station: ClassVar[Station] = Station.SIZE
    seconds_a_triangle: ClassVar[float] = 1e-6
    makes: ClassVar[type[Receipt]] = MeasureReceipt

    kind: Literal["measure"] = "measure"
    name: str = Field(min_length=1, max_length=80)
    how: How
    way: Vector | None = None
    """What the plane of a girth crosses; None is upright."""

    @field_validator("way")
    @classmethod
    def _unit(cls, value: Vector | None) -> Vector | None:
        return unit_vector(value)

    @model_validator(mode="after")
    def _picks(self) -> "MeasureFigure":
        if len(self.places) != PICKS[self.how]:
            raise ValueError(f"Measuring {_HOWS[self.how]} takes {PICKS[self.how]} picks.")
        return self

    def replaces(self, other: object) -> bool:
        return isinstance(other, MeasureFigure) and other.name == self.name

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        points, lost = project_anchors(self.places, part.mesh, part.name, part.source)
        if lost:
            return part, MeasureReceipt(lost=lost)
        found = measure_between(self.how, points, part.mesh, None if self.way is None else np.array(self.way))
        grows = 1.0 if self.how == "angle" else context["factor"]
        if found.why and not found.value:
            return part, MeasureReceipt(not_done=found.why)
        return part, MeasureReceipt(figure=found.value, printed=found.value * grows, not_done=found.why)

    def sentence(self, receipt: MeasureReceipt) -> Sentence:
        printed = receipt.printed
        if printed is None:
            return (f"Measured {self.name} {_HOWS[self.how]}: {receipt.not_done or 'a pick is off the figure'}.",)
        value = f"{printed:.1f}°" if self.how == "angle" else f"{spoken(printed)} mm"
        rest = f" ({receipt.not_done})" if receipt.not_done else ""
        return (f"Measured {self.name}, {_HOWS[self.how]}: {value}{rest}.",)
