"""What is drawn of a build, made once for what it is drawn from."""

import hashlib
from collections.abc import Callable
from functools import cache
from pathlib import Path
from typing import TypeVar

from ulvet.core.blob_hash import BlobHash
from ulvet.core.digest import core_digest
from ulvet.core.recipe.measured import measured_once
from ulvet.store.blobs import Blobs
from ulvet.store.results import DiskMemory

__all__ = ["DrawingCache"]

T = TypeVar("T")


class DrawingCache:
    """Blobs and values by what they are made of: plain values, hashes of meshes and keys of measures."""

    def __init__(self, memory: DiskMemory, blobs: Blobs) -> None:
        self._memory, self._blobs = memory, blobs

    def blob(self, make: Callable[[], bytes], *made_of: object) -> BlobHash:
        """The name of the blob that ``make`` gives, which is made anew only where it is not there."""
        key = _key("blob", made_of)
        known = self._memory.recall_measured(key)
        if known is not None and self._blobs.holds(known.decode()):
            return BlobHash(known.decode())
        name = self._blobs.put(make())
        self._memory.keep_measured(key, name.encode())
        return BlobHash(name)

    def value(self, make: Callable[[], T], *made_of: object) -> T:
        """What ``make`` gives, kept as what checks measure is."""
        return measured_once(self._memory, _key("value", made_of), make)


def _key(kind: str, made_of: tuple[object, ...]) -> str:
    return hashlib.sha256(repr((kind, made_of, _drawing_digest())).encode()).hexdigest()


@cache
def _drawing_digest() -> str:
    """Of the source that draws: the core, and the modules here."""
    digest = hashlib.sha256(core_digest().encode())
    for path in sorted(Path(__file__).parent.glob("*.py")):
        digest.update(path.read_bytes())
    return digest.hexdigest()
