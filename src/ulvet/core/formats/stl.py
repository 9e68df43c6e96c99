"""STL in both spellings."""

from pathlib import Path
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ulvet.core.formats.corners import mesh_of_corners
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.formats.lines import line_blocks, numbers_of, starts_with
from ulvet.core.geometry.mesh import Mesh, face_normals
from ulvet.core.geometry.welding import weld_corners

__all__ = ["read_ascii_stl", "read_back", "read_binary_stl", "stl_bytes", "stl_kind"]

_RECORD = np.dtype([("normal", "<f4", 3), ("corners", "<f4", 9), ("attribute", "<u2")])
_HEAD_BYTES = 84
"""Bytes of a binary STL before its faces."""
_AT_ONCE = 1 << 16
"""Faces read at a time."""
_ASCII_WORDS = (b"solid", b"facet", b"outer", b"vertex", b"endloop", b"endfacet", b"endsolid")


def stl_kind(head: bytes, size: int) -> Literal["binary", "ascii"] | None:
    """Which STL these first bytes begin, for a file of ``size`` bytes; None for neither.

    The count in a binary header decides first: many binary files begin with the word "solid".
    """
    if len(head) >= 84 and 84 + 50 * int.from_bytes(head[80:84], "little") == size:
        return "binary"
    text = head.lstrip().lower()
    if text.startswith(b"solid") and b"\0" not in head:
        return "ascii"
    return None


def read_binary_stl(path: Path) -> Mesh:
    """A binary STL whose size fits its header. Normals and attributes are ignored.

    Raises UnreadableFile for coordinates that are not finite.
    """
    count = (path.stat().st_size - _HEAD_BYTES) // _RECORD.itemsize
    corners = np.empty((count, 9), np.float32)
    # In pieces, so that the file and the corners are never in memory together.
    with path.open("rb") as file:
        file.seek(_HEAD_BYTES)
        for start in range(0, count, _AT_ONCE):
            records = np.fromfile(file, _RECORD, _AT_ONCE)
            corners[start : start + len(records)] = records["corners"]
    return mesh_of_corners(path, corners)


def read_ascii_stl(path: Path) -> Mesh:
    """An ASCII STL, with one or several solids.

    Raises UnreadableFile for words that are not STL, numbers that cannot be read, facets without exactly three
    corners, a missing end, and coordinates that are not finite.
    """
    parts: list[NDArray[np.float64]] = []
    facets = 0
    ended = False
    for block in line_blocks(path):
        kinds = {word: starts_with(block, word) for word in _ASCII_WORDS}
        known = np.logical_or.reduce([*kinds.values(), starts_with(block, b"")])
        if not known.all():
            raise UnreadableFile(
                f"{path.name} is not a clean ASCII STL: line {block.line_number(~known):,} holds something else; "
                "export it again."
            )
        corners = kinds[b"vertex"]
        numbers = numbers_of(block.lines(corners).lower().replace(b"vertex", b" "))
        if numbers is None or len(numbers[0]) != 3 * corners.sum() or (numbers[2] > 2).any():
            raise UnreadableFile(
                f"{path.name} has a corner after line {block.line_number(corners):,} that is not three numbers; "
                "export it again."
            )
        parts.append(numbers[0])
        facets += int(kinds[b"endfacet"].sum())
        ended = bool(kinds[b"endsolid"].any()) or ended
    flat = np.concatenate(parts) if parts else np.empty(0)
    if not ended or len(flat) != 9 * facets:
        raise UnreadableFile(
            f"{path.name} stops in the middle of its triangles, it was cut off: export or copy it again."
        )
    return mesh_of_corners(path, flat.reshape(-1, 9))


def stl_bytes(mesh: Mesh) -> bytes:
    """The mesh as a binary STL: float32, with a fixed header, so that equal meshes give equal bytes."""
    records = np.zeros(len(mesh.faces), _RECORD)
    records["normal"] = face_normals(mesh)
    records["corners"] = mesh.vertices[mesh.faces].reshape(-1, 9)
    header = b"Ulvet, millimetres, z up".ljust(80) + len(records).to_bytes(4, "little")
    return header + records.tobytes()


def read_back(data: bytes) -> Mesh:
    """The mesh in the bytes that ``stl_bytes`` wrote."""
    records = np.frombuffer(data, _RECORD, offset=_HEAD_BYTES)
    return Mesh(*weld_corners(np.ascontiguousarray(records["corners"])))
