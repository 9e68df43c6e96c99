"""Blobs: bytes under their own SHA-256, written whole or not at all."""

import errno
import hashlib
import mmap
import os
import tempfile
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from ulvet.core.geometry.mesh import Mesh

__all__ = ["DISK_FULL", "DISK_FULL_SAYS", "Blobs", "MissingBlob", "file_hash", "write_whole"]

DISK_FULL = frozenset({errno.ENOSPC, errno.EDQUOT})
"""Error numbers of the system for a disk, or one's share of it, that is full."""
DISK_FULL_SAYS = (
    "The disk is full, and this could not be kept; everything saved before is safe. "
    "Make room, or run “ulvet check --collect” to remove what nothing needs, and try again."
)


_NAME_LENGTH = 64
"""Letters of a SHA-256 in hex."""


class MissingBlob(LookupError):
    """A blob that the store does not hold."""


def write_whole(path: Path, data: bytes, lasting: bool = True) -> None:
    """Write a file so that readers see all of it or none: temporary file, flush to disk, rename.

    What can be made again need not be ``lasting``: it is not flushed, and may be damaged when the power fails.
    """
    handle, name = tempfile.mkstemp(dir=path.parent, prefix=".new-")
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            if lasting:
                file.flush()
                os.fsync(file.fileno())
        Path(name).replace(path)
    except BaseException:
        Path(name).unlink(missing_ok=True)
        raise


def file_hash(path: Path) -> str:
    """What a file would be kept under."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


class Blobs:
    """A folder of blobs, spread over 256 subfolders."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def put(self, data: bytes) -> str:
        """Keep the bytes and return their hash; nothing is written when they are there already."""
        name = hashlib.sha256(data).hexdigest()
        path = self._path(name)
        self._write(path, lambda: data)
        return name

    def put_file(self, source: Path, name: str) -> None:
        """Keep a finished file on the same disk, which stays where it is, under its hash."""
        with source.open("rb") as file:
            os.fsync(file.fileno())
        path = self._path(name)
        path.parent.mkdir(parents=True, exist_ok=True)
        with suppress(FileExistsError):
            os.link(source, path)

    def names(self) -> list[str]:
        """The name of every blob, sorted."""
        return sorted(path.name for path in self._folder.glob("??/*") if len(path.name) == _NAME_LENGTH)

    def remove(self, name: str) -> int:
        """Remove a blob and return the bytes it took.

        Raises MissingBlob.
        """
        path = self.path(name)
        size = path.stat().st_size
        path.unlink()
        return size

    def put_mesh(self, mesh: Mesh) -> str:
        """Keep a mesh; its blob hash is its own."""
        path = self._path(mesh.hash)
        self._write(path, mesh.to_bytes)
        return mesh.hash

    @staticmethod
    def _write(path: Path, content: Callable[[], bytes]) -> None:
        if path.exists():
            path.touch()  # it is wanted now, however old
        else:
            path.parent.mkdir(parents=True, exist_ok=True)
            write_whole(path, content())

    def path(self, name: str) -> Path:
        """The file of a blob.

        Raises MissingBlob.
        """
        path = self._path(name)
        if not path.is_file():
            raise MissingBlob(f"The data {name[:12]} is missing from the store.")
        return path

    def holds(self, name: str) -> bool:
        """Whether there is such a blob."""
        return self._path(name).is_file()

    def read(self, name: str) -> memoryview:
        """The bytes of a blob, memory-mapped.

        Raises MissingBlob.
        """
        with self.path(name).open("rb") as file:
            if os.fstat(file.fileno()).st_size == 0:
                return memoryview(b"")  # nothing can be mapped of it
            return memoryview(mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ))

    def mesh(self, name: str) -> Mesh:
        """A mesh kept by ``put_mesh``, reading from the file as it is used.

        Raises MissingBlob.
        """
        return Mesh.from_bytes(self.read(name), name)

    def _path(self, name: str) -> Path:
        if len(name) != _NAME_LENGTH or not set(name) <= set("0123456789abcdef"):
            raise MissingBlob("That is not the name of anything in the store.")
        return self._folder / name[:2] / name
