"""Time, material and money of a print, before any proof has corrected them."""

from collections.abc import Sequence

from pydantic import BaseModel, ConfigDict

from ulvet.core.bench.setup import Setup
from ulvet.core.layers.raster import LayerStack

__all__ = ["ESTIMATED", "Estimate", "estimate_print", "printed_together"]

ESTIMATED = (
    "setup.setting.layer",
    "setup.setting.line",
    "setup.setting.times",
    "setup.setting.material_factor",
    "setup.material.price_per_litre",
)
"""What of a setup an estimate is made from."""


class Estimate(BaseModel):
    """An estimate; ``model`` says in one sentence what it was made from."""

    model_config = ConfigDict(frozen=True)

    layers: int
    seconds: float
    material_ml: float
    money: float
    peak_area_mm2: float
    model: str
    flows: bool = False
    """Whether the time grows with the volume, as in filament, and not with the layers alone."""


def estimate_print(stack: LayerStack, setup: Setup, held: bool = False) -> Estimate:
    """Layers, seconds, millilitres and money of what the layers show, solid; ``held`` when supports are among it."""
    factor = setup.setting.material_factor
    times, flow = setup.setting.times, setup.setting.mm3_per_second
    areas = stack.areas
    millilitres = float(areas.sum()) * stack.layer / 1000
    first = min(times.first_layers, stack.count)
    seconds = first * times.seconds_per_first_layer + (stack.count - first) * times.seconds_per_layer
    bare = "solid, with supports." if held else "solid, without supports."
    model = f"Layers times the setting's seconds a layer; {bare}"
    if flow is not None:
        seconds += millilitres * 1000 / flow
        model = f"Volume over the printer's average flow, and a pause a layer; {bare}"
    return Estimate(
        layers=stack.count,
        seconds=seconds,
        material_ml=millilitres * factor,
        money=millilitres * factor * setup.material.price_per_litre / 1000,
        peak_area_mm2=float(areas.max(initial=0)),
        model=model,
        flows=flow is not None,
    )


def printed_together(estimates: Sequence[Estimate]) -> Estimate | None:
    """All parts side by side on one plate: layers of the tallest, and the time of the longest in resin, of all in
    filament; None without any."""
    if not estimates:
        return None
    seconds = [estimate.seconds for estimate in estimates]
    return Estimate(
        layers=max(estimate.layers for estimate in estimates),
        seconds=sum(seconds) if estimates[0].flows else max(seconds),
        material_ml=sum(estimate.material_ml for estimate in estimates),
        money=sum(estimate.money for estimate in estimates),
        peak_area_mm2=sum(estimate.peak_area_mm2 for estimate in estimates),
        model=estimates[0].model,
        flows=estimates[0].flows,
    )
