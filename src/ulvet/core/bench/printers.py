"""Printers: typed bench defaults. All are invented; a user's own replace them."""

from typing import Literal

from pydantic import BaseModel, ConfigDict

from ulvet.core.lengths import PrintMM

__all__ = ["PRINTERS", "Printer", "Process"]

Process = Literal["resin", "filament"]


class Printer(BaseModel):
    """One printer. ``volume`` is width, depth, height in mm; ``pixel`` the finest step across, which for
    filament is a quarter of the line."""

    model_config = ConfigDict(frozen=True)

    id: str
    name: str
    process: Process
    volume: tuple[PrintMM, PrintMM, PrintMM]
    layer: PrintMM
    pixel: PrintMM
    line: PrintMM
    """Narrowest line it lays: one pixel in resin, the nozzle in filament."""
    seconds_per_layer: float
    """Exposure, lift and settle in resin; change of height in filament."""
    first_layers: int = 0
    seconds_per_first_layer: float = 0.0
    mm3_per_second: float | None = None
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
