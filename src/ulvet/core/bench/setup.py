"""A printer with a material it can print, and how it holds a figure."""

from dataclasses import dataclass

from ulvet.core.bench.materials import Material
from ulvet.core.bench.printers import Printer
from ulvet.core.bench.support_limits import SupportLimits

__all__ = ["Setup", "UnknownOnBench"]


class UnknownOnBench(ValueError):
    """A printer or material that is not on the bench, or two that do not go together; its text is for the user."""


@dataclass(frozen=True)
class Setup:
    """What a figure is printed on and of, both of one process, and how that process holds it."""

    printer: Printer
    material: Material
    supports: SupportLimits
