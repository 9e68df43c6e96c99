"""Limits of walls, each with where it comes from."""

from enum import StrEnum
from typing import Self

from pydantic import BaseModel, ConfigDict, Field, model_validator

from ulvet.core.lengths import PrintMM

__all__ = ["LimitOrigin", "WallLimit", "WallLimits"]


class LimitOrigin(StrEnum):
    """Where a limit comes from; a value learnt from the user's own proofs replaces the others."""

    BENCH_DEFAULT = "bench default"
    USER = "user"
    LEARNT = "learnt"


class WallLimit(BaseModel):
    """What a kind of wall has to have."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    stop: PrintMM = Field(gt=0, le=50)
    """Walls thinner than this fail on the plate or under the cutters."""
    caution: PrintMM = Field(gt=0, le=50)
    """Walls thinner than this print but want care in cleaning and painting."""
    origin: LimitOrigin = LimitOrigin.BENCH_DEFAULT

    @model_validator(mode="after")
    def _caution_is_no_less(self) -> Self:
        if self.caution < self.stop:
            raise ValueError(f"a wall of {self.caution:g} mm cannot want care when less than {self.stop:g} mm fails")
        return self


class WallLimits(BaseModel):
    """The limits of every kind of wall in one material, and so in one process.

    An edge takes its wall from beside it and is judged as a free-standing one.
    """

    model_config = ConfigDict(frozen=True)

    held: WallLimit
    """Of walls that something holds on both sides, which bear each other."""
    free_standing: WallLimit
    pin: WallLimit
    """Of wires and pins, which have nothing beside them either way."""

    @property
    def thin_from(self) -> PrintMM:
        """The wall from which on none of any kind is thin."""
        return max(limit.caution for limit in (self.held, self.free_standing, self.pin))
