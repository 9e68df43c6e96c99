"""Writing parts in any format, by the name of the file."""

from collections.abc import Callable, Sequence
from pathlib import Path

from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.formats.glb import glb_bytes
from ulvet.core.formats.obj import obj_bytes
from ulvet.core.formats.ply import ply_bytes
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.formats.threemf import threemf_bytes
from ulvet.core.geometry.mesh import Mesh, concatenated

__all__ = ["WRITTEN", "bytes_for"]

Parts = Sequence[tuple[str, Mesh]]


def _as_one(write: Callable[[Mesh], bytes]) -> Callable[[Parts], bytes]:
    return lambda parts: write(concatenated(*(mesh for _, mesh in parts)))


WRITTEN: dict[str, Callable[[Parts], bytes]] = {
    ".stl": _as_one(stl_bytes),
    ".ply": _as_one(ply_bytes),
    ".obj": obj_bytes,
    ".3mf": threemf_bytes,
    ".glb": glb_bytes,
}
"""Writers by ending. STL and PLY know no parts: there, all become one."""


def bytes_for(path: Path, parts: Parts) -> bytes:
    """Named parts in mm, z up, as the bytes of a file of that name.

    Raises UnreadableFile for an ending that is not written.
    """
    write = WRITTEN.get(path.suffix.lower())
    if write is None:
        raise UnreadableFile(
            f"{path.name} is in no format that Ulvet writes: name a file that ends in {', '.join(WRITTEN)}."
        )
    return write(parts)
