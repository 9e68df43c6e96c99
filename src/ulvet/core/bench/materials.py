"""Materials: typed bench defaults. All are invented; a value learnt from the user's own coupons replaces them."""

from typing import Annotated

from ulvet.core.bench.item import COLOUR, BenchItem, value
from ulvet.core.bench.printers import Process

__all__ = ["MATERIALS", "Material"]


class Material(BenchItem):
    """One resin or filament."""

    process: Annotated[Process, value("Process")]
    colour: Annotated[str, value("Colour", max_length=40)] = ""
    shade: Annotated[str, value("Its colour on screens, as #rrggbb", pattern=COLOUR)] = "#b9b6ac"
    clear: Annotated[bool, value("Lets light through")] = False
    density: Annotated[float, value("Density, printed and cured", "g/cm³", gt=0, le=25)]
    price_per_litre: Annotated[float, value("Price of a litre", "money", ge=0, le=1e6)]
    """For filament a litre is about 1.24 kg."""
    strength: Annotated[float | None, value("Bending strength", "N/mm²", gt=0, le=2_000)] = None
    """At which a bent bar breaks; None where nobody has measured it."""
    modulus: Annotated[float | None, value("Stiffness in bending", "N/mm²", gt=0, le=500_000)] = None
    brittleness: Annotated[float, value("Brittleness", "times", ge=1, le=20)] = 1.0
    """How many times less a sudden knock has to be than a slow push."""
    across_layers: Annotated[float, value("Strength across layers", "share", gt=0, le=1)] = 1.0
    """Its strength where a pull takes layers apart, as a share."""
    shrink: Annotated[float, value("Shrinks when cured or cooled", "share", ge=0, le=0.2)] = 0.0
    """Of its length."""


MATERIALS: tuple[Material, ...] = (
    Material(
        id="tough-grey",
        name="Tough grey resin",
        process="resin",
        colour="grey",
        shade="#9a9c9f",
        density=1.15,
        strength=55.0,
        modulus=1900.0,
        brittleness=1.2,
        across_layers=0.9,
        shrink=0.004,
        price_per_litre=42.0,
    ),
    Material(
        id="plain-ivory",
        name="Plain ivory resin",
        process="resin",
        colour="ivory",
        shade="#e8dfc8",
        density=1.17,
        strength=62.0,
        modulus=2600.0,
        brittleness=2.0,
        across_layers=0.9,
        shrink=0.006,
        price_per_litre=24.0,
    ),
    Material(
        id="bending-clear",
        name="Bending clear resin",
        process="resin",
        colour="clear",
        shade="#dfe6e6",
        clear=True,
        density=1.13,
        strength=28.0,
        modulus=600.0,
        across_layers=0.9,
        shrink=0.003,
        price_per_litre=58.0,
    ),
    Material(
        id="stiff-umber",
        name="Stiff umber resin",
        process="resin",
        colour="umber",
        shade="#6b5140",
        density=1.21,
        strength=78.0,
        modulus=3100.0,
        brittleness=2.4,
        across_layers=0.85,
        shrink=0.005,
        price_per_litre=36.0,
    ),
    Material(
        id="matt-filament",
        name="Matt filament",
        process="filament",
        colour="sand",
        shade="#cbb58c",
        density=1.24,
        strength=70.0,
        modulus=3000.0,
        brittleness=1.3,
        across_layers=0.5,
        shrink=0.003,
        price_per_litre=29.0,
    ),
    Material(
        id="tough-filament",
        name="Tough filament",
        process="filament",
        colour="slate",
        shade="#5a636c",
        density=1.27,
        strength=58.0,
        modulus=2000.0,
        across_layers=0.65,
        shrink=0.004,
        price_per_litre=34.0,
    ),
)
"""Bench defaults; the first that fits the printer is used when none is named."""
