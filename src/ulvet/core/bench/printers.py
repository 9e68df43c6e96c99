"""Printers: typed bench defaults. All are invented; a user's own replace them."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from ulvet.core.bench.item import BenchItem, value
from ulvet.core.lengths import PrintMM

__all__ = ["PRINTERS", "Printer", "Process"]

Side = Annotated[PrintMM, Field(gt=0, le=10_000)]
Process = Literal["resin", "filament"]


class Printer(BenchItem):
    """One printer."""

    process: Annotated[Process, value("Process")]
    volume: Annotated[tuple[Side, Side, Side], value("Build volume, wide x deep x tall", "mm")]
    edge: Annotated[PrintMM, value("Kept clear along every edge", "mm", ge=0, le=100)] = PrintMM(0.0)
    pixel: Annotated[PrintMM, value("Finest step across", "mm", ge=0.005, le=2)]
    """One pixel in resin, a quarter of the line in filament."""
    nozzle: Annotated[PrintMM | None, value("Nozzle", "mm", ge=0.05, le=5)] = None
    """None in resin."""
    vat_depth: Annotated[PrintMM, value("Depth of the vat", "mm", ge=0, le=500)] = PrintMM(25.0)
    """A resin print can first be seen once it hangs clear of it."""
    power: Annotated[float, value("Power while it prints", "W", ge=0, le=20_000)] = 0.0
    price_of_hour: Annotated[float, value("Price of an hour of printing", "money", ge=0, le=10_000)] = 0.0
    ready: Annotated[str, value("Looked at before each print, parted by semicolons", max_length=600)] = ""
    """Empty for what is usual with its process."""

    @model_validator(mode="after")
    def _has_room(self) -> Self:
        if 2 * self.edge >= min(self.volume[:2]):
            raise ValueError("what is kept clear along the edges leaves no room between them")
        return self

    @property
    def room(self) -> tuple[PrintMM, PrintMM, PrintMM]:
        """What of the build volume may be used, mm."""
        wide, deep, tall = self.volume
        return PrintMM(wide - 2 * self.edge), PrintMM(deep - 2 * self.edge), tall


def _volume(wide: float, deep: float, tall: float) -> tuple[PrintMM, PrintMM, PrintMM]:
    return PrintMM(wide), PrintMM(deep), PrintMM(tall)


PRINTERS: tuple[Printer, ...] = (
    Printer(
        id="lantern-6",
        name="Lantern 6",
        process="resin",
        volume=_volume(132, 74, 165),
        edge=PrintMM(1.0),
        pixel=PrintMM(0.034),
        power=60.0,
        price_of_hour=0.30,
    ),
    Printer(
        id="lantern-10",
        name="Lantern 10",
        process="resin",
        volume=_volume(215, 122, 230),
        edge=PrintMM(1.5),
        pixel=PrintMM(0.048),
        power=110.0,
        price_of_hour=0.55,
    ),
    Printer(
        id="long-reed-300",
        name="Long Reed 300",
        process="filament",
        volume=_volume(300, 300, 340),
        edge=PrintMM(4.0),
        pixel=PrintMM(0.1),
        nozzle=PrintMM(0.4),
        power=240.0,
        price_of_hour=0.25,
    ),
    Printer(
        id="short-reed-120",
        name="Short Reed 120",
        process="filament",
        volume=_volume(120, 120, 130),
        edge=PrintMM(3.0),
        pixel=PrintMM(0.0625),
        nozzle=PrintMM(0.25),
        power=90.0,
        price_of_hour=0.15,
    ),
)
"""Bench defaults; the first is used when none is named."""
