"""The sentence that keeps a picture to work from with the figure."""

from typing import ClassVar, Literal

from pydantic import Field

from ulvet.core.blob_hash import BlobHash
from ulvet.core.lengths import FigureMM
from ulvet.core.recipe.receipt import Receipt
from ulvet.core.recipe.step import Context, Number, Part, Phase, Sentence, Step, StepResult

__all__ = ["ReferTo"]


class ReferTo(Step):
    """A picture behind the figure, as one looks at it from a side: how wide it is, and where the middle of its lower
    edge lies, across as it is looked at and up. It changes no mesh."""

    phase: ClassVar[Phase] = Phase.SOURCE
    rank: ClassVar[int] = 9
    by_part: ClassVar[bool] = False
    seconds_a_triangle: ClassVar[float] = 0.0

    kind: Literal["refer-to"] = "refer-to"
    name: str = Field(min_length=1, max_length=80)
    shown: BlobHash = Field(pattern="^[0-9a-f]{64}$")
    """Blob of the PNG."""
    ratio: float = Field(gt=1e-3, lt=1e3)
    """Its height over its width."""
    seen_from: Literal["front", "back", "left", "right"] = "front"
    wide: FigureMM = Field(gt=0, le=1e5)
    across: FigureMM = Field(default=FigureMM(0), ge=-1e5, le=1e5)
    up: FigureMM = Field(default=FigureMM(0), ge=-1e5, le=1e5)

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        return StepResult(parts)

    def sentence(self, receipt: Receipt) -> Sentence:
        return (
            f"{self.name} to work from, seen from the {self.seen_from}, ",
            Number(field="wide", value=self.wide, unit="mm"),
            " wide, ",
            Number(field="across", value=self.across, unit="mm"),
            " across and ",
            Number(field="up", value=self.up, unit="mm"),
            " up.",
        )
