"""How a setting holds a figure while it grows: typed bench defaults, until proofs have taught others."""

from typing import Annotated

from pydantic import BaseModel, ConfigDict

from ulvet.core.bench.item import value
from ulvet.core.lengths import PrintMM

__all__ = ["FILAMENT_SUPPORTS", "RESIN_SUPPORTS", "SupportLimits"]


class SupportLimits(BaseModel):
    """Limits and loads of supports in one setting. Pull is what a layer is torn at, per mm² of its area."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    flattest: Annotated[float, value("Undersides want holding nearer to level than", "°", ge=0, lt=90)]
    pull: Annotated[float, value("Pull on a layer", "N/mm²", gt=0, le=10)]
    """Peeling off the film in resin; the nozzle's drag on fresh line in filament."""
    strength: Annotated[float, value("A tip tears at", "N/mm²", gt=0, le=2_000)]
    """Uncured in resin."""
    safety: Annotated[float, value("Tips made stronger than their load", "times", ge=1, le=50)]
    tip_least: Annotated[PrintMM, value("Finest tip", "mm", gt=0, le=20)]
    tip_most: Annotated[PrintMM, value("Thickest tip", "mm", gt=0, le=20)]
    tip_length: Annotated[PrintMM, value("Length of a tip", "mm", gt=0, le=50)]
    """From the figure's skin to where the column begins."""
    spacing: Annotated[PrintMM, value("Between contacts under a level side, at most", "mm", gt=0, le=100)]
    column: Annotated[PrintMM, value("Column at its head, at least", "mm", gt=0, le=50)]
    slender: Annotated[float, value("Column no longer than", "times its foot", gt=1, le=500)]
    clearance: Annotated[PrintMM, value("Air between columns and figure", "mm", ge=0, le=20)]
    lift: Annotated[PrintMM, value("Lowest point above the plate when it hangs", "mm", ge=0, le=100)]
    raft: Annotated[PrintMM, value("Thickness of feet and bars", "mm", gt=0, le=20)]
    bridge: Annotated[PrintMM, value("Bridges without support up to", "mm", ge=0, le=200)]
    """Undersides narrower than this hold on to what is beside them."""
    stick: Annotated[float, value("What lies on the plate holds", "N/mm²", gt=0, le=100)] = 0.05
    """Until it lets go at its rim."""
    peel_most: Annotated[float, value("Pull on one layer that is high", "N", gt=0, le=1_000)] = 8.0


RESIN_SUPPORTS = SupportLimits(
    flattest=40,
    pull=0.010,
    strength=8.0,
    safety=3.0,
    tip_least=PrintMM(0.20),
    tip_most=PrintMM(0.60),
    tip_length=PrintMM(1.8),
    spacing=PrintMM(3.2),
    column=PrintMM(0.80),
    slender=45,
    clearance=PrintMM(0.25),
    lift=PrintMM(5.0),
    raft=PrintMM(0.7),
    bridge=PrintMM(1.0),
)
"""Bench defaults for resin, until proofs have taught others."""

FILAMENT_SUPPORTS = SupportLimits(
    flattest=38,
    pull=0.004,
    strength=12.0,
    safety=3.0,
    tip_least=PrintMM(0.8),
    tip_most=PrintMM(2.0),
    tip_length=PrintMM(2.5),
    spacing=PrintMM(6.0),
    column=PrintMM(2.0),
    slender=30,
    clearance=PrintMM(0.5),
    lift=PrintMM(0.0),
    raft=PrintMM(0.6),
    bridge=PrintMM(4.0),
    stick=0.08,
)
"""Bench defaults for filament, until proofs have taught others."""
