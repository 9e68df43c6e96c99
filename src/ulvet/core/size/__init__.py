"""Size: the edition's placement, and whether it fits the printer."""

from ulvet.core.size.check import check_fit, fits_printer, largest_height

__all__ = ["check_fit", "fits_printer", "largest_height"]
