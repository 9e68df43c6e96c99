"""Layers: what the printer will see, layer by layer."""

from ulvet.core.layers.check import LayersReport, check_layers
from ulvet.core.layers.estimate import Estimate, estimate_print, printed_together
from ulvet.core.layers.islands import Island, find_islands
from ulvet.core.layers.raster import LayerStack, TooManyLayers, raster_layers

__all__ = [
    "Estimate",
    "Island",
    "LayerStack",
    "LayersReport",
    "TooManyLayers",
    "check_layers",
    "estimate_print",
    "find_islands",
    "printed_together",
    "raster_layers",
]
