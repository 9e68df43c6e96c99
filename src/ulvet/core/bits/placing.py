"""Where a bit or a form stands in a figure."""

from collections.abc import Sequence

import numpy as np
from pydantic import Field, model_validator

from ulvet.core.lengths import FigureMM
from ulvet.core.mesh import Mesh, Points
from ulvet.core.recipe.anchors import Anchor, project_anchors
from ulvet.core.recipe.step import Number, Part, Phase, Receipt, Sentence, Step, StepResult
from ulvet.core.stance import turn_to

__all__ = ["PlacedStep"]

_MOST_COPIES = 200


class PlacedStep(Step):
    """A step that stands a mesh in the figure as a part of its own.

    It is grown, tipped, turned about the upright, then stood at a place; or on a point of another part, looking the way
    the skin looks there and sunk into it, so that it follows when that part changes. Copies go round the upright
    through the origin. A pair adds its mirror image across the middle, x = 0. What is handed is never mirrored: of a
    pair it is only moved there, and stays the right way round.
    """

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
    rests_on: Anchor | None = None
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
        up, foot, lost = np.array([0.0, 0, 1]), np.zeros(3), ()
        if self.rests_on is not None:
            tries = [project_anchors((self.rests_on,), part.mesh, part.name, part.source) for part in parts]
            landed = [points[0] for points, _ in tries if len(points)]
            if not landed:
                missed = tries[0][1] if tries else ()
                return StepResult(parts, Receipt(idle=True, lost=missed, not_done="nothing to rest on"))
            point = np.array(self.rests_on.point)
            foot = min(landed, key=lambda at: float(np.linalg.norm(at - point)))
            up = np.array(self.rests_on.normal or (0, 0, 1), float)
        standing = turn_to(up).T @ _about(2, self.turn) @ _about(0, self.tip) @ _about(1, self.roll)
        if self.mirrored and not self.handed:
            mesh = _mirrored(mesh)
        place = foot - up * self.sunk + np.array([self.x, self.y, self.z], float)
        first = Mesh(mesh.vertices @ standing.T * self.grow + place, mesh.faces)
        made = [first]
        if self.pair:
            made.append(_moved_over(first) if self.handed else _mirrored(first))
        around = [_about(2, 360 * k / self.copies) for k in range(self.copies)]
        meshes = [
            Mesh(one.vertices @ about.T, one.faces) if k else one for k, about in enumerate(around) for one in made
        ]
        taken = [part.name for part in parts]
        added = []
        for one in meshes:
            name = _free_name(self.name, taken)
            taken.append(name)
            added.append(Part(name, one, source=source))
        counts = {"triangles": len(mesh.faces), "parts": len(added)}
        return StepResult((*parts, *added), Receipt(counts=counts, lost=lost))

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


def _mirrored(mesh: Mesh) -> Mesh:
    return Mesh(mesh.vertices * [-1, 1, 1], mesh.faces[:, ::-1])


def _moved_over(mesh: Mesh) -> Mesh:
    """As far on the other side of the middle, by its box."""
    middle = (mesh.vertices[:, 0].min() + mesh.vertices[:, 0].max()) / 2
    return Mesh(mesh.vertices - [2 * middle, 0, 0], mesh.faces)


def _free_name(name: str, taken: Sequence[str]) -> str:
    free, again = name, 1
    while free in taken:
        again += 1
        free = f"{name} {again}"
    return free
