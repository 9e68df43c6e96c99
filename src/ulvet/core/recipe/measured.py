"""Values that are measured once and kept under a key: one codec for all of them.

Kept values are pickled: they are read only from the data folder that this program wrote, under the digest of the code
that wrote them.
"""

import pickle
from collections.abc import Callable
from typing import TypeVar

from ulvet.core.recipe.runner import Memory

__all__ = ["measured_once"]

T = TypeVar("T")


def measured_once(memory: Memory, key: str, measure: Callable[[], T]) -> T:
    """Give what is kept under ``key``, or measure it and keep it."""
    known = memory.recall_measured(key)
    if known is not None:
        kept: T = pickle.loads(known)
        return kept
    value = measure()
    memory.keep_measured(key, pickle.dumps(value, pickle.HIGHEST_PROTOCOL))
    return value
