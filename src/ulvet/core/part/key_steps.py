"""The step of Part that sets keys into a joint."""

from collections.abc import Sequence
from typing import ClassVar, Literal, Self

from pydantic import Field, model_validator

from ulvet.core.lengths import PrintMM
from ulvet.core.lineage import is_piece_of
from ulvet.core.part.joints import Joint, joints_between
from ulvet.core.part.key_setting import Bought, KeyKind, KeyPlace, KeySetter
from ulvet.core.recipe.receipt import Count, LeastKnown, Receipt
from ulvet.core.recipe.seams import KeyShape
from ulvet.core.recipe.step import Context, Number, Part, Phase, Sentence, Step, StepResult, plural

__all__ = ["KEY_WALL_OVER", "ROD_DEEP", "Fit", "Key", "KeyReceipt"]

Fit = Literal["press", "slide", "free", "glued"]
ROD_DEEP = 2.0
"""Widths of itself that a rod goes into each side (bench default)."""
KEY_WALL_OVER = 0.05
"""Mm that the wall about a key has over what held walls want, for what rounding takes (bench default)."""


class KeyReceipt(Receipt):
    """Keys set, joints that got none, the least wall about a key and the gap a side, print mm."""

    keys: Count = 0
    joints: Count = 0
    refused: Count = 0
    wall: LeastKnown = None
    gap: LeastKnown = None
    limit: LeastKnown = None
    """Wall that was asked for."""


class Key(Step):
    """Set keys into the joints that a cut made: a peg on one side and its socket in the other, a pin in two sockets,
    a magnet on each side, or a bought rod through both. Their sizes are print lengths.

    Without ``places`` their number, sizes and places follow from each joint's area and from the flesh behind it.
    """

    needs: ClassVar[tuple[str, ...]] = ("factor", "setup.setting.fits", "setup.setting.coat", "setup.setting.walls")
    phase: ClassVar[Phase] = Phase.MAKE
    by_part: ClassVar[bool] = False
    makes_parts: ClassVar[bool] = True
    seconds_a_triangle: ClassVar[float] = 3e-6
    makes: ClassVar[type[Receipt]] = KeyReceipt

    kind: Literal["key"] = "key"
    cut: int = Field(ge=1)
    """Id of the step that made the joint."""
    between: tuple[str, ...] = Field(default=(), max_length=2)
    """Names of the two parts, where the cut made several joints; empty for all."""
    joins: KeyKind = "peg"
    shape: KeyShape = "flat-sided"
    fit: Fit = "glued"
    painted: bool = False
    """Whether both faces are painted before they are put together."""
    turns: bool = False
    """Whether it is meant to go together in more than one way."""
    number: int | None = Field(default=None, ge=1, le=8)
    size: PrintMM | None = Field(default=None, ge=0.5, le=50)
    """Width of the largest; None for what the joint allows."""
    places: tuple[KeyPlace, ...] = Field(default=(), max_length=20)
    item: str = Field(default="", max_length=60)
    """Id of the magnet or rod on the bench."""
    name: str = Field(default="", max_length=100)
    deep: PrintMM | None = Field(default=None, gt=0, le=100)
    """Of the magnet, or of the rod on each side."""
    density: float = Field(default=0.0, ge=0, le=25)

    @model_validator(mode="after")
    def _measures_what_is_bought(self) -> Self:
        if self.buys and (self.size is None or (self.joins == "magnets" and self.deep is None)):
            raise ValueError("a magnet has a width and a depth, and a rod a width: say which is bought")
        return self

    @property
    def buys(self) -> bool:
        """Whether what holds it is bought, whose width nothing else can choose."""
        return self.joins in ("magnets", "rod")

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        factor, setting = context["factor"], context["setup"].setting
        gap = float(getattr(setting.fits, self.fit)) + (2 * float(setting.coat) if self.painted else 0.0)
        wall = float(setting.walls.held.caution) + KEY_WALL_OVER
        joints = [one for one in joints_between(parts, factor, self.cut) if self._concerns(one, parts)]
        if not joints:
            return StepResult(parts, KeyReceipt(not_done="there is no such joint any more", refused=1))
        work = KeySetter(parts, factor, self, gap, wall, self._bought)
        for joint in joints:
            work.set_into(joint)
        told = KeyReceipt(
            keys=work.keys,
            joints=len(joints),
            refused=len(work.refusals),
            not_done=" ".join(dict.fromkeys(work.refusals)),
            wall=min(work.walls, default=None),
            gap=gap,
            limit=wall,
            inserts=tuple(work.inserts),
        )
        return StepResult((*work.parts, *work.pins), told)

    @property
    def _bought(self) -> Bought | None:
        if not self.buys or self.size is None:
            return None
        size = float(self.size)
        deep = ROD_DEEP * size if self.deep is None else float(self.deep)
        return Bought(self.item, self.name or self.joins, size, deep, self.density)

    def _concerns(self, joint: Joint, parts: Sequence[Part]) -> bool:
        return self.is_between(parts[joint.first].name, parts[joint.second].name)

    def is_between(self, *names: str) -> bool:
        """Whether it is of the joint of two parts, or of what they were cut from."""
        if not self.between:
            return True
        one, other = ([name == of or is_piece_of(name, of) for of in self.between] for name in names)
        return len(self.between) == 2 and ((one[0] and other[1]) or (one[1] and other[0]))

    def sentence(self, receipt: KeyReceipt) -> Sentence:
        magnets = self.name or "magnets"
        one, more = {
            "peg": (f"{self.shape} key", f"{self.shape} keys"),
            "pin": (f"{self.shape} pin", f"{self.shape} pins"),
            "magnets": (f"pair of {magnets}", f"pairs of {magnets}"),
            "rod": (self.name or "rod", f"pieces of {self.name or 'rod'}"),
        }[self.joins]
        if not receipt.keys:
            return (f"Set no {one} into the joint: {receipt.not_done}.",)
        painted = ", painted" if self.painted else ""
        many = plural(receipt.keys, one, more)
        wide: Sentence = (", ", Number(field="size", value=self.size, unit="mm"), " wide") if self.size else ()
        refused = f" At {plural(receipt.refused, 'place')} none: {receipt.not_done}." if receipt.refused else ""
        return (
            many,
            *wide,
            f", {self.fit} fit{painted}: {receipt.gap or 0:.2f} mm a side, {receipt.wall or 0:.2f} of wall.{refused}",
        )
