"""What a step tells of what it did."""

from collections.abc import Callable, Sequence
from enum import StrEnum
from itertools import chain
from typing import Annotated, Any, Self

from pydantic import BaseModel, ConfigDict

from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.anchors import LostAnchor

__all__ = [
    "Count",
    "Greatest",
    "GreatestKnown",
    "Insert",
    "LeastKnown",
    "Merge",
    "Receipt",
    "Total",
]


class Insert(BaseModel):
    """Something of another material that a step made room for: where its middle is (3,), figure mm, and its weight."""

    model_config = ConfigDict(frozen=True)

    middle: tuple[float, float, float]
    grams: float
    item: str = ""
    """Id of the bought part it is; empty for a wire that was cut for a limb."""
    name: str = ""
    length: PrintMM | None = None
    """As long as it is cut; None for what is set in whole."""


class Merge(StrEnum):
    """How receipts of one step on several parts are told as one: their sum, the greatest or the least of
    them, or one list of all."""

    SUM = "sum"
    GREATEST = "greatest"
    LEAST = "least"
    ALL = "all"


Count = Annotated[int, Merge.SUM]
Total = Annotated[float, Merge.SUM]
Greatest = Annotated[float, Merge.GREATEST]
GreatestKnown = Annotated[float | None, Merge.GREATEST]
"""None where it was not measured."""
LeastKnown = Annotated[float | None, Merge.LEAST]
"""None where it was not measured."""


class Receipt(BaseModel):
    """What a step changed. Areas, volumes and movements are of the figure (mm, mm², mm³).

    A step that has more to tell has a receipt of its own (``Step.makes``), which its sentence reads: every field has a
    default, so that there is a sentence whatever came of the step.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    surface_added: Total = 0.0
    surface_removed: Total = 0.0
    greatest_movement: Greatest = 0.0
    """Of the surface that was kept."""
    volume_before: Total = 0.0
    volume_after: Total = 0.0
    not_done: str = ""
    """What the step left as it was, and why."""
    idle: bool = False
    """Whether the step was switched off, or found no part to work on."""
    lost: tuple[LostAnchor, ...] = ()
    """Points of the step that found no surface."""
    inserts: Annotated[tuple[Insert, ...], Merge.ALL] = ()

    @property
    def worked(self) -> bool:
        """Whether anything was counted."""
        return any(isinstance(value, int) and value and name != "idle" for name, value in self.__dict__.items())

    @classmethod
    def together(cls, receipts: "Sequence[Receipt]") -> Self:
        """What several receipts of one step say together, each field as its type says."""
        merged: dict[str, Any] = {}
        for name, info in cls.model_fields.items():
            how = next((one for one in info.metadata if isinstance(one, Merge)), None)
            known = [value for receipt in receipts if (value := getattr(receipt, name)) is not None]
            if how and known:
                merged[name] = _MERGED[how](known)
        return cls(
            **merged,
            idle=bool(receipts) and all(receipt.idle for receipt in receipts),
            lost=_lost_everywhere([receipt.lost for receipt in receipts]),
            not_done=" ".join(dict.fromkeys(receipt.not_done for receipt in receipts if receipt.not_done)),
        )


_MERGED: dict[Merge, Callable[[list[Any]], Any]] = {
    Merge.SUM: sum,
    Merge.GREATEST: max,
    Merge.LEAST: min,
    Merge.ALL: lambda lists: tuple(chain.from_iterable(lists)),
}


def _lost_everywhere(losses: Sequence[tuple[LostAnchor, ...]]) -> tuple[LostAnchor, ...]:
    """Of a step on several parts a point is lost only where no part has it; what is told is the nearest part."""
    found = [{one.number: one for one in lost} for lost in losses]
    everywhere = set.intersection(*map(set, found)) if found else set()
    return tuple(min((lost[k] for lost in found), key=lambda one: one.away) for k in sorted(everywhere))
