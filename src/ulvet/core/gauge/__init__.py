"""Gauge: what is too thin at print size, in the chosen material."""

from ulvet.core.gauge.check import check_walls
from ulvet.core.gauge.places import ThinPlace, thin_places
from ulvet.core.gauge.thicken import thicken_walls
from ulvet.core.gauge.thickness import Thickness, measure_thickness
from ulvet.core.gauge.whole import Gauge

__all__ = ["Gauge", "Thickness", "ThinPlace", "check_walls", "measure_thickness", "thicken_walls", "thin_places"]
