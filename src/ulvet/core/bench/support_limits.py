"""How a process holds a figure while it grows: typed bench defaults, until proofs have taught others."""

from pydantic import BaseModel, ConfigDict

from ulvet.core.lengths import PrintMM

__all__ = ["FILAMENT_SUPPORTS", "RESIN_SUPPORTS", "SupportLimits"]


class SupportLimits(BaseModel):
    """Limits and loads of supports in one process. Pull is what a layer is torn at, per mm² of its area."""

    model_config = ConfigDict(frozen=True)

    flattest: float
    """Undersides nearer to level than this, in degrees, want holding."""
    pull: float
    """N/mm²: peeling off the film in resin; the nozzle's drag on fresh line in filament."""
    strength: float
    """N/mm² that a tip bears before it tears, uncured in resin."""
    safety: float
    """How many times stronger a tip is made than its load."""
    tip_least: PrintMM
    tip_most: PrintMM
    tip_length: PrintMM
    """From the figure's skin to where the column begins."""
    spacing: PrintMM
    """Greatest distance between contacts under a level underside."""
    column: PrintMM
    """Diameter of a column at its head, the least."""
    slender: float
    """A column is no longer than this many times its diameter at the foot."""
    clearance: PrintMM
    """Air between columns and figure."""
    lift: PrintMM
    """Height of the lowest point when the figure hangs on supports."""
    raft: PrintMM
    """Thickness of the feet and of the bars between them."""
    bridge: PrintMM
    """Undersides narrower than this hold on to what is beside them."""


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
)
"""Bench defaults for filament, until proofs have taught others."""
