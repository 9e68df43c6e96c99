"""The user's printers and materials, and the edition a figure is made for."""

from ulvet.core.bench.edition import AskedSize, Edition, Use, factor_for
from ulvet.core.bench.holding import Holding, holding_for
from ulvet.core.bench.limits import LimitOrigin, WallLimit
from ulvet.core.bench.materials import MATERIALS, Material, material_named
from ulvet.core.bench.printers import PRINTERS, Printer, printer_named
from ulvet.core.bench.setup import Setup, UnknownOnBench, setup_for

__all__ = [
    "MATERIALS",
    "PRINTERS",
    "AskedSize",
    "Edition",
    "Holding",
    "LimitOrigin",
    "Material",
    "Printer",
    "Setup",
    "UnknownOnBench",
    "Use",
    "WallLimit",
    "factor_for",
    "holding_for",
    "material_named",
    "printer_named",
    "setup_for",
]
