"""What every step is and does."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any, ClassVar

from pydantic import BaseModel, ConfigDict

from ulvet.core.mesh import Mesh

__all__ = ["Context", "Number", "Part", "Receipt", "Sentence", "Step", "StepResult", "says"]


@dataclass(frozen=True)
class Part:
    """One printed piece: its lineage id, which survives an edit of the cut that made it, and its mesh in figure mm."""

    name: str
    mesh: Mesh


class Context(Mapping[str, Any]):
    """The values a step declared in ``needs``; reading any other raises KeyError."""

    def __init__(self, values: Mapping[str, Any], needs: tuple[str, ...]) -> None:
        self._values = {name: values[name] for name in needs}

    def __getitem__(self, name: str) -> Any:
        return self._values[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self._values)

    def __len__(self) -> int:
        return len(self._values)


class Receipt(BaseModel):
    """What a step changed. Areas, volumes and movements are of the figure (mm, mm², mm³)."""

    model_config = ConfigDict(frozen=True)

    counts: dict[str, int] = {}
    surface_added: float = 0.0
    surface_removed: float = 0.0
    greatest_movement: float = 0.0
    """Of the surface that was kept."""
    volume_before: float = 0.0
    volume_after: float = 0.0
    not_done: str = ""
    """What the step left as it was, and why."""


@dataclass(frozen=True)
class StepResult:
    """The parts a step leaves, and its receipt."""

    parts: tuple[Part, ...]
    receipt: Receipt = field(default_factory=Receipt)


class Number(BaseModel):
    """A number in a sentence that can be edited in place; ``field`` is the step's field it stands for."""

    model_config = ConfigDict(frozen=True)

    field: str
    value: float
    unit: str


Sentence = tuple[str | Number, ...]


class Step(BaseModel):
    """One act on the parts: pure, deterministic, and complete in its fields and the context it declares.

    A station adds its steps as subclasses in ``ulvet/core/<station>/steps.py``; they are found there.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    needs: ClassVar[tuple[str, ...]] = ()
    """Names of the context values the step reads; part of its cache key."""
    places_figure: ClassVar[bool] = False
    """Whether the edition's factor is fixed by the height after this step."""

    kind: str
    scope: str | None = None
    """The part it works on; None is the whole figure."""

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        """The parts after this step."""
        raise NotImplementedError

    def sentence(self, receipt: Receipt) -> Sentence:
        """What the record says of this step, with its editable numbers."""
        raise NotImplementedError


def says(count: int, one: str, many: str | None = None) -> str:
    """A count with its noun: "1 hole", "3,210 faces".

    >>> says(1, "hole"), says(2, "face"), says(2, "body", "bodies")
    ('1 hole', '2 faces', '2 bodies')
    """
    return f"{count:,} {one if count == 1 else many or one + 's'}"
