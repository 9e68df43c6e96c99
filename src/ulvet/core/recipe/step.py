"""What every step is and does."""

import operator
from collections.abc import Iterator, Mapping
from copy import copy
from dataclasses import dataclass, field
from enum import IntEnum
from typing import Any, ClassVar, Self, get_args

from pydantic import BaseModel, ConfigDict, Field

from ulvet.core.bench.setup import Setup
from ulvet.core.geometry.mesh import Mesh, concatenated
from ulvet.core.lineage import part_in_words
from ulvet.core.progress import Progress, no_progress
from ulvet.core.recipe.anchors import Anchor, Frame
from ulvet.core.recipe.openings import Opening
from ulvet.core.recipe.projection import declared, projected
from ulvet.core.recipe.receipt import Receipt
from ulvet.core.recipe.seams import MadeKey, Seam
from ulvet.core.recipe.stance import AS_IT_STANDS, Stance
from ulvet.core.stations import Station

__all__ = [
    "AnchoredStep",
    "Context",
    "Number",
    "Part",
    "Phase",
    "Sentence",
    "Step",
    "StepResult",
    "plural",
]


@dataclass(frozen=True)
class Part:
    """One printed piece.

    ``name`` is its lineage id, which survives an edit of the cut that made it; ``mesh`` is in figure mm; ``source`` is
    the hash of the mesh it was brought in with. ``supports`` is in print mm on the plate: one closed shell a column, a
    foot and a bar; they overlap and reach a little into the figure. ``captured`` holds, as vertices without faces in
    figure mm, what a scanner saw of it, averaged over small cells.
    """

    name: str
    mesh: Mesh
    stance: Stance = AS_IT_STANDS
    supports: Mesh | None = None
    source: str = ""
    captured: Mesh | None = None
    overlaps_left: bool = False
    """Whether its shells are meant to overlap, so that slicing merges them."""
    frame: Frame | None = None
    """Of a bit or a form, so that what sits on it goes with it."""
    openings: tuple[Opening, ...] = ()
    """Holes that lead out of its spaces, in the order in which they were cut."""
    seams: tuple[Seam, ...] = ()
    """Where it was cut from other parts."""
    keys: tuple[MadeKey, ...] = ()
    """What was set into its joints."""
    title: str = ""
    """What somebody called it."""

    @property
    def called(self) -> str:
        """Its name as it is read."""
        return self.title or part_in_words(self.name)

    def whole(self, factor: float) -> Mesh:
        """The part with its supports as it lies in the printer, print mm; the plate is at z = 0."""
        figure = self.stance.in_print(self.mesh, factor)
        return figure if self.supports is None else concatenated(figure, self.supports)


class Context(Mapping[str, Any]):
    """The values a step declared in ``needs``; reading any other raises KeyError, or AttributeError where it is part of
    a setup or the bench.

    ``progress`` hears how far the step is; it is no part of what the step is made from. ``declared`` holds the value of
    every name that was declared, to make a key of.
    """

    def __init__(self, values: Mapping[str, Any], needs: tuple[str, ...], progress: Progress = no_progress) -> None:
        self._values = projected(values, needs)
        self.declared = declared(values, needs)
        self.progress = progress

    def with_setup(self, setup: Setup, needs: tuple[str, ...]) -> "Context":
        """The same with the setup of one part, where the step declares any of it."""
        of_setup = [name for name in needs if name.startswith("setup.")]
        if not of_setup:
            return self
        held = copy(self)
        held._values = {**self._values, **projected({"setup": setup}, of_setup)}
        held.declared = {**self.declared, **declared({"setup": setup}, of_setup)}
        return held

    def __getitem__(self, name: str) -> Any:
        return self._values[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self._values)

    def __len__(self) -> int:
        return len(self._values)


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


class Phase(IntEnum):
    """The order that no recipe may break: where a figure comes from, what shape it has and that it is sound, how it is
    made (hollowed, drained, cut, keyed, in any order), how it is stood, how it is painted."""

    SOURCE = 0
    SHAPE = 1
    MAKE = 2
    STAND = 3
    FINISH = 4


class Step(BaseModel):
    """One act on the parts: pure, deterministic, and complete in its fields and the context it declares.

    A station adds its steps as subclasses in ``ulvet/core/<station>/steps.py``; they are found there.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    needs: ClassVar[tuple[str, ...]] = ()
    """Names of the context values the step reads; part of its cache key."""
    phase: ClassVar[Phase] = Phase.SHAPE
    """When in a recipe the step may come; one that is added goes behind the last of its phase."""
    rank: ClassVar[int] = 0
    """Order within the phase, where there is one; steps of one rank may change places."""
    once: ClassVar[bool] = False
    """Whether adding the step again for the same scope replaces the one that is there."""
    seconds_a_triangle: ClassVar[float] = 2e-6
    """What it takes, roughly, to say beforehand how long a build will be."""
    places_figure: ClassVar[bool] = False
    """Whether the edition's factor is fixed by the height after this step."""

    makes: ClassVar[type[Receipt]] = Receipt
    """What it tells of what it did."""

    divides: ClassVar[bool] = False
    """Whether it may leave several parts of one, which it names by ``piece_name``."""

    names_editions: ClassVar[bool] = False
    """Whether, when it is added, it holds in the edition that is looked at alone."""
    makes_hollow: ClassVar[bool] = False
    """Whether a solid form leaves it out."""
    makes_parts: ClassVar[bool] = False
    """Whether a form that stays whole leaves it out."""
    makes_pockets: ClassVar[bool] = False
    """Whether a form without pockets for bought parts leaves it out."""

    kind: str
    id: int = Field(default=0, ge=0)
    """By which the step is known in its recipe, whatever place it has; 0 before it is in one."""
    scope: str | None = None
    """The part it works on; None is the whole figure."""
    on: bool = True
    """A step that is switched off stays in the recipe and does nothing."""
    editions: tuple[str, ...] = Field(default=(), max_length=60, exclude_if=operator.not_)
    """Ids of the editions it holds in; empty for all."""
    variants: dict[str, dict[str, Any]] = Field(default={}, exclude_if=operator.not_)
    """By the name of a variant the fields that are others in it; the whole step where it is of another kind there."""

    def replaces(self, other: "Step") -> bool:
        """Whether, of a step that may be there once, this takes the place of another when it is added."""
        return (self.kind, self.scope) == (other.kind, other.scope)

    by_part: ClassVar[bool] = True
    """Whether it changes every part in its scope by itself, so that its results are kept part by part."""

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        """The parts after this step, for one that works on the figure as a whole."""
        raise NotImplementedError

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        """One part after this step, for one that works part by part."""
        raise NotImplementedError

    def divide(self, part: Part, context: Context) -> tuple[tuple[Part, ...], Receipt]:
        """The parts that one part becomes, for one that works part by part and may leave several."""
        changed, receipt = self.change(part, context)
        return (changed,), receipt

    def piece_name(self, part: Part, piece: str) -> str:
        """The lineage id of a piece of a part: it stays the same however the step is edited or moved.

        ``piece`` tells the pieces of one part apart, as "upper" and "lower" do.
        """
        return f"{part.name}.{self.id}-{piece}"

    def context_after(self) -> Mapping[str, Any]:
        """Context values that the step sets for those after it."""
        return {}

    def written_down(self, receipt: Any) -> Self:
        """The step with what it found written down, so that it does not look for it anew; ``receipt`` is of its run."""
        return self

    def sentence(self, receipt: Any) -> Sentence:
        """What the record says of this step, with its editable numbers; ``receipt`` is what it ``makes``."""
        raise NotImplementedError

    @classmethod
    def numbers(cls) -> frozenset[str]:
        """Fields that are one number, or may be left to the process."""
        kinds = {name: get_args(field.annotation) or (field.annotation,) for name, field in cls.model_fields.items()}
        return frozenset(
            name
            for name, given in kinds.items()
            if any(isinstance(kind, type) and issubclass(kind, float) for kind in given)
        )

    def said(self, receipt: Receipt) -> Sentence:
        """Its sentence, or why it did nothing."""
        if not receipt.idle:
            return self.sentence(receipt)
        return (f"{self.kind.replace('-', ' ').capitalize()}: {receipt.not_done}.",)


class AnchoredStep(Step):
    """A step that works at points picked on the figure."""

    station: ClassVar[Station]
    """Where a finding about its points belongs."""

    places: tuple[Anchor, ...] = Field(min_length=1)


def plural(count: int, one: str, many: str | None = None) -> str:
    """A count with its noun: "1 hole", "3,210 faces".

    >>> plural(1, "hole"), plural(2, "face"), plural(2, "body", "bodies")
    ('1 hole', '2 faces', '2 bodies')
    """
    return f"{count:,} {one if count == 1 else many or one + 's'}"
