"""An edition: the size and process one figure is made for."""

from pydantic import BaseModel, ConfigDict, Field, model_validator

from ulvet.core.lengths import FigureMM, PrintMM

__all__ = ["Edition", "factor_for"]


class Edition(BaseModel):
    """Size as overall height or as a factor, never both; 1 to 1 when neither is given."""

    model_config = ConfigDict(frozen=True)

    height: PrintMM | None = Field(default=None, gt=0, le=10_000)
    factor: float | None = Field(default=None, gt=0, le=100_000, allow_inf_nan=False)
    printer: str = "lantern-6"
    material: str = "tough-grey"

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
