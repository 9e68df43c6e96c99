"""Printers: typed bench defaults. All are invented; a user's own replace them."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from ulvet.core.lengths import PrintMM

__all__ = ["ID", "PRINTERS", "Printer", "Process"]

ID = r"^[a-z0-9][a-z0-9-]{0,39}$"
"""Form of the id of anything on the bench: small letters, digits and hyphens."""
Side = Annotated[PrintMM, Field(gt=0, le=10_000)]
Process = Literal["resin", "filament"]


class Printer(BaseModel):
    """One printer. ``volume`` is width, depth, height in mm; ``pixel`` the finest step across, which for
    filament is a quarter of the line."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: str = Field(pattern=ID)
    name: str = Field(min_length=1, max_length=60)
    process: Process
    volume: tuple[Side, Side, Side]
    layer: PrintMM = Field(ge=0.005, le=2)
    pixel: PrintMM = Field(ge=0.005, le=2)
    line: PrintMM = Field(ge=0.005, le=5)
    """Narrowest line it lays: one pixel in resin, the nozzle in filament."""
    seconds_per_layer: float = Field(ge=0, le=3_600)
    """Exposure, lift and settle in resin; change of height in filament."""
    first_layers: int = Field(default=0, ge=0, le=100)
    seconds_per_first_layer: float = Field(default=0.0, ge=0, le=3_600)
    mm3_per_second: float | None = Field(default=None, gt=0, le=1_000)
    """Filament laid down on average, all moves counted; None in resin."""


PRINTERS: tuple[Printer, ...] = (
    Printer(
        id="lantern-6",
        name="Lantern 6",
        process="resin",
        volume=(PrintMM(132), PrintMM(74), PrintMM(165)),
        layer=PrintMM(0.05),
        pixel=PrintMM(0.034),
        line=PrintMM(0.034),
        seconds_per_layer=8.2,
        first_layers=5,
        seconds_per_first_layer=36.0,
    ),
    Printer(
        id="lantern-10",
        name="Lantern 10",
        process="resin",
        volume=(PrintMM(215), PrintMM(122), PrintMM(230)),
        layer=PrintMM(0.05),
        pixel=PrintMM(0.048),
        line=PrintMM(0.048),
        seconds_per_layer=9.6,
        first_layers=5,
        seconds_per_first_layer=40.0,
    ),
    Printer(
        id="long-reed-300",
        name="Long Reed 300",
        process="filament",
        volume=(PrintMM(300), PrintMM(300), PrintMM(340)),
        layer=PrintMM(0.16),
        pixel=PrintMM(0.1),
        line=PrintMM(0.4),
        seconds_per_layer=2.5,
        mm3_per_second=6.5,
    ),
)
"""Bench defaults; the first is used when none is named."""
