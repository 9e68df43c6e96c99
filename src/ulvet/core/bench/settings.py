"""Settings: a printer with a material at a layer height, and what follows from the three."""

from typing import Annotated, Literal, Self

from pydantic import BaseModel, ConfigDict, Field, model_validator

from ulvet.core.bench.item import ID, BenchItem, value
from ulvet.core.bench.limits import WallLimits
from ulvet.core.bench.support_limits import SupportLimits
from ulvet.core.lengths import PrintMM

__all__ = ["FilamentTimes", "Fits", "ResinTimes", "Setting", "Shrink"]

Gap = Annotated[PrintMM, Field(ge=-1, le=5)]
Seconds = Annotated[float, Field(ge=0, le=3_600)]
Factor = Annotated[float, Field(ge=0.2, le=5)]


class Fits(BaseModel):
    """Air left per side between two pieces, print mm; less than none is pressed in."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    press: Annotated[Gap, value("Pressed in", "mm")]
    slide: Annotated[Gap, value("Sliding", "mm")]
    free: Annotated[Gap, value("Turning freely", "mm")]
    glued: Annotated[Gap, value("Glued", "mm")]

    @model_validator(mode="after")
    def _is_ordered(self) -> Self:
        if not self.press <= self.slide <= self.free:
            raise ValueError("a pressed fit has the least air and a free one the most")
        return self


class Shrink(BaseModel):
    """By which share a print comes out smaller than drawn, by the printer's axes; None where nobody has measured it."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    across: Annotated[float | None, value("Across", "share", ge=-0.05, le=0.2)] = None
    deep: Annotated[float | None, value("Deep", "share", ge=-0.05, le=0.2)] = None
    up: Annotated[float | None, value("Up", "share", ge=-0.05, le=0.2)] = None


class ResinTimes(BaseModel):
    """How long a layer of resin takes, whatever lies in it."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    process: Literal["resin"] = "resin"
    exposure: Annotated[Seconds, value("Exposure", "s")]
    first_layers: Annotated[int, value("First layers", "layers", ge=0, le=100)]
    first_exposure: Annotated[Seconds, value("Exposure of first layers", "s")]
    lift: Annotated[PrintMM, value("Lift between layers", "mm", ge=0, le=50)]
    lift_speed: Annotated[float, value("Speed of lift and return", "mm/s", gt=0, le=200)]
    wait: Annotated[Seconds, value("Wait before exposure", "s")]
    factor: Annotated[Factor, value("Hours that come, of what these tell", "times")] = 1.0

    @property
    def seconds_per_layer(self) -> float:
        """Of a layer that is no first one."""
        return (self.exposure + self._moves) * self.factor

    @property
    def seconds_per_first_layer(self) -> float:
        """Of a first layer."""
        return (self.first_exposure + self._moves) * self.factor

    @property
    def _moves(self) -> float:
        return 2 * self.lift / self.lift_speed + self.wait


class FilamentTimes(BaseModel):
    """How long a layer of filament takes: its volume over the flow, and a change of height."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    process: Literal["filament"] = "filament"
    wall_lines: Annotated[int, value("Lines a wall", "lines", ge=1, le=50)]
    infill: Annotated[float, value("Infill", "share", ge=0, le=1)]
    speed: Annotated[float, value("Average speed, all moves counted", "mm/s", gt=0, le=2_000)]
    layer_change: Annotated[Seconds, value("Change of layer", "s")]
    factor: Annotated[Factor, value("Hours that come, of what these tell", "times")] = 1.0

    first_layers: Literal[0] = 0

    @property
    def seconds_per_layer(self) -> float:
        """Of every layer, besides what lies in it."""
        return self.layer_change * self.factor

    @property
    def seconds_per_first_layer(self) -> float:
        """As of any other."""
        return self.seconds_per_layer


class Setting(BenchItem):
    """How one printer prints one material at one layer height."""

    printer: Annotated[str, value("Printer", pattern=ID)]
    material: Annotated[str, value("Material", pattern=ID)]
    layer: Annotated[PrintMM, value("Layer height", "mm", ge=0.005, le=2)]
    line: Annotated[PrintMM | None, value("Width of a laid line", "mm", ge=0.05, le=5)] = None
    """None in resin, which draws no line narrower than a pixel."""
    times: Annotated[ResinTimes | FilamentTimes, value("Time of a layer", discriminator="process")]
    walls: Annotated[WallLimits, value("Walls")]
    edge_growth: Annotated[PrintMM, value("Edges grow, per side", "mm", ge=-0.5, le=1)] = PrintMM(0.0)
    first_growth: Annotated[PrintMM, value("First layers spread, per side", "mm", ge=0, le=2)] = PrintMM(0.15)
    """Of what stands on the plate itself."""
    height_lost: Annotated[PrintMM, value("Height lost on the plate", "mm", ge=0, le=2)] = PrintMM(0.10)
    """The first layers of what stands on the plate itself are pressed flatter than they are drawn."""
    fits: Annotated[Fits, value("Fits, air per side")]
    coat: Annotated[PrintMM, value("A coat of primer and paint", "mm", ge=0, le=0.5)] = PrintMM(0.05)
    """Added to a fit for every painted face."""
    supports: Annotated[SupportLimits, value("What holds it while it grows")]
    material_factor: Annotated[Factor, value("Material that goes, of what is told", "times")] = 1.0
    fails: Annotated[float, value("Plates that fail", "share", ge=0, le=1)] = 0.1
    shrink: Annotated[Shrink, value("Shrinks, measured")] = Shrink()
    """In place of the material's, where it is known."""

    @property
    def mm3_per_second(self) -> float | None:
        """Filament laid down on average; None in resin."""
        if isinstance(self.times, ResinTimes) or self.line is None:
            return None
        return float(self.line) * float(self.layer) * self.times.speed / self.times.factor
