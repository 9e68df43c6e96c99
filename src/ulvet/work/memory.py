"""How much memory jobs take and the machine has."""

import os
from pathlib import Path

from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.step import Phase

__all__ = ["bring_in_memory", "build_memory", "memory_for_jobs"]

_SHARE = 0.75  # of the machine's memory that jobs may take together
_LOADED = 250_000_000  # a process with the geometry libraries and no mesh
_A_TRIANGLE = 2100
"""Bytes that a build takes for a triangle (measured on 0.87 million)."""
_STANDING = 600_000_000  # layers of two ways at once, and the air about the figure
_A_BYTE = 8
"""Bytes that reading takes for a byte of the file, roughly."""
_CGROUP = Path("/sys/fs/cgroup/memory.max")


def build_memory(recipe: Recipe, triangles: int) -> int:
    """Bytes that a build of so many triangles takes at its peak (measured on 0.87 million: 2.0 GB)."""
    standing = any(step.on and step.phase is Phase.STAND for step in recipe.steps)
    return _LOADED + _A_TRIANGLE * triangles + standing * _STANDING


def bring_in_memory(file_bytes: int) -> int:
    """Bytes that reading a file of so many bytes takes at its peak."""
    return _LOADED + _A_BYTE * file_bytes


def memory_for_jobs() -> int:
    """Bytes all jobs together may take: three quarters of the machine's, or of what this process is allowed."""
    whole = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    if _CGROUP.is_file() and (said := _CGROUP.read_text("utf-8").strip()).isdigit():
        whole = min(whole, int(said))
    return int(whole * _SHARE)
