"""Where a part was cut from others, and the keys that were set into the joint there."""

from typing import Literal

from pydantic import BaseModel, ConfigDict

from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.recipe.stance import Vector

__all__ = ["KeyRole", "KeyShape", "MadeKey", "Seam"]

Point = tuple[FigureMM, FigureMM, FigureMM]

KeyShape = Literal["round", "flat-sided", "square", "tapered"]
"""Of a key's outline; a tapered one is round."""
KeyRole = Literal["peg", "socket", "pocket", "bore"]
"""A peg stands out; a socket takes a peg or a pin; a pocket takes a magnet; a bore takes a rod."""


class Seam(BaseModel):
    """The plane of a cut as one part has it: a point of it, figure mm, and the way out of the part there."""

    model_config = ConfigDict(frozen=True)

    step: int
    """Id of the step that cut there."""
    point: Point
    normal: Vector


class MadeKey(BaseModel):
    """One key as one part of a joint has it.

    ``point`` is the middle of its outline in the plane of the joint, figure mm; ``way`` is the way out of this part
    along it, ``across`` the direction from which the turn of its outline is counted.
    """

    model_config = ConfigDict(frozen=True)

    step: int
    """Id of the step that made it."""
    cut: int
    """Id of the step that cut the joint."""
    number: int
    """Which of the keys of that joint it is, from 0."""
    role: KeyRole
    shape: KeyShape
    point: Point
    way: Vector
    across: Vector
    size: PrintMM
    """Width of its own outline: of a peg that of the peg, of a hole that of the hole."""
    deep: PrintMM
    """How far it stands out, or goes in."""
    gap: PrintMM
    """Air per side it was made for."""
    glued: bool
    """Whether it was made to be glued."""
    wall: PrintMM
    """Least wall about it; of a peg that of its socket."""
