"""When a look at a running print tells the most."""

import numpy as np
from pydantic import BaseModel, ConfigDict

from ulvet.core.bench.setup import Setup
from ulvet.core.layers.clock import layer_seconds
from ulvet.core.layers.forces import footprint_of, jumps_of, strain_on_plate
from ulvet.core.layers.raster import LayerStack

__all__ = ["FirstLook", "first_look"]


class FirstLook(BaseModel):
    """The first moment at which a failure could be seen: an estimate."""

    model_config = ConfigDict(frozen=True)

    layer: int
    seconds: float
    weak_layer: int
    """The first layer at which it is likely to fail, which is passed by then."""


def first_look(stack: LayerStack, setup: Setup) -> FirstLook | None:
    """When to look at a print first; None where it is done before there is anything to see.

    The first weak layer must be passed: where a layer is at once much larger, or where what lies on the plate is
    strained most, whichever comes first. In resin the print must hang clear of the vat by then.
    """
    foot, resin = footprint_of(stack), setup.process == "resin"
    if foot is None:
        return None
    strained = int(np.argmax(strain_on_plate(stack, foot, setup.supports, resin)))
    weak = min([strained, *(jump.layer for jump in jumps_of(stack))])
    clear = int(np.ceil(setup.printer.vat_depth / stack.layer)) if resin else 0
    layer = max(weak + 1, clear)
    if layer >= stack.count:
        return None
    return FirstLook(layer=layer, seconds=float(layer_seconds(stack, setup)[layer]), weak_layer=weak)
