"""Compiling every kernel ahead of its first use."""

import time
from importlib import import_module

__all__ = ["KERNEL_MODULES", "warm_kernels"]

KERNEL_MODULES = (
    "ulvet.core.welding",
    "ulvet.core.round_vertices",
    "ulvet.core.mend.holes",
    "ulvet.core.predicates",
    "ulvet.core.mend.crossing",
    "ulvet.core.mend.remake",
    "ulvet.core.layers.raster",
    "ulvet.core.layers.islands",
    "ulvet.core.gauge.sections",
    "ulvet.core.stand.screening",
    "ulvet.core.stand.room",
    "ulvet.core.strokes.brush",
)


def warm_kernels() -> float:
    """Import the modules that hold kernels, which compiles them where no cache does, and say how long it took (s)."""
    began = time.perf_counter()
    for module in KERNEL_MODULES:
        import_module(module)
    return time.perf_counter() - began
