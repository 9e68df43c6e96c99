"""Stand: how a figure is turned for the printer, and held."""

from ulvet.core.stand.check import check_stand
from ulvet.core.stand.orienting import Orienting, orient_figure
from ulvet.core.stand.supporting import Held, hold_figure

__all__ = ["Held", "Orienting", "check_stand", "hold_figure", "orient_figure"]
