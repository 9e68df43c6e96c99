"""An edition: the size, setting, form and use one figure is made for."""

from enum import StrEnum
from typing import Any

from pydantic import BaseModel, ConfigDict, Field, model_validator

from ulvet.core.lengths import FigureMM, PrintMM

__all__ = ["AskedSize", "Edition", "Form", "Use", "brought_forward", "factor_for"]


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


class Form(BaseModel):
    """What of a recipe an edition leaves out, and whether it is made mirrored. What is left out is skipped, not
    deleted."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    hollow: bool = True
    """Hollowed where the recipe hollows; else solid."""
    parted: bool = True
    """In the parts the recipe cuts it into; else whole."""
    pockets: bool = True
    """With the pockets the recipe cuts for magnets and other bought parts; else closed."""
    mirrored: bool = False

    @property
    def says(self) -> str:
        """What is unlike the recipe, in words; empty where nothing is."""
        said = [
            ("" if self.hollow else "solid"),
            ("" if self.parted else "whole"),
            ("" if self.pockets else "without pockets"),
            ("mirrored" if self.mirrored else ""),
        ]
        return ", ".join(word for word in said if word)


class Edition(BaseModel):
    """What a figure is made for: its size as overall height or as a factor, never both and 1 to 1 when neither is
    given; its setting, variant, form and use."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    height: PrintMM | None = Field(default=None, gt=0, le=10_000)
    factor: float | None = Field(default=None, gt=0, le=100_000, allow_inf_nan=False)
    setting: str = Field(default="lantern-6-tough-grey", max_length=60)
    """Id of a setting on the bench."""
    part_settings: dict[str, str] = Field(default_factory=dict, max_length=200)
    """By part its own setting, where it has one."""
    variant: str = Field(default="", max_length=60)
    """The variant it is of; empty for the figure itself."""
    form: Form = Form()
    use: Use = Use.TABLETOP
    sanding: PrintMM = Field(default=PrintMM(0.0), ge=0, le=1)
    """What sanding takes off a side that it gets to."""

    def with_setting(self, part: str, setting: str) -> "Edition":
        """Another setting for a part that has its own, else for all that have none."""
        if part in self.part_settings:
            return self.model_copy(update={"part_settings": {**self.part_settings, part: setting}})
        return self.model_copy(update={"setting": setting})

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


def brought_forward(held: dict[str, Any]) -> dict[str, Any]:
    """What was kept of an edition (plain JSON values) as this version writes it: before settings there were a printer
    and a material, whose fine setting has both names."""
    if "printer" not in held and "material" not in held:
        return held
    kept = {name: value for name, value in held.items() if name not in ("printer", "material")}
    return {**kept, "setting": f"{held.get('printer', 'lantern-6')}-{held.get('material', 'tough-grey')}"}
