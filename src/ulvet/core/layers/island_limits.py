"""From when on an island is told, and how far solid holds what is beside it."""

from ulvet.core.bench.setup import Setup
from ulvet.core.lengths import PrintMM

__all__ = ["ISLAND_LEAST_AREA", "island_dilation"]

ISLAND_LEAST_AREA = 0.02
"""Smallest island told, mm² (bench default): below it, cured resin bridges from its neighbours."""


def island_dilation(setup: Setup) -> PrintMM:
    """How far beside solid new solid still holds: one pixel in resin, half a line in filament (bench defaults)."""
    return setup.pixel if setup.process == "resin" else PrintMM(setup.line / 2)
