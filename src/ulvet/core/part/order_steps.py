"""The steps of Part that say what parts are called, and in which order they go together."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ulvet.core.lineage import part_in_words
from ulvet.core.recipe.step import Context, Part, Phase, Receipt, Sentence, Step, StepResult

__all__ = ["AssemblyOrder", "NamePart"]


class AssemblyOrder(Step):
    """Put parts together in an order of one's own; what it leaves out comes after, in the order of the parts."""

    phase: ClassVar[Phase] = Phase.MAKE
    rank: ClassVar[int] = 1
    once: ClassVar[bool] = True
    by_part: ClassVar[bool] = False
    makes_parts: ClassVar[bool] = True
    seconds_a_triangle: ClassVar[float] = 0.0

    kind: Literal["assembly-order"] = "assembly-order"
    order: tuple[Annotated[str, Field(max_length=300)], ...] = Field(min_length=1, max_length=500)
    """Names of parts, the first that all others go onto."""

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        return StepResult(parts, Receipt())

    def context_after(self) -> Mapping[str, Any]:
        return {"assembly_order": self.order}

    def sentence(self, receipt: Receipt) -> Sentence:
        return (f"Goes together in your order, from {part_in_words(self.order[0])} on.",)


class NamePart(Step):
    """Give a part a name of one's own; it keeps it however the cut that made it is edited."""

    phase: ClassVar[Phase] = Phase.MAKE
    rank: ClassVar[int] = 1
    once: ClassVar[bool] = True
    makes_parts: ClassVar[bool] = True
    seconds_a_triangle: ClassVar[float] = 0.0

    kind: Literal["name-part"] = "name-part"
    scope: str = Field(min_length=1, max_length=300)
    title: str = Field(min_length=1, max_length=60)

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        # What it was cut into keeps the names of its own.
        return (replace(part, title=self.title) if part.name == self.scope else part), Receipt()

    def sentence(self, receipt: Receipt) -> Sentence:
        return (f"The {part_in_words(self.scope)} is called {self.title}.",)
