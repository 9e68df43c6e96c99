"""What another size costs, estimated before it is rebuilt."""

from math import ceil

from ulvet.core.bench.setup import Setup
from ulvet.core.layers.estimate import Estimate

__all__ = ["estimate_at"]


def estimate_at(estimate: Estimate, ratio: float, setup: Setup) -> Estimate:
    """The estimate of a print when everything grows by a ratio: layers with it, solid volume with its cube.

    Supports are not made anew for it, nor walls kept, so the rebuilt figure replaces it.
    """
    layers = max(ceil(estimate.layers * ratio), 1)
    millilitres = estimate.material_ml * ratio**3
    times, flow = setup.setting.times, setup.setting.mm3_per_second
    first = min(times.first_layers, layers)
    seconds = first * times.seconds_per_first_layer + (layers - first) * times.seconds_per_layer
    if flow is not None:
        seconds += millilitres * 1000 / flow
    return Estimate(
        layers=layers,
        seconds=seconds,
        material_ml=millilitres,
        money=millilitres * setup.material.price_per_litre / 1000,
        peak_area_mm2=estimate.peak_area_mm2 * ratio**2,
        model="Estimated from the size it has now: layers grow with it, solid volume with its cube; supports grow with "
        "neither, and are made anew when it is set.",
        flows=estimate.flows,
    )
