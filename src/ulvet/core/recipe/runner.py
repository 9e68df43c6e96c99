"""Running a recipe: each step once, its result remembered under everything it was made from."""

import hashlib
import json
import operator
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from itertools import count
from typing import Annotated, Any, Final, Literal, Protocol, TypeAlias

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, ValidationInfo, field_validator, model_validator

from ulvet.core.bench.bench import DEFAULT_BENCH, Bench
from ulvet.core.bench.edition import AskedSize, Edition, factor_for
from ulvet.core.bench.part_setups import PartSetups
from ulvet.core.blob_hash import blobs_named
from ulvet.core.digest import core_digest, module_digest
from ulvet.core.geometry.mesh import Mesh, bounds
from ulvet.core.lengths import FigureMM
from ulvet.core.lineage import names_meant
from ulvet.core.progress import Progress, no_progress, progress_within
from ulvet.core.recipe.receipt import Receipt
from ulvet.core.recipe.step import Context, Part, Phase, Step, StepResult
from ulvet.core.recipe.union import AnyStep, step_in
from ulvet.core.recipe.unknown import UnknownStep
from ulvet.core.sources.picture import Picture
from ulvet.core.sources.scan import Scan

__all__ = [
    "RECIPE_VERSION",
    "Memory",
    "NoMemory",
    "Recipe",
    "Run",
    "Source",
    "VariantName",
    "measured_key",
    "plain_value",
    "recipe_hash",
    "run_recipe",
    "step_key",
    "stored_recipe_hash",
]

Source: TypeAlias = Mesh | Scan | Picture
"""What steps read from outside the recipe."""


VariantName = Annotated[str, StringConstraints(min_length=1, max_length=60, strip_whitespace=True)]
_MOST_VARIANTS = 50
"""Variants of a figure; each is checked when the recipe is read."""
RECIPE_VERSION: Final = 3
"""Of how recipes are written; ``recipe/reading.py`` brings earlier ones forward."""


class Recipe(BaseModel):
    """The ordered steps that make a figure; the first brings in a source."""

    model_config = ConfigDict(frozen=True)

    version: Literal[3] = RECIPE_VERSION
    counted: int = Field(default=0, ge=0)
    """How many steps it ever had: the next one gets the number after it as its id."""
    steps: tuple[AnyStep, ...]
    variants: tuple[VariantName, ...] = Field(default=(), max_length=_MOST_VARIANTS, exclude_if=operator.not_)
    """Names of the variants; what they differ in is said by the steps."""
    variant: str = Field(default="", exclude_if=operator.not_)
    """The variant that is shown and made; "" is the figure itself."""

    @field_validator("steps")
    @classmethod
    def _numbered(cls, steps: tuple[Step, ...], info: ValidationInfo) -> tuple[Step, ...]:
        last = max([info.data.get("counted", 0), *(step.id for step in steps)])
        ids = count(last + 1)
        numbered = tuple(step if step.id else step.model_copy(update={"id": next(ids)}) for step in steps)
        if len({step.id for step in numbered}) < len(numbered):
            raise ValueError("two steps have the same id")
        return numbered

    @model_validator(mode="after")
    def _count_all(self) -> "Recipe":
        object.__setattr__(self, "counted", max([self.counted, *(step.id for step in self.steps)]))
        return self

    @model_validator(mode="after")
    def _all_can_be_made(self) -> "Recipe":
        for name in self.variants:
            self.as_made(name)
        if self.variant and self.variant not in self.variants:
            raise ValueError(f"there is no variant called {self.variant}")
        return self

    @property
    def made(self) -> "Recipe":
        """The recipe of the variant that is shown, by itself: as many steps, in the same order."""
        return self.as_made(self.variant)

    def in_variant(self, name: str) -> "Recipe":
        """The recipe with another of its variants shown; the figure itself where that is not there."""
        return self.model_copy(update={"variant": name if name in self.variants else ""})

    def as_made(self, variant: str) -> "Recipe":
        """The recipe of one variant by itself.

        Raises pydantic's ValidationError where a step cannot be what the variant says of it.
        """
        return Recipe(counted=self.counted, steps=tuple(step_in(step, variant) for step in self.steps))

    def with_steps(self, steps: Iterable[Step]) -> "Recipe":
        """The recipe with other steps; those that are new to it get ids that none of its steps ever had."""
        return Recipe(counted=self.counted, steps=tuple(steps), variants=self.variants, variant=self.variant)

    def place_of(self, step: int) -> int | None:
        """Where the step with an id stands; None where there is none."""
        return next((k for k, one in enumerate(self.steps) if one.id == step), None)

    @property
    def order(self) -> list[tuple[Phase, int]]:
        """Phase and rank of every step; of one of an unknown kind those of the step before it."""
        found: list[tuple[Phase, int]] = []
        for step in self.steps:
            found.append(found[-1] if found and isinstance(step, UnknownStep) else (step.phase, step.rank))
        return found

    def seconds(self, triangles: int) -> float:
        """What all its steps take on so many triangles when none is remembered, roughly."""
        return triangles * sum(step.seconds_a_triangle for step in self.steps if step.on)


@dataclass(frozen=True)
class Run:
    """What a recipe made: the parts at its end and what each step changed."""

    parts: tuple[Part, ...]
    receipts: tuple[Receipt, ...]
    factor: float
    """From figure to print, in the edition it was run for."""
    placed: FigureMM
    """Height that an edition's height is of: of what was brought in and set down."""


class Memory(Protocol):
    """Keeps step results, and what checks measured, by key; what cannot be read whole is treated as absent."""

    def recall(self, key: str, receipt: type[Receipt]) -> StepResult | None: ...

    def keep(self, key: str, result: StepResult) -> None: ...

    def recall_measured(self, key: str) -> bytes | None: ...

    def holds_measured(self, key: str) -> bool: ...

    def keep_measured(self, key: str, measured: bytes) -> None: ...


class NoMemory:
    """Computes everything anew."""

    def recall(self, key: str, receipt: type[Receipt]) -> StepResult | None:
        return None

    def keep(self, key: str, result: StepResult) -> None:
        return None

    def recall_measured(self, key: str) -> bytes | None:
        return None

    def holds_measured(self, key: str) -> bool:
        # Nothing is kept, so that nothing has to be measured ahead of its use.
        return True

    def keep_measured(self, key: str, measured: bytes) -> None:
        return None


def recipe_hash(recipe: Recipe) -> str:
    """How the figure is made, as SHA-256 of the recipe's canonical JSON."""
    return stored_recipe_hash(recipe.model_dump(mode="json"))


def stored_recipe_hash(held: dict[str, Any]) -> str:
    """The same of a recipe as it was kept, of whatever version it is (plain JSON values). Nothing is made of how many
    steps it once had."""
    return _sha256({name: value for name, value in held.items() if name != "counted"})


def step_key(step: Step, parts: tuple[Part, ...], context: Context) -> str:
    """The cache key: kind and parameters, inputs, declared context, and the source and libraries that do the step."""
    said = {name: plain_value(value) for name, value in context.declared.items()}
    inputs = [
        (
            part.name,
            part.mesh.hash,
            part.stance.model_dump(mode="json"),
            plain_value(part.supports),
            part.source,
            plain_value(part.captured),
            part.overlaps_left,
            part.frame,
            plain_value(part.openings),
            plain_value(part.seams),
            plain_value(part.keys),
            part.title,
        )
        for part in parts
    ]
    # What a step does is the same whatever its id, but for the names of pieces.
    known = step.model_dump(mode="json", exclude=None if step.divides else {"id"})
    return _sha256([known, inputs, said, module_digest(type(step).__module__)])


def run_recipe(
    recipe: Recipe,
    sources: Mapping[str, Source],
    edition: Edition,
    memory: Memory | None = None,
    progress: Progress = no_progress,
    bench: Bench = DEFAULT_BENCH,
) -> Run:
    """Run every step in order; ``progress`` hears the share done.

    Steps may declare ``sources`` (meshes, scans and pictures by hash), ``read_as``, the step that brought the first of
    them in, paths of ``setup``, which the ``bench`` has for the part (``setup.setting.layer``), ``size``, the one that
    was asked for, and ``factor``, which follows from it,
    and ``mirrored``, whether what is made will be. The factor is fixed by the height of what was brought
    in and set down; later steps do not change it. Earlier steps may have set ``show_side`` and made room for
    ``inserts``.

    Raises UnknownOnBench, and KeyError when a step reads what it did not declare.
    """
    memory = memory or NoMemory()
    setups = PartSetups(bench, edition)
    context: dict[str, Any] = {
        "sources": sources,
        "read_as": recipe.steps[0] if recipe.steps else None,
        "factor": 1.0,
        "setup": setups.usual,
        "size": AskedSize(height=edition.height, factor=edition.factor),
        "show_side": None,
        "mirrored": edition.form.mirrored,
        "inserts": (),
    }
    parts: tuple[Part, ...] = ()
    receipts = []
    placed = FigureMM(0)
    ahead = recipe.seconds(1)
    done = 0.0
    for number, step in enumerate(recipe.steps):
        begin, span = done / max(ahead, 1e-12), step.seconds_a_triangle / max(ahead, 1e-12)
        step_says = f"step {number + 1} of {len(recipe.steps)}: {step.kind.replace('-', ' ')}"
        progress(begin, step_says)
        done += step.seconds_a_triangle * step.on
        if not step.on:
            receipts.append(step.makes(idle=True, not_done="switched off"))
            continue
        seen = Context(_seen_by(step, context), step.needs, progress_within(progress, begin, span, step_says))
        result = _done(step, parts, seen, setups, memory)
        parts = result.parts
        receipts.append(result.receipt)
        context.update(step.context_after())
        context["inserts"] += result.receipt.inserts
        if step.places_figure:
            placed = _height(parts)
            context["factor"] = factor_for(edition, placed)
    return Run(parts, tuple(receipts), context["factor"], placed)


def _seen_by(step: Step, context: Mapping[str, Any]) -> dict[str, Any]:
    """The context with only those sources that a step names, or the first of all where it reads as that is read."""
    named = blobs_named(step) | (blobs_named(context["read_as"]) if "read_as" in step.needs else frozenset())
    return {**context, "sources": {name: held for name, held in context["sources"].items() if name in named}}


def _done(step: Step, parts: tuple[Part, ...], context: Context, setups: PartSetups, memory: Memory) -> StepResult:
    """A step, done or remembered; part by part where it works so, for then one changed part is done alone."""
    if not step.by_part:
        return _remembered(step, step_key(step, parts, context), lambda: step.run(parts, context), memory)
    done, receipts = [], []
    meant = names_meant(step.scope, [part.name for part in parts])
    for part in parts:
        if part.name not in meant:
            done.append(part)
            continue

        seen = context.with_setup(setups.of(part.name), step.needs)

        def change(part: Part = part, seen: Context = seen) -> StepResult:
            return StepResult(*step.divide(part, seen))

        result = _remembered(step, step_key(step, (part,), seen), change, memory)
        done += result.parts
        receipts.append(result.receipt)
    if not receipts:
        return StepResult(parts, step.makes(idle=True, not_done=f"there is no part {step.scope or 'at all'}"))
    return StepResult(tuple(done), step.makes.together(receipts))


def _remembered(step: Step, key: str, do: Callable[[], StepResult], memory: Memory) -> StepResult:
    result = memory.recall(key, step.makes)
    if result is None:
        result = do()
        memory.keep(key, result)
    return result


def _height(parts: tuple[Part, ...]) -> FigureMM:
    corners = [bounds(part.mesh)[:, 2] for part in parts]
    return FigureMM(max(high for _, high in corners) - min(low for low, _ in corners))


def plain_value(value: Any) -> Any:
    """A value as JSON has it, to make a key of: meshes, scans and pictures by their hashes."""
    if isinstance(value, Mesh | Scan | Picture):
        return value.hash
    if isinstance(value, Mapping):
        return {name: plain_value(inner) for name, inner in value.items()}
    if isinstance(value, tuple | list):
        return [plain_value(inner) for inner in value]
    return value.model_dump(mode="json") if isinstance(value, BaseModel) else value


def measured_key(*made_of: object) -> str:
    """Under what a measure of some values (plain ones, hashes of meshes) is kept, which this core took."""
    return _sha256([*made_of, core_digest()])


def _sha256(value: Any) -> str:
    text = json.dumps(value, sort_keys=True, separators=(",", ":"), allow_nan=False)
    return hashlib.sha256(text.encode()).hexdigest()
