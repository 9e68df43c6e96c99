"""A step that this version does not know: kept as it is, and idle."""

from typing import ClassVar

from pydantic import ConfigDict

from ulvet.core.recipe.receipt import Receipt
from ulvet.core.recipe.step import Context, Part, Step, StepResult

__all__ = ["UnknownStep"]


class UnknownStep(Step):
    """A step of a kind that another version of Ulvet wrote. It changes no part, and is written again as it was read."""

    model_config = ConfigDict(extra="allow")

    by_part: ClassVar[bool] = False
    seconds_a_triangle: ClassVar[float] = 0.0

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        return StepResult(parts, Receipt(idle=True, not_done="this Ulvet does not know such a step and left it alone"))
