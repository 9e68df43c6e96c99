"""Reading any supported file as one mesh, in the file's own units and axes."""

from pathlib import Path

import numpy as np

from ulvet.core.io.errors import UnreadableFile
from ulvet.core.io.obj import read_obj
from ulvet.core.io.stl import read_ascii_stl, read_binary_stl, stl_kind
from ulvet.core.mesh import Mesh, bounds

__all__ = ["FORMATS", "read_mesh"]

FORMATS = (".stl", ".obj")
"""Endings of the files that can be read."""


def read_mesh(path: Path | str) -> Mesh:
    """The mesh in an STL (binary or ASCII) or OBJ file; corners at equal coordinates share a vertex.

    Coordinates stay in the file's units and axes, as float64.

    Raises UnreadableFile, whose text is for the user, when the file is missing, empty, cut off, not what
    its name says, holds coordinates that are not finite or faces that point nowhere, or has no size.
    """
    path = Path(path)
    kind = path.suffix.lower()
    if kind not in FORMATS:
        raise UnreadableFile(
            f"Ulvet reads STL and OBJ, not {path.suffix or 'a file without an ending'}: "
            "export the figure as one of these and bring that in."
        )
    try:
        size = path.stat().st_size
        with path.open("rb") as file:
            head = file.read(512)
    except OSError as error:
        raise UnreadableFile(
            f"{path.name} could not be opened ({error.strerror}): check that it is still there."
        ) from error
    if not size:
        raise UnreadableFile(f"{path.name} is empty: export it again.")
    mesh = _read(path, kind, head, size)
    if not len(mesh.faces):
        raise UnreadableFile(f"{path.name} holds no faces: export the figure as triangles, not as points or curves.")
    if not (np.ptp(bounds(mesh), axis=0) > 0).any():
        raise UnreadableFile(f"{path.name} has no size, all its corners are at one point: export it again.")
    return mesh


def _read(path: Path, kind: str, head: bytes, size: int) -> Mesh:
    found = stl_kind(head, size)
    if kind == ".obj":
        if found:
            raise UnreadableFile(f"{path.name} is named OBJ but holds an STL: rename it to .stl and bring it in again.")
        return read_obj(path)
    if found == "binary":
        return read_binary_stl(path)
    if found == "ascii":
        return read_ascii_stl(path)
    if any(line.startswith((b"v ", b"# ", b"mtllib ", b"o ", b"g ")) for line in head.splitlines()[:-1]):
        raise UnreadableFile(
            f"{path.name} is named STL but looks like an OBJ: rename it to .obj and bring it in again."
        )
    if size < 84:
        raise UnreadableFile(
            f"{path.name} ends after {size} bytes, before an STL has begun: "
            "it was cut off or is something else; export it again."
        )
    said = int.from_bytes(head[80:84], "little")
    raise UnreadableFile(
        f"{path.name} is cut off or not an STL: its header promises {said:,} triangles, "
        f"which take {84 + 50 * said:,} bytes, and the file has {size:,}; export it again."
    )
