"""A painted copy: the order of work as it was ticked off, stacks as they were done, and what to do otherwise."""

from typing import Annotated, Self

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, model_validator

from ulvet.core.bench.item import ID
from ulvet.core.blob_hash import BlobHash
from ulvet.core.finish.steps import Scheme

__all__ = ["PaintedCopy", "RowDone"]

PaintId = Annotated[str, Field(pattern=ID)]
Millilitres = Annotated[float, Field(ge=0, le=100_000, allow_inf_nan=False)]
Minutes = Annotated[float, Field(ge=0, le=100_000, allow_inf_nan=False)]


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class RowDone(_Value):
    """One thing of the order of work, the minutes of hands it was told to take, and those it took; None where it is not
    done, 0 where nobody took the time."""

    what: Annotated[str, Field(max_length=200)]
    says: Annotated[str, Field(max_length=400)]
    told_min: Minutes
    minutes: Minutes | None = None


class PaintedCopy(_Value):
    """One copy of a figure in an edition that is finished."""

    figure: int
    figure_name: str
    edition: str
    edition_name: str
    began: AwareDatetime
    ended: AwareDatetime | None = None
    rows: tuple[RowDone, ...] = Field(default=(), max_length=200)
    takes: dict[PaintId, Millilitres] = Field(default={}, max_length=200)
    """By the id of a paint the ml that was told."""
    done: Scheme | None = None
    """Stacks as they were done; as the plan had them until somebody says otherwise. None without a plan."""
    photos: tuple[BlobHash, ...] = Field(default=(), max_length=12)
    otherwise: Annotated[str, Field(max_length=4_000)] = ""
    """What to do otherwise next time."""

    @model_validator(mode="after")
    def _times_agree(self) -> Self:
        if self.ended is not None and self.ended < self.began:
            raise ValueError("it ended before it began: give a later end")
        return self

    @property
    def told_min(self) -> float:
        """Minutes that were told for what is done."""
        return sum(row.told_min for row in self.rows if row.minutes is not None)

    @property
    def took_min(self) -> float:
        """Minutes that what is done took."""
        return sum(row.minutes for row in self.rows if row.minutes is not None)
