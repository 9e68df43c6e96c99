"""The colour plan as a step of the record: regions, and schemes that give roles their stacks. It changes no mesh."""

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, model_validator

from ulvet.core.geometry.mesh import Points, bounds
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.lineage import is_piece_of
from ulvet.core.recipe.anchors import Anchor, LostAnchor, anchors_on_faces
from ulvet.core.recipe.receipt import Count, Receipt
from ulvet.core.recipe.step import Context, Part, Phase, Sentence, Step, StepResult, plural
from ulvet.core.stations import Station

__all__ = ["Coat", "ColourPlan", "Decal", "Region", "RoleColour", "Scheme", "is_meant", "places_on"]

MOST_REGIONS = 120
"""Regions of a figure (bench default)."""
_ON_PIECE = 0.005
"""Share of a piece's longest side within which a place lies on it that was touched before the cut (bench default)."""
Role = Annotated[str, Field(min_length=1, max_length=60)]
CoatKind = Literal["ground", "base", "wash", "highlight", "clear", "weathering"]


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


class Decal(_Value):
    """A decal, where its middle lies and how large it is printed."""

    name: Role
    part: str = Field(max_length=400)
    """Lineage of the part it is on, or was before that was cut."""
    place: Anchor
    wide: PrintMM = Field(gt=0, le=500)
    high: PrintMM = Field(gt=0, le=500)


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
    """How many regions there are; what found no place is lost by its number, first of all regions, then of decals."""

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
    decals: tuple[Decal, ...] = Field(default=(), max_length=MOST_REGIONS)
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
        return {"regions": self.regions, "decals": self.decals, "brush": self.brush}

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        places = [(region.places, region.part) for region in self.regions]
        places += [((decal.place,), decal.part) for decal in self.decals]
        lost: list[LostAnchor] = []
        for number, (of_it, on) in enumerate(places):
            missed = [places_on(of_it, on, part)[2] for part in parts if is_meant(on, part.name)]
            if of_it and missed and all(len(one) == len(of_it) for one in missed):
                nearest = min((one[0] for one in missed), key=lambda one: one.away)
                lost.append(nearest.model_copy(update={"number": number}))
        return StepResult(parts, ColourPlanReceipt(regions=len(self.regions), lost=tuple(lost)))

    def sentence(self, receipt: Receipt) -> Sentence:
        decals = f" and {plural(len(self.decals), 'decal')}" if self.decals else ""
        if not self.regions:
            return (f"{plural(len(self.decals), 'decal')} to put on." if decals else "Nothing is to be painted yet.",)
        meant = self.meant
        scheme = f", scheme {meant.name}" if meant else ""
        return (f"{plural(len(self.regions), 'region')} in {plural(len(self.roles), 'role')}{decals}{scheme}.",)


def is_meant(on: str, name: str) -> bool:
    """Whether what was put on a part is on the part ``name``: on itself, on one of its pieces, or on any."""
    return on in ("", name) or is_piece_of(name, on)


def places_on(
    places: tuple[Anchor, ...], on: str, part: Part
) -> tuple[Points, NDArray[np.int64], tuple[LostAnchor, ...]]:
    """As ``anchors_on_faces``; on a piece of what they were put on, only those that it has at that very place."""
    points, faces, lost = anchors_on_faces(places, part.mesh, part.name, part.source)
    if on in ("", part.name) or not len(faces):
        return points, faces, lost
    limit = _ON_PIECE * float(np.ptp(bounds(part.mesh), axis=0).max())
    gone = {one.number for one in lost}
    landed = [number for number in range(len(places)) if number not in gone]
    away = np.linalg.norm(points - [places[number].point for number in landed], axis=1)
    stay = away <= limit
    missed = [
        LostAnchor(
            number=number, part=part.name, nearest=Anchor.at(point, None, part.source), away=FigureMM(far),
            limit=FigureMM(limit),
        )
        for number, point, far, keeps in zip(landed, points, away, stay, strict=True)
        if not keeps
    ]  # fmt: skip
    return points[stay], faces[stay], (*lost, *missed)
