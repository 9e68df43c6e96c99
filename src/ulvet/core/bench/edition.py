"""An edition: the size, process and use one figure is made for."""

from enum import StrEnum

from pydantic import BaseModel, ConfigDict, Field, model_validator

from ulvet.core.lengths import FigureMM, PrintMM

__all__ = ["AskedSize", "Edition", "Use", "factor_for"]


class Use(StrEnum):
    """What a figure goes through: moved about on a table, stood and dusted, or handled as a toy or prop."""

    TABLETOP = "tabletop"
    DISPLAY = "display"
    PLAY = "play"

    @property
    def push(self) -> float:
        """Newtons that whatever sticks out should bear at its tip (bench default)."""
        return {Use.TABLETOP: 1.0, Use.DISPLAY: 5.0, Use.PLAY: 15.0}[self]


class AskedSize(BaseModel):
    """The size that was asked for: an overall height, a factor, or neither, which is 1 to 1."""

    model_config = ConfigDict(frozen=True)

    height: PrintMM | None
    factor: float | None


class Edition(BaseModel):
    """Size as overall height or as a factor, never both; 1 to 1 when neither is given."""

    model_config = ConfigDict(frozen=True)

    height: PrintMM | None = Field(default=None, gt=0, le=10_000)
    factor: float | None = Field(default=None, gt=0, le=100_000, allow_inf_nan=False)
    printer: str = "lantern-6"
    material: str = "tough-grey"
    use: Use = Use.TABLETOP
    sanding: PrintMM = Field(default=PrintMM(0.0), ge=0, le=1)
    """What sanding takes off a side that it gets to."""

    @model_validator(mode="after")
    def _one_size(self) -> "Edition":
        if self.height is not None and self.factor is not None:
            raise ValueError("Give the height or the factor, not both: one follows from the other.")
        return self


def factor_for(edition: Edition, height: FigureMM) -> float:
    """The factor at which a figure ``height`` tall is printed in this edition."""
    if edition.height is not None:
        return edition.height / height if height > 0 else 1.0
    return edition.factor if edition.factor is not None else 1.0
