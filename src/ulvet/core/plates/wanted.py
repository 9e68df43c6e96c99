"""What is to be printed: how many of which parts, what the hand placed, moved, began and did of it."""

from collections.abc import Sequence
from datetime import datetime
from typing import Annotated, Self

from pydantic import BaseModel, ConfigDict, Field, model_validator

from ulvet.core.blob_hash import BlobHash
from ulvet.core.days.plan import Id

__all__ = ["HandPlate", "Move", "Placed", "WantedPart", "WantedPlan", "one_less", "one_more"]

_MOST_WANTED = 300
"""Lines of a plan (bench default)."""
_MOST_PLACED = 500
"""Parts that the hand placed on one plate (bench default)."""
_FARTHEST_MM = 5_000.0
"""How far from the corner of a plate a place may be (bench default)."""
_MOST_FIGURES = 2**53
"""The highest number that a figure may have: as whole as a browser counts."""
FigureNumber = Annotated[int, Field(ge=1, le=_MOST_FIGURES)]
OnPlate = Annotated[float, Field(ge=-_FARTHEST_MM, le=_FARTHEST_MM, allow_inf_nan=False)]
Day = Annotated[str, Field(pattern=r"^\d{4}-\d{2}-\d{2}$")]


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class WantedPart(_Value):
    """So many copies of a part of a figure in an edition; all its parts where none is named."""

    figure: FigureNumber
    edition: str = Field(default="", max_length=40)
    part: str = Field(default="", max_length=400)
    count: int = Field(default=1, ge=1, le=500)
    painted: bool = False
    """Whether it is put together and painted too, and not only printed and cleaned."""


class Placed(_Value):
    """A copy of a part that the hand placed: where its middle lies from the left front corner of what may be used of
    the plate, mm, its turn in degrees, and the layers it had then."""

    figure: FigureNumber
    edition: str = Field(max_length=40)
    part: str = Field(max_length=400)
    layers: BlobHash
    x: OnPlate
    y: OnPlate
    turn: Annotated[float, Field(ge=-360, le=720, allow_inf_nan=False)]


class HandPlate(_Value):
    """A plate that the hand placed parts on; what else is wanted is packed round them."""

    setting: str = Field(max_length=60)
    lying: tuple[Placed, ...] = Field(min_length=1, max_length=_MOST_PLACED)


class Move(_Value):
    """A task that the hand moved: not before a moment, on a machine, or both."""

    task: Id
    not_before: datetime | None = None
    on: Id | None = None


class WantedPlan(_Value):
    """What is to be printed, from when on and until when. Times are of the clock on the wall."""

    wanted: tuple[WantedPart, ...] = Field(default=(), max_length=_MOST_WANTED)
    most_parts: Annotated[int, Field(ge=1, le=500)] | None = None
    """Parts on one plate at most, so that less is lost at once."""
    begins: datetime | None = None
    """None is the next full hour."""
    due: datetime | None = None
    days_off: tuple[Day, ...] = Field(default=(), max_length=400)
    spare_from: Annotated[float, Field(gt=0, le=1)] | None = None
    """Share of failures from which on time for the same plate again is kept free; None keeps none."""
    plates: tuple[HandPlate, ...] = Field(default=(), max_length=100)
    moves: tuple[Move, ...] = Field(default=(), max_length=500)
    begun: tuple[int, ...] = Field(default=(), max_length=500)
    """Numbers of the proofs that were begun for it: what came out of them sound is wanted no more."""
    done: tuple[Id, ...] = Field(default=(), max_length=2_000)
    """Tasks that were ticked."""

    @model_validator(mode="after")
    def _times_agree(self) -> Self:
        moments = [self.begins, self.due, *(move.not_before for move in self.moves)]
        if any(moment.tzinfo for moment in moments if moment):
            raise ValueError("times are given without a time zone: those of the clock on the wall")
        if self.due is not None and self.begins is not None and self.due <= self.begins:
            raise ValueError("it is due before it begins: give a later date")
        if len({move.task for move in self.moves}) < len(self.moves):
            raise ValueError("one task is moved twice: keep one of these moves")
        return self


def one_more(plan: WantedPlan, of: WantedPart, first: str, parts: Sequence[str]) -> WantedPlan:
    """A plan in which one more copy of a part is wanted: in its own line, in that of its whole figure where ``parts``,
    all that it has, are no more than this one, or in a new line. ``first`` is the figure's first edition, which a line
    means that names none."""
    alone, whole = _lines(plan, of, first)
    line = alone or (whole if len(parts) == 1 else None)
    if line is None:
        return plan.model_copy(update={"wanted": (*plan.wanted, _counted(of, 1))})
    return plan.model_copy(update={"wanted": _changed(plan.wanted, line, 1)})


def one_less(plan: WantedPlan, of: WantedPart, first: str, parts: Sequence[str]) -> WantedPlan | None:
    """A plan in which one copy of a part is wanted no more, None where none was; the others of its figure's ``parts``
    stay wanted as often as before. ``first`` as in ``one_more``."""
    alone, whole = _lines(plan, of, first)
    line = alone or whole
    if line is None:
        return None
    others = [] if line is alone else [_counted(line, 1).model_copy(update={"part": p}) for p in parts if p != of.part]
    return plan.model_copy(update={"wanted": (*_changed(plan.wanted, line, -1), *others)})


def _lines(plan: WantedPlan, of: WantedPart, first: str) -> tuple[WantedPart | None, WantedPart | None]:
    """The line that wants a part by itself, and that which wants its whole figure, in its edition."""
    edition = of.edition or first
    lines = [line for line in plan.wanted if line.figure == of.figure and (line.edition or first) == edition]
    alone = next((line for line in lines if line.part == of.part), None)
    return alone, next((line for line in lines if not line.part), None)


def _changed(lines: Sequence[WantedPart], one: WantedPart, by: int) -> tuple[WantedPart, ...]:
    """Lines with one of them wanted so many times more; without it where that leaves none."""
    changed = [_counted(line, line.count + by) if line is one else line for line in lines]
    return tuple(line for line in changed if line.count > 0)


def _counted(line: WantedPart, count: int) -> WantedPart:
    return line.model_copy(update={"count": count})
