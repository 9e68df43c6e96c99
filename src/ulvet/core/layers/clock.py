"""When a layer is printed."""

import numpy as np

from ulvet.core.bench.setup import Setup
from ulvet.core.geometry.mesh import Floats
from ulvet.core.layers.raster import LayerStack

__all__ = ["hours_and_minutes", "layer_seconds", "seconds_of_areas"]


def layer_seconds(stack: LayerStack, setup: Setup) -> Floats:
    """When each layer begins, and when the last one ends, seconds from the start of the print, (layers + 1,)."""
    return seconds_of_areas(stack.areas, setup)


def seconds_of_areas(areas: Floats, setup: Setup) -> Floats:
    """As ``layer_seconds``, of layers of which the area (layers,) mm² is known."""
    times, flow = setup.setting.times, setup.setting.mm3_per_second
    each = np.full(len(areas), times.seconds_per_layer)
    each[: times.first_layers] = times.seconds_per_first_layer
    if flow is not None:
        each += areas * setup.layer / flow
    return np.concatenate([[0.0], np.cumsum(each)])


def hours_and_minutes(seconds: float) -> str:
    """A time from the start of a print.

    >>> hours_and_minutes(3_900)
    '1:05'
    """
    minutes = round(seconds / 60)
    return f"{minutes // 60}:{minutes % 60:02}"
