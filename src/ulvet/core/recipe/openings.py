"""Openings that steps have cut into spaces of a part."""

from pydantic import BaseModel, ConfigDict

from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.recipe.stance import Vector

__all__ = ["Opening"]


class Opening(BaseModel):
    """A round hole from the skin through the wall into a space.

    ``point`` is the middle of its mouth on the skin, figure mm, ``way`` points outward along it, ``wall`` is what it
    goes through where that is thinnest.
    """

    model_config = ConfigDict(frozen=True)

    point: tuple[FigureMM, FigureMM, FigureMM]
    way: Vector
    diameter: PrintMM
    wall: PrintMM
    step: int
    """Id of the step that cut it."""
    plugged: bool = False
    """Whether a plug goes into it after the wash."""
