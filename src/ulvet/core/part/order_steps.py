"""The steps of Part that name parts, number them, and say in which order they go together."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Annotated, Any, ClassVar, Literal

import shapely
from pydantic import Field

from ulvet.core.geometry.mesh import Mesh
from ulvet.core.lineage import part_in_words
from ulvet.core.part.caps import Embossed, cap_in_plane, embossed
from ulvet.core.part.joints import Joint, joints_between
from ulvet.core.part.numbering import number_bars, place_for_number
from ulvet.core.recipe.receipt import Count, Receipt
from ulvet.core.recipe.step import Context, Part, Phase, Sentence, Step, StepResult, plural

__all__ = ["AssemblyOrder", "NamePart", "NumberParts"]


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


class NumberReceipt(Receipt):
    """Joints that carry a number on both sides, and those that had no room for one."""

    numbered: Count = 0
    refused: Count = 0


class NumberParts(Step):
    """Sink the number of a part into both faces of every joint that it has with a part of a higher number."""

    needs: ClassVar[tuple[str, ...]] = ("factor",)
    phase: ClassVar[Phase] = Phase.MAKE
    rank: ClassVar[int] = 1
    once: ClassVar[bool] = True
    by_part: ClassVar[bool] = False
    makes_parts: ClassVar[bool] = True
    seconds_a_triangle: ClassVar[float] = 1e-6
    makes: ClassVar[type[Receipt]] = NumberReceipt

    kind: Literal["number-parts"] = "number-parts"

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        factor, made = context["factor"], list(parts)
        numbered = refused = 0
        for joint in joints_between(parts, factor):
            meshes = [_numbered(made[at], joint, sign, joint.first + 1, factor) for at, sign in joint.sides]
            if any(mesh is None for mesh in meshes):
                refused += 1
                continue
            for (at, _), mesh in zip(joint.sides, meshes, strict=True):
                assert mesh is not None
                made[at] = replace(made[at], mesh=mesh)
            numbered += 1
        return StepResult(tuple(made), NumberReceipt(numbered=numbered, refused=refused))

    def sentence(self, receipt: NumberReceipt) -> Sentence:
        if not receipt.numbered:
            return (f"Sank no numbers: {receipt.not_done or 'no joint has room for one'}.",)
        without = f"; {plural(receipt.refused, 'joint')} had no room" if receipt.refused else ""
        return (f"Sank numbers into both faces of {plural(receipt.numbered, 'joint')}{without}.",)


def _numbered(part: Part, joint: Joint, sign: float, number: int, factor: float) -> Mesh | None:
    """A part with a number in its face of a joint; None where there is no room."""
    cap = cap_in_plane(part.mesh, joint.origin / factor, joint.way * sign)
    if cap is None:
        return None
    face = joint.on_cap(cap, factor)
    place = place_for_number(shapely.transform(face, lambda flat: flat * factor), number)
    if place is None:
        return None
    bars = [
        Embossed(tuple(ring / factor for ring in bar.rings), tuple(high / factor for high in bar.heights))
        for bar in number_bars(number, *place)
    ]
    return embossed(part.mesh, cap, joint.way * sign, bars)
