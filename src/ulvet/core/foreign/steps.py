"""The step that lays a foreign object beside a figure."""

from typing import Annotated, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator, model_validator

from ulvet.core.blob_hash import BlobHash
from ulvet.core.lengths import FigureMM, PrintMM, spoken
from ulvet.core.recipe.receipt import Receipt
from ulvet.core.recipe.stance import Vector, unit_vector
from ulvet.core.recipe.step import Context, Part, Phase, Sentence, Step, StepResult
from ulvet.core.units import UNIT_NAMES, Axis, Unit

__all__ = ["AnyShape", "Block", "Disc", "Foreign", "FromMesh", "Rod", "Round", "ScrewBoss"]

Caliper = Annotated[PrintMM, Field(gt=0, le=5_000)]


class _Shape(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Round(_Shape):
    """Something round that stands up: a post, a bottle, a neck; narrower above where that is given."""

    shape: Literal["round"] = "round"
    diameter: Caliper
    length: Caliper
    diameter_above: Caliper | None = None


class Block(_Shape):
    """A block."""

    shape: Literal["block"] = "block"
    wide: Caliper
    deep: Caliper
    tall: Caliper


class ScrewBoss(_Shape):
    """A boss with a hole for a screw."""

    shape: Literal["screw-boss"] = "screw-boss"
    diameter: Caliper
    hole: Caliper
    length: Caliper

    @model_validator(mode="after")
    def _wall(self) -> "ScrewBoss":
        if self.hole >= self.diameter:
            raise ValueError("The hole of a boss has to be narrower than the boss.")
        return self


class Rod(_Shape):
    """A rod, wire or tube."""

    shape: Literal["rod"] = "rod"
    diameter: Caliper
    length: Caliper


class Disc(_Shape):
    """A disc: a coin, a magnet, a base."""

    shape: Literal["disc"] = "disc"
    diameter: Caliper
    thickness: Caliper


class FromMesh(_Shape):
    """A mesh that was brought in, at its own size."""

    shape: Literal["mesh"] = "mesh"
    source: BlobHash
    unit: Unit = "mm"
    up: Axis = "z"


AnyShape = Annotated[Round | Block | ScrewBoss | Rod | Disc | FromMesh, Field(discriminator="shape")]


class Foreign(Step):
    """A thing that exists already, by caliper numbers or a mesh. It keeps its size whatever the figure's, stands where
    it is put, is drawn as a ghost and never exported."""

    phase: ClassVar[Phase] = Phase.SOURCE
    rank: ClassVar[int] = 8
    by_part: ClassVar[bool] = False
    once: ClassVar[bool] = True
    seconds_a_triangle: ClassVar[float] = 0.0

    kind: Literal["foreign"] = "foreign"
    name: str = Field(min_length=1, max_length=80)
    thing: AnyShape
    at: tuple[FigureMM, FigureMM, FigureMM] = (FigureMM(0), FigureMM(0), FigureMM(0))
    """Where the middle of its underside is."""
    way: Vector = (0.0, 0.0, 1.0)
    """Where its own upright points."""

    @field_validator("way")
    @classmethod
    def _unit(cls, value: Vector) -> Vector | None:
        return unit_vector(value)

    def replaces(self, other: Step) -> bool:
        return isinstance(other, Foreign) and other.name == self.name

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        return StepResult(parts)

    def sentence(self, receipt: Receipt) -> Sentence:
        if isinstance(self.thing, FromMesh):
            described = f"a mesh in {UNIT_NAMES[self.thing.unit]}"
        else:
            numbers = {k: v for k, v in self.thing.model_dump().items() if k != "shape" and v is not None}
            described = ", ".join(f"{name.replace('_', ' ')} {spoken(value)} mm" for name, value in numbers.items())
        return (f"Beside it, never printed: {self.name} ({self.thing.shape.replace('-', ' ')}, {described}).",)
