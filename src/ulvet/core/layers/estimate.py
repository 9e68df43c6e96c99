"""Time, material and money of a print, before any proof has corrected them."""

from pydantic import BaseModel, ConfigDict

from ulvet.core.bench import Setup
from ulvet.core.layers.raster import LayerStack

__all__ = ["Estimate", "estimate_print"]


class Estimate(BaseModel):
    """An estimate; ``model`` says in one sentence what it was made from."""

    model_config = ConfigDict(frozen=True)

    layers: int
    seconds: float
    material_ml: float
    money: float
    peak_area_mm2: float
    model: str


def estimate_print(stack: LayerStack, setup: Setup, held: bool = False) -> Estimate:
    """Layers, seconds, millilitres and money of what the layers show, solid; ``held`` when supports are among it."""
    printer = setup.printer
    areas = stack.areas
    millilitres = float(areas.sum()) * stack.layer / 1000
    first = min(printer.first_layers, stack.count)
    seconds = first * printer.seconds_per_first_layer + (stack.count - first) * printer.seconds_per_layer
    bare = "solid, with supports." if held else "solid, without supports."
    model = f"Layers times the printer's seconds a layer; {bare}"
    if printer.mm3_per_second is not None:
        seconds += millilitres * 1000 / printer.mm3_per_second
        model = f"Volume over the printer's average flow, and a pause a layer; {bare}"
    return Estimate(
        layers=stack.count,
        seconds=seconds,
        material_ml=millilitres,
        money=millilitres * setup.material.price_per_litre / 1000,
        peak_area_mm2=float(areas.max(initial=0)),
        model=model,
    )
