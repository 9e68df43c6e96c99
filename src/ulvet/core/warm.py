"""Compiling every kernel ahead of its first use."""

import time
from importlib import import_module

from ulvet.core.digest import modules_importing

__all__ = ["warm_kernels"]


def warm_kernels() -> float:
    """Import the modules that hold kernels, which compiles them where no cache does, and say how long it took (s)."""
    began = time.perf_counter()
    for module in modules_importing("ulvet.core.kernels.kernel"):
        import_module(module)
    return time.perf_counter() - began
