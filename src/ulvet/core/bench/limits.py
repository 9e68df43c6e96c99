"""Limits of walls."""

from typing import Annotated, Self

from pydantic import BaseModel, ConfigDict, model_validator

from ulvet.core.bench.item import value
from ulvet.core.lengths import PrintMM

__all__ = ["WallLimit", "WallLimits"]


class WallLimit(BaseModel):
    """What a kind of wall has to have."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    stop: Annotated[PrintMM, value("Fails under", "mm", gt=0, le=50)]
    """Walls thinner than this fail on the plate or under the cutters."""
    caution: Annotated[PrintMM, value("Wants care under", "mm", gt=0, le=50)]
    """Walls thinner than this print but want care in cleaning and painting."""

    @model_validator(mode="after")
    def _caution_is_no_less(self) -> Self:
        if self.caution < self.stop:
            raise ValueError(f"a wall of {self.caution:g} mm cannot want care when less than {self.stop:g} mm fails")
        return self


class WallLimits(BaseModel):
    """The limits of every kind of wall in one setting, and so in one process.

    An edge takes its wall from beside it and is judged as a free-standing one.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    held: Annotated[WallLimit, value("Wall held on both sides")]
    """Of walls that something holds on both sides, which bear each other."""
    free_standing: Annotated[WallLimit, value("Free-standing wall")]
    pin: Annotated[WallLimit, value("Pin or wire")]
    """Of wires and pins, which have nothing beside them either way."""

    @property
    def thin_from(self) -> PrintMM:
        """The wall from which on none of any kind is thin."""
        return max(limit.caution for limit in (self.held, self.free_standing, self.pin))
