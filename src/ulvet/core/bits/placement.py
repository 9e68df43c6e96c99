"""Where a bit or a form stands in a figure."""

from collections.abc import Iterator, Sequence

import numpy as np
from pydantic import Field, model_validator

from ulvet.core.bits.seat import Seat, SeatLanding, find_seat
from ulvet.core.geometry.mesh import Mesh, Points, bounds
from ulvet.core.lengths import FigureMM
from ulvet.core.recipe.anchors import frame_of
from ulvet.core.recipe.receipt import Count, Receipt
from ulvet.core.recipe.step import Number, Part, Phase, Sentence, Step, StepResult

__all__ = ["PlacedReceipt", "PlacedStep"]

_MOST_COPIES = 200
"""Copies one step may stand in a figure (bench default)."""
_OVER = np.array([-1.0, 1, 1])
"""Across the middle, x = 0."""


class PlacedReceipt(Receipt):
    """Triangles of what was placed, and how many parts it became."""

    triangles: Count = 0
    parts: Count = 0


class PlacedStep(Step):
    """A step that stands a mesh in the figure as a part of its own.

    It is grown, tipped, turned about the upright, then stood at a place; or on a point of another part, looking the way
    the skin looks there and sunk into it, so that it follows when that part changes. Copies go round the upright
    through the origin. A pair adds its mirror image across the middle, x = 0. What is handed is never mirrored: of a
    pair it is only moved there, and stays the right way round.
    """

    makes = PlacedReceipt
    phase = Phase.SOURCE
    rank = 1
    by_part = False

    name: str = Field(min_length=1, max_length=80)
    x: FigureMM = FigureMM(0)
    y: FigureMM = FigureMM(0)
    z: FigureMM = FigureMM(0)
    """Where the middle of its underside stands; with ``rests_on``, how far it is moved from there."""
    turn: float = Field(default=0.0, ge=-360, le=360)
    """Degrees about the way it stands."""
    tip: float = Field(default=0.0, ge=-360, le=360)
    """Degrees it is tipped forward, about the axis across, before it is turned."""
    roll: float = Field(default=0.0, ge=-360, le=360)
    """Degrees it is rolled sideways, about the axis that goes deep, before it is tipped."""
    mirrored: bool = False
    group: str = Field(default="", max_length=80)
    """By what it is switched on and off with others."""
    grow: float = Field(default=1.0, gt=0, le=1_000)
    rests_on: Seat | None = None
    sunk: FigureMM = Field(default=FigureMM(0), ge=-1e4, le=1e4)
    """How deep it stands in what it rests on."""
    copies: int = Field(default=1, ge=1, le=_MOST_COPIES)
    pair: bool = False
    handed: bool = False

    @model_validator(mode="after")
    def _in_reach(self) -> "PlacedStep":
        if max(abs(self.x), abs(self.y), abs(self.z)) > 1e5:
            raise ValueError("A bit has to stand within 100 m of the figure.")
        return self

    def stood(self, parts: tuple[Part, ...], mesh: Mesh, source: str) -> StepResult:
        """The parts with a mesh, standing on the ground over the origin, added as the step says."""
        foot, axes = np.zeros(3), np.eye(3)
        if self.rests_on is not None:
            landing = find_seat(self.rests_on, parts)
            if not isinstance(landing, SeatLanding):
                return StepResult(parts, PlacedReceipt(idle=True, lost=landing, not_done="nothing to rest on"))
            foot, axes = landing.place, landing.axes
        taken = [part.name for part in parts]
        added = []
        for one, frame in self._copies(mesh, foot, axes):
            name = _free_name(self.name, taken)
            taken.append(name)
            added.append(Part(name, one, source=source, frame=frame_of(frame)))
        return StepResult((*parts, *added), PlacedReceipt(triangles=len(mesh.faces), parts=len(added)))

    def _copies(self, mesh: Mesh, foot: Points, axes: Points) -> Iterator[tuple[Mesh, Points]]:
        """It and its copies, each with the corners (4, 3) of its frame, which go through all that its vertices do."""
        standing = axes.T @ _about(2, self.turn) @ _about(0, self.tip) @ _about(1, self.roll)
        place = foot - axes[2] * self.sunk + np.array([self.x, self.y, self.z], float)
        points = np.concatenate([mesh.vertices, _box_corners(mesh)])
        flipped = self.mirrored and not self.handed
        first = (points * _OVER if flipped else points) @ standing.T * self.grow + place
        made = [(first, flipped)]
        if self.pair:
            ends = first[:, 0].min() + first[:, 0].max()
            made.append((first - [ends, 0, 0], flipped) if self.handed else (first * _OVER, not flipped))
        for about in (_about(2, 360 * k / self.copies) for k in range(self.copies)):
            for moved, over in made:
                turned = moved if self.copies == 1 else moved @ about.T
                yield Mesh(turned[:-4], mesh.faces[:, :: -1 if over else 1]), turned[-4:]

    def said(self, receipt: Receipt) -> Sentence:
        """Its sentence, or by its name why it is not there."""
        return (f"{self.name}: {receipt.not_done}.",) if receipt.idle else self.sentence(receipt)

    def where(self) -> Sentence:
        """Its place in words, with numbers to edit."""
        said: Sentence = (
            Number(field="x", value=self.x, unit="mm"),
            " across, ",
            Number(field="y", value=self.y, unit="mm"),
            " deep, ",
            Number(field="z", value=self.z, unit="mm"),
            " up",
        )
        if self.rests_on is not None:
            sunk = Number(field="sunk", value=self.sunk, unit="mm")
            said = ("where it was put on the skin, sunk ", sunk, ", moved ", *said)
        said = (*said, ", turned ", Number(field="turn", value=self.turn, unit="°"))
        for field, word in (("tip", "tipped"), ("roll", "rolled")):
            if value := getattr(self, field):
                said = (*said, f", {word} ", Number(field=field, value=value, unit="°"))
        if self.mirrored:
            said = (*said, ", handed and not mirrored" if self.handed else ", mirrored")
        if self.group:
            said = (*said, f", in the group {self.group}")
        if self.pair:
            said = (*said, ", and its pair" + (" the right way round" if self.handed else ""))
        return said if self.copies == 1 else (*said, f", {self.copies} times round the upright")


def _about(axis: int, degrees: float) -> Points:
    """A turn about one of the three axes."""
    angle, (a, b) = np.radians(degrees), ((axis + 1) % 3, (axis + 2) % 3)
    turn = np.eye(3)
    turn[a, a] = turn[b, b] = np.cos(angle)
    turn[b, a] = np.sin(angle)
    turn[a, b] = -turn[b, a]
    return turn


def _box_corners(mesh: Mesh) -> Points:
    """The lowest corner of its box and the three next to it (4, 3); none are at one place."""
    low, high = bounds(mesh)
    size = high - low
    return low + np.concatenate([np.zeros((1, 3)), np.diag(np.where(size > 0, size, 1))])


def _free_name(name: str, taken: Sequence[str]) -> str:
    free, again = name, 1
    while free in taken:
        again += 1
        free = f"{name} {again}"
    return free
