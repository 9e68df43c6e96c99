"""What else lies on the bench: bought parts, glues, stations that wash and cure, and hours in which somebody is there.
All defaults are invented."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from ulvet.core.bench.item import BenchItem, value
from ulvet.core.lengths import PrintMM

__all__ = ["BOUGHT_PARTS", "GLUES", "HOURS", "WORK_STATIONS", "BoughtPart", "Glue", "Hours", "WorkStation"]

Side = Annotated[PrintMM, Field(gt=0, le=5_000)]
BoughtKind = Literal["wire", "rod", "tube", "dowel", "bristle", "magnet", "screw"]


class BoughtPart(BenchItem):
    """Something round that is bought by length or by piece."""

    kind: Annotated[BoughtKind, value("Kind")]
    diameter: Annotated[PrintMM, value("Nominal diameter", "mm", gt=0, le=100)]
    measured: Annotated[PrintMM | None, value("Measured diameter", "mm", gt=0, le=100)] = None
    """None where nobody has measured it."""
    length: Annotated[PrintMM, value("Length it is sold in", "mm", gt=0, le=10_000)]
    modulus: Annotated[float, value("Stiffness", "N/mm²", gt=0, le=1e6)]
    density: Annotated[float, value("Density", "g/cm³", gt=0, le=25)]
    price: Annotated[float, value("Price of a piece", "money", ge=0, le=10_000)]

    @property
    def real_diameter(self) -> PrintMM:
        """As measured, or as it is sold."""
        return self.measured or self.diameter


class Glue(BenchItem):
    """One glue."""

    minutes: Annotated[float, value("Holds after", "min", gt=0, le=10_080)]
    least_area: Annotated[float, value("Area it wants, at least", "mm²", ge=0, le=10_000)]
    most_gap: Annotated[PrintMM, value("Gap it fills, at most", "mm", ge=0, le=10)]
    strength: Annotated[float, value("Strength of a sanded, clean joint", "N/mm²", gt=0, le=200)] = 12.0
    """Of a joint pulled open."""
    align_minutes: Annotated[float, value("Can be aligned for", "min", ge=0, le=1_440)] = 0.2


class WorkStation(BenchItem):
    """Something that washes or cures."""

    does: Annotated[Literal["wash", "cure", "dry"], value("What it does")]
    volume: Annotated[tuple[Side, Side, Side], value("Room inside, wide x deep x tall", "mm")]
    minutes: Annotated[float, value("Time it takes", "min", gt=0, le=1_440)]


class Hours(BenchItem):
    """Hours of a weekday in which somebody is there, 0 to 24; equal ones are a day off."""

    begin: Annotated[float, value("Somebody is there from", "o'clock", ge=0, le=24)]
    end: Annotated[float, value("Somebody is there until", "o'clock", ge=0, le=24)]

    @model_validator(mode="after")
    def _ends_after_it_begins(self) -> Self:
        if self.end < self.begin:
            raise ValueError("hours that end before they begin: give both within one day")
        return self


def _wire(diameter: float, price: float) -> BoughtPart:
    return BoughtPart(
        id=f"wire-{diameter:g}".replace(".", "-"),
        name=f"Steel wire {diameter:g}",
        kind="wire",
        diameter=PrintMM(diameter),
        length=PrintMM(500),
        modulus=200_000,
        density=7.85,
        price=price,
    )


BOUGHT_PARTS: tuple[BoughtPart, ...] = (
    *(_wire(d, price) for d, price in ((0.3, 0.4), (0.5, 0.5), (0.8, 0.6), (1.0, 0.7), (1.5, 0.9), (2.0, 1.2))),
    BoughtPart(
        id="rod-3",
        name="Brass rod 3",
        kind="rod",
        diameter=PrintMM(3.0),
        length=PrintMM(300),
        modulus=100_000,
        density=8.5,
        price=2.4,
    ),
    BoughtPart(
        id="magnet-3x2",
        name="Magnet 3 x 2",
        kind="magnet",
        diameter=PrintMM(3.0),
        measured=PrintMM(2.95),
        length=PrintMM(2.0),
        modulus=160_000,
        density=7.5,
        price=0.2,
    ),
    BoughtPart(
        id="magnet-6x3",
        name="Magnet 6 x 3",
        kind="magnet",
        diameter=PrintMM(6.0),
        length=PrintMM(3.0),
        modulus=160_000,
        density=7.5,
        price=0.5,
    ),
)
"""Bench defaults."""

GLUES: tuple[Glue, ...] = (
    Glue(id="quick-thin", name="Quick thin glue", minutes=2, least_area=4.0, most_gap=PrintMM(0.1), strength=10.0),
    Glue(
        id="two-part",
        name="Two-part glue",
        minutes=45,
        least_area=2.0,
        most_gap=PrintMM(0.8),
        strength=16.0,
        align_minutes=5.0,
    ),
)
"""Bench defaults."""


def _inside(wide: float, deep: float, tall: float) -> tuple[PrintMM, PrintMM, PrintMM]:
    return PrintMM(wide), PrintMM(deep), PrintMM(tall)


WORK_STATIONS: tuple[WorkStation, ...] = (
    WorkStation(id="rinse-tub", name="Rinse tub", does="wash", volume=_inside(190, 110, 170), minutes=4),
    WorkStation(id="turning-lamp", name="Turning lamp", does="cure", volume=_inside(180, 180, 200), minutes=6),
)
"""Bench defaults."""

_WEEK = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")

HOURS: tuple[Hours, ...] = tuple(
    Hours(id=day.lower(), name=day, begin=9, end=9 if day == "Sunday" else 13 if day == "Saturday" else 18)
    for day in _WEEK
)
"""Bench defaults."""
