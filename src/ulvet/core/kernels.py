"""Compilation of the few hot loops.

numba's cache on disk does not notice a change in another module, and the package folder may be
read-only: so compiled kernels live in the user's cache folder under the digest of the sources.
"""

import os
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import numba
from platformdirs import user_cache_path

from ulvet.core.digest import module_digest, modules_importing

_folder = user_cache_path("ulvet") / f"kernels-{module_digest(*modules_importing('ulvet.core.kernels.kernel'))}"
# For processes started from this one, and for this one should it read its environment again.
os.environ.setdefault("NUMBA_CACHE_DIR", str(_folder))
# For this one, which may have imported numba before.
vars(numba.config)["CACHE_DIR"] = os.environ["NUMBA_CACHE_DIR"]

__all__ = ["THREADS", "kernel", "kernel_folder", "typed"]

THREADS = 2
"""Threads of one computation; two jobs may be at work at once (bench default). Results do not depend on it."""

typed = numba.types
F = TypeVar("F", bound=Callable[..., Any])


def kernel(*signature: object) -> Callable[[F], F]:
    """Compile a function for one explicit signature: cached, without the interpreter lock, exact maths."""
    return numba.njit(*signature, cache=True, nogil=True, error_model="numpy")  # type: ignore[call-overload]


def kernel_folder() -> Path:
    """Where the compiled kernels of this source tree are kept."""
    return Path(os.environ["NUMBA_CACHE_DIR"])
