"""Compilation of the few hot loops.

numba's cache on disk does not notice a change in another module, and the package folder may be
read-only: so compiled kernels live in the user's cache folder under the digest of the sources.
"""

import os
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

from platformdirs import user_cache_path

from ulvet.core.digest import core_digest

_folder = user_cache_path("ulvet") / f"kernels-{core_digest()}"
os.environ.setdefault("NUMBA_CACHE_DIR", str(_folder))

import numba  # noqa: E402  (reads the folder when it is imported)

__all__ = ["kernel", "kernel_folder", "typed"]

typed = numba.types
F = TypeVar("F", bound=Callable[..., Any])


def kernel(*signature: object) -> Callable[[F], F]:
    """Compile a function for one explicit signature: cached, without the interpreter lock, exact maths."""
    return numba.njit(*signature, cache=True, nogil=True, error_model="numpy")  # type: ignore[call-overload]


def kernel_folder() -> Path:
    """Where the compiled kernels of this source tree are kept."""
    return Path(os.environ["NUMBA_CACHE_DIR"])
