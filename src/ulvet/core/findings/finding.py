"""What a check says: what is wrong, where, how much, against which limit, why it matters, what to do."""

from enum import StrEnum
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, JsonValue, ValidationError

from ulvet.core.bench.edition import Edition
from ulvet.core.bench.item import OriginKind
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.at_places import StepAtPlaces
from ulvet.core.recipe.step import Step
from ulvet.core.recipe.union import AnyStep
from ulvet.core.stations import Station

__all__ = [
    "MOST_PLACES",
    "AddSteps",
    "Because",
    "Change",
    "Cost",
    "DecidePin",
    "Finding",
    "Line",
    "Place",
    "ReadSourceAs",
    "Remedy",
    "SetEdition",
    "SetStep",
    "Severity",
    "Unseen",
    "places_of",
    "remedy_adding",
]

MOST_PLACES = 100
"""Places that one finding names, enough for a chart to show where it is (bench default)."""
Vector = tuple[float, float, float]
Line = tuple[float, float, float, float, float, float]
"""From a point to another, figure mm."""


class Severity(StrEnum):
    """How much a finding matters: it stops a release, wants care, or is worth knowing."""

    STOP = "stop"
    CAUTION = "caution"
    NOTE = "note"


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True)


class Place(_Value):
    """A place on a part: a point in figure mm, its outward normal if it has one, and how far the place reaches."""

    point: Vector
    normal: Vector | None = None
    along: Vector | None = None
    """Direction in which the place is longest; a section is drawn along it."""
    extent: PrintMM | None = None
    shows: bool | None = None
    """Whether it will be seen on the print; None where that was not asked."""


class Cost(_Value):
    """What a remedy costs, as far as it can be said before it is applied; None where it cannot."""

    resin_ml: float | None = None
    money: float | None = None
    print_seconds: float | None = None
    says: str = ""
    """What the numbers do not: looks, strength, what is not known."""


class AddSteps(_Value):
    """Append steps to the recipe; ``here``, those that name ``places`` are meant for the place that is looked at."""

    does: Literal["add-steps"] = "add-steps"
    steps: tuple[AnyStep, ...]
    here: bool = False

    def at(self, where: Place) -> "AddSteps":
        """The same for another place."""
        steps = (step.moved_to(where.point) if isinstance(step, StepAtPlaces) else step for step in self.steps)
        return AddSteps(steps=tuple(steps), here=True)


class SetStep(_Value):
    """Set fields of the step of this kind with an id.

    Without an id it is the last of its kind, which is added where there is none.
    """

    does: Literal["set-step"] = "set-step"
    kind: str
    step: int | None = None
    values: dict[str, JsonValue]


class SetEdition(_Value):
    """Make the figure for another size, printer or material."""

    does: Literal["set-edition"] = "set-edition"
    edition: Edition


class ReadSourceAs(_Value):
    """Take a source's numbers as another unit, or another axis of it as up."""

    does: Literal["read-source-as"] = "read-source-as"
    unit: str | None = None
    up: str | None = None


class DecidePin(_Value):
    """Say what is done about something that went wrong in a proof; the figure stays as it is."""

    does: Literal["decide-pin"] = "decide-pin"
    proof: int
    pin: int
    decision: Literal["reprint", "repair", "leave"]


Change = Annotated[AddSteps | SetStep | SetEdition | ReadSourceAs | DecidePin, Field(discriminator="does")]
"""What a remedy does to the recipe or its edition, or decides about a proof."""


class Because(_Value):
    """What a change is made because of: a pin of a proof."""

    proof: int
    pin: int


class Remedy(_Value):
    """One way out of a finding, ready to apply."""

    label: str
    change: Change
    cost: Cost = Cost()
    because: Because | None = None


def remedy_adding(label: str, cost: Cost, kind: type[Step], here: bool = False, **fields: Any) -> list[Remedy]:
    """A remedy that adds one step with these fields; none where the step refuses them, as a wall thicker than it makes,
    for a remedy that cannot be applied is none."""
    try:
        step = kind(**fields)
    except ValidationError:
        return []
    return [Remedy(label=label, change=AddSteps(steps=(step,), here=here), cost=cost)]


class Finding(_Value):
    """One thing that is wrong or undecided. ``code`` is kebab-case and listed in docs/findings.md."""

    code: str
    station: Station
    severity: Severity
    part: str
    title: str
    at: str = ""
    """The name of its place, with which the title ends; "" where it has none."""
    measured: float
    limit: float
    unit: str
    limit_origin: OriginKind = OriginKind.BENCH_DEFAULT
    count: int = 1
    """How many edges, faces, shells, places or islands the finding gathers."""
    where: Place | None
    """None where it is of the figure as a whole, or of what is no longer there."""
    places: tuple[Place, ...] = ()
    """Every place it gathers, the worst first, at most a hundred."""
    lines: tuple[Line, ...] = ()
    """What it is made of, to be drawn on the chart; of very many some."""
    why: str
    accepted: bool = False
    """Whether the record lets it be, with a reason."""
    remedies: tuple[Remedy, ...] = ()


def places_of(finding: Finding) -> tuple[Place, ...]:
    """Every place of a finding, the worst first; none where it is of the whole."""
    return finding.places or ((finding.where,) if finding.where else ())


class Unseen(_Value):
    """What a station could not look at; ``why`` is a sentence for the user. It is not the same as nothing found."""

    station: Station
    part: str
    why: str
