"""OBJ: vertices and faces; textures, normals, groups and materials are passed over."""

import io
import re
from collections.abc import Sequence
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.formats.lines import Block, line_blocks, numbers_of, starts_with
from ulvet.core.geometry.mesh import Faces, Mesh, Points
from ulvet.core.geometry.welding import weld_within

__all__ = ["obj_bytes", "obj_name", "read_obj"]

_SLASHES = re.compile(rb"/\S*")
_NOT_A_NAME = re.compile(r"[^\w.-]+")
_CONTINUED = re.compile(rb"\\\n")
Ints = NDArray[np.int64]


def read_obj(path: Path) -> Mesh:
    """The polygons of an OBJ as triangles (fans), vertices at equal coordinates joined.

    Raises UnreadableFile for text that is not OBJ, numbers that cannot be read, coordinates that are not
    finite, and faces with fewer than three corners or with a corner that does not exist.
    """
    points: list[Points] = []
    triangles: list[Ints] = []
    count = 0
    for block in map(_unfolded, line_blocks(path)):
        is_vertex, is_face = starts_with(block, b"v"), starts_with(block, b"f")
        before = count + np.cumsum(is_vertex)[is_face]
        new = _vertices(path, block, is_vertex)
        points.append(new)
        count += len(new)
        triangles.append(_triangles(path, block, is_face, before))
    if not count:
        raise UnreadableFile(
            f"{path.name} holds no OBJ vertices: it is something else under this name; export the figure again."
        )
    vertices, corners = np.concatenate(points), np.concatenate(triangles)
    if len(corners) and (corners.min() < 0 or corners.max() >= count):
        wrong = corners.max() + 1 if corners.max() >= count else corners.min()
        raise UnreadableFile(
            f"{path.name} has a face that points to vertex {wrong:,} where only {count:,} exist: "
            "it was cut off or badly written; export it again."
        )
    return weld_within(_used(vertices, corners.astype(np.int32)), 0.0)[0]


def obj_bytes(parts: Sequence[tuple[str, Mesh]]) -> bytes:
    """Named parts in mm, z up, as OBJ text: one object a part, coordinates with all digits of
    single precision."""
    buffer = io.BytesIO(b"# Ulvet, millimetres, z up\n")
    buffer.seek(0, io.SEEK_END)
    first = 1
    for name, mesh in parts:
        buffer.write(f"o {obj_name(name)}\n".encode())
        np.savetxt(buffer, mesh.vertices, "v %.9g %.9g %.9g")
        np.savetxt(buffer, mesh.faces + first, "f %d %d %d")
        first += len(mesh.vertices)
    return buffer.getvalue()


def obj_name(name: str) -> str:
    """A name as OBJ can hold it, in one word."""
    return _NOT_A_NAME.sub("-", name) or "part"


def _unfolded(block: Block) -> Block:
    if b"\\\n" not in block.text:
        return block
    text = _CONTINUED.sub(b" ", block.text)
    ends = np.flatnonzero(np.frombuffer(text, np.uint8) == 10)
    return Block(text, np.concatenate([[0], ends[:-1] + 1]), block.first_line)


def _vertices(path: Path, block: Block, is_vertex: NDArray[np.bool_]) -> Points:
    numbers = numbers_of(_blanked(block.lines(is_vertex)))
    if numbers is None:
        raise UnreadableFile(
            f"{path.name} has a vertex after line {block.line_number(is_vertex):,} that is not made of numbers; "
            "export it again."
        )
    values, _, place = numbers
    points = values[place < 3]
    if len(points) != 3 * is_vertex.sum():
        raise UnreadableFile(
            f"{path.name} has a vertex after line {block.line_number(is_vertex):,} with fewer than three numbers; "
            "export it again."
        )
    if not np.isfinite(points).all():
        raise UnreadableFile(
            f"{path.name} holds coordinates that are not numbers (NaN or infinite): "
            "mend or export the figure again in the program it comes from."
        )
    return points.reshape(-1, 3)


def _triangles(path: Path, block: Block, is_face: NDArray[np.bool_], before: Ints) -> Ints:
    """Fans of zero-based corners, (t, 3); ``before`` (faces,) is the number of vertices above each face."""
    numbers = numbers_of(_SLASHES.sub(b"", _blanked(block.lines(is_face))))
    if numbers is None or (numbers[0] != np.trunc(numbers[0])).any():
        raise UnreadableFile(
            f"{path.name} has a face after line {block.line_number(is_face):,} that is not made of whole numbers; "
            "export it again."
        )
    values, line, place = numbers
    sides = np.bincount(line, minlength=int(is_face.sum()))
    if (sides < 3).any():
        raise UnreadableFile(
            f"{path.name} has a face after line {block.line_number(is_face):,} with fewer than three corners; "
            "export it again."
        )
    if (np.abs(values) > 2**31).any() or (values == 0).any():
        raise UnreadableFile(
            f"{path.name} has a face that points to a vertex that cannot exist: it was badly written; export it again."
        )
    index = values.astype(np.int64)
    corner = np.where(index > 0, index - 1, before[line] + index)
    first = np.repeat(np.cumsum(sides) - sides, sides)
    fan = np.flatnonzero((place >= 1) & (place < sides[line] - 1))
    return np.stack([corner[first[fan]], corner[fan], corner[fan + 1]], axis=1)


def _blanked(lines: bytes) -> bytes:
    """The lines without their leading letter."""
    return re.sub(rb"(?m)^[vVfF]", b" ", lines)


def _used(vertices: Points, faces: Faces) -> Mesh:
    """Without vertices that no face uses, so that sizes speak of the surface."""
    kept = np.zeros(len(vertices), bool)
    kept[faces.ravel()] = True
    index = np.cumsum(kept) - 1
    return Mesh(vertices[kept], index[faces].astype(np.int32))
