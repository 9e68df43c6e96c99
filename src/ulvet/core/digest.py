"""What the results depend on besides their inputs: the core's own source and its libraries."""

import hashlib
from functools import cache
from importlib.metadata import version
from pathlib import Path

__all__ = ["core_digest"]

_LIBRARIES = (
    "edt",
    "embreex",
    "fast-simplification",
    "gpytoolbox",
    "libigl",
    "numba",
    "numpy",
    "pydantic",
    "scikit-image",
    "scipy",
    "shapely",
)


@cache
def core_digest() -> str:
    """Hex digest of every source file of the core and of the versions of the libraries it computes with."""
    digest = hashlib.sha256()
    root = Path(__file__).parent
    for path in sorted([*root.rglob("*.py"), *root.rglob("*.json")]):
        digest.update(path.relative_to(root).as_posix().encode() + b"\0" + path.read_bytes())
    for library in _LIBRARIES:
        digest.update(f"{library}=={version(library)}\n".encode())
    return digest.hexdigest()[:24]
