"""The colour plan as a step of the record: regions, and schemes that give roles their stacks. It changes no mesh."""

from typing import Annotated, Any, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from ulvet.core.lengths import FigureMM
from ulvet.core.recipe.anchors import Anchor, LostAnchor, project_anchors
from ulvet.core.recipe.step import Context, Count, Part, Phase, Receipt, Sentence, Step, StepResult, plural
from ulvet.core.stations import Station

__all__ = ["Coat", "ColourPlan", "Region", "RoleColour", "Scheme"]

MOST_REGIONS = 120
"""Regions of a figure (bench default)."""
Role = Annotated[str, Field(min_length=1, max_length=60)]
CoatKind = Literal["ground", "base", "wash", "highlight", "clear"]


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Region(_Value):
    """What of a figure has one role: grown from places to natural edges, the round about them, a band of heights, or a
    whole part. A later region goes over an earlier one."""

    role: Role
    grows: Literal["edges", "round", "band", "part"] = "edges"
    part: str = Field(default="", max_length=400)
    """Lineage of the part it is on; empty for all."""
    places: tuple[Anchor, ...] = Field(default=(), max_length=200)
    fold: float = Field(default=30.0, ge=5, le=170)
    """Degrees by which a surface turns at an edge that stops it."""
    within: FigureMM = Field(default=FigureMM(2.0), gt=0, le=10_000)
    """How far from a place the round reaches."""
    low: FigureMM = FigureMM(0.0)
    high: FigureMM = FigureMM(0.0)
    """Heights of the band, from the figure's origin."""
    mirrored: bool = False
    """Whether it grows from the places mirrored left for right as well."""

    @model_validator(mode="after")
    def _has_somewhere(self) -> "Region":
        if self.grows in ("edges", "round") and not self.places:
            raise ValueError("A region that grows begins somewhere: pick a place on the figure.")
        if self.grows == "band" and self.high <= self.low:
            raise ValueError("A band ends above where it begins: give a greater height.")
        if self.grows == "part" and not self.part:
            raise ValueError("A region that is a part names it.")
        return self


class Coat(_Value):
    """One coat of a stack, or several alike: what, how thin, on how much of the area, and how long until the next."""

    kind: CoatKind
    paint: str = Field(min_length=1, max_length=60)
    """Id of a paint on the bench."""
    drops: dict[str, Annotated[float, Field(gt=0, le=10_000)]] = Field(default={}, max_length=12)
    """Of a mix, its paints by id; ``paint`` is then what the mix is called."""
    coats: int = Field(default=1, ge=1, le=20)
    thinned: float = Field(default=0.0, ge=0, le=0.98)
    """Share of thinner in it."""
    share: float = Field(default=1.0, gt=0, le=1)
    """Of the area it goes on: recesses of a wash, edges of a highlight."""
    tool: Literal["brush", "airbrush", "spray"] = "brush"
    wait_min: float | None = Field(default=None, ge=0, le=100_000)
    """Minutes until the next coat; None is what the paint asks for."""


class RoleColour(_Value):
    """What a role is painted with, from the ground up; nothing where it stays bare."""

    role: Role
    coats: tuple[Coat, ...] = Field(default=(), max_length=24)
    bare: bool = False


class Scheme(_Value):
    """Colours of all roles, tried beside other schemes before any paint is opened."""

    name: str = Field(min_length=1, max_length=60)
    roles: tuple[RoleColour, ...] = Field(default=(), max_length=MOST_REGIONS)

    @model_validator(mode="after")
    def _each_once(self) -> "Scheme":
        if len({one.role for one in self.roles}) < len(self.roles):
            raise ValueError("A role has one stack in a scheme: leave the other out.")
        return self

    def of(self, role: str) -> RoleColour | None:
        """What a role is painted with; None where nobody has said."""
        return next((one for one in self.roles if one.role == role), None)


class ColourPlanReceipt(Receipt):
    """Regions that found their places, and those that did not."""

    regions: Count = 0


class ColourPlan(Step):
    """Regions of the figure by role, schemes of colours, and which of them is meant."""

    station: ClassVar[Station] = Station.FINISH
    once: ClassVar[bool] = True
    by_part: ClassVar[bool] = False
    phase: ClassVar[Phase] = Phase.FINISH
    makes: ClassVar[type[Receipt]] = ColourPlanReceipt

    kind: Literal["colour-plan"] = "colour-plan"
    regions: tuple[Region, ...] = Field(default=(), max_length=MOST_REGIONS)
    schemes: tuple[Scheme, ...] = Field(default=(), max_length=20)
    scheme: str = Field(default="", max_length=60)
    """Name of the scheme that is meant; the first where it is empty or gone."""
    brush: float = Field(default=4.0, ge=0.2, le=60)
    """Width of the brush that is to reach everywhere, print mm."""
    painted_before: bool = False
    """Whether all parts are painted before they are put together."""
    supports_cured: bool = False
    """Whether supports are taken off after the cure."""
    first: tuple[Annotated[str, Field(max_length=400)], ...] = Field(default=(), max_length=400)
    """Lineages of parts whose hidden sides are painted before they are put on."""

    @property
    def meant(self) -> Scheme | None:
        """The scheme that is meant."""
        return next((one for one in self.schemes if one.name == self.scheme), next(iter(self.schemes), None))

    @property
    def roles(self) -> tuple[str, ...]:
        """Roles of regions, in the order in which they first come."""
        return tuple(dict.fromkeys(region.role for region in self.regions))

    def context_after(self) -> dict[str, Any]:
        return {"regions": self.regions, "brush": self.brush}

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        lost: list[LostAnchor] = []
        for region in self.regions:
            on = [part for part in parts if region.part in ("", part.name)]
            missed = [project_anchors(region.places, part.mesh, part.name, part.source)[1] for part in on]
            if region.places and all(len(one) == len(region.places) for one in missed):
                lost += missed[0] if missed else []
        return StepResult(parts, ColourPlanReceipt(regions=len(self.regions), lost=tuple(lost)))

    def sentence(self, receipt: Receipt) -> Sentence:
        if not self.regions:
            return ("Nothing is to be painted yet.",)
        meant = self.meant
        scheme = f", scheme {meant.name}" if meant else ""
        return (f"{plural(len(self.regions), 'region')} in {plural(len(self.roles), 'role')}{scheme}.",)
