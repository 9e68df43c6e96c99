"""Size: the edition's placement, the ways to say it, what it does to walls, and whether it fits the printer."""

from ulvet.core.size.check import check_fit, fits_printer, largest_height
from ulvet.core.size.consequences import estimate_at
from ulvet.core.size.scales import AtSize, SizeScale, SizeSurvey, sizes_about, survey_sizes
from ulvet.core.size.ways import AnyWay, Measured, UnusableSize, Worked, measured, way_adapter

__all__ = [
    "AnyWay",
    "AtSize",
    "Measured",
    "SizeScale",
    "SizeSurvey",
    "UnusableSize",
    "Worked",
    "check_fit",
    "estimate_at",
    "fits_printer",
    "largest_height",
    "measured",
    "sizes_about",
    "survey_sizes",
    "way_adapter",
]
