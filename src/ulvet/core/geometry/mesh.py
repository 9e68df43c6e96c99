"""The mesh value and the few measures everything else is made from."""

import hashlib
import struct
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

__all__ = [
    "Faces",
    "Floats",
    "Mesh",
    "Points",
    "area",
    "bounds",
    "concatenated",
    "face_areas",
    "face_cross",
    "face_normals",
    "faces_in_box",
    "flipped",
    "scaled",
    "spatially_sorted",
    "translated",
    "vertex_normals",
    "volume",
]

Points = NDArray[np.float64]
Floats = NDArray[np.float64]
Faces = NDArray[np.int32]

_MAGIC = b"ULVMESH1"
_HEAD = struct.Struct("<8sQQ")


@dataclass(frozen=True, eq=False)
class Mesh:
    """Triangles over shared vertices.

    ``vertices`` is (n, 3) float64 in figure mm, ``faces`` (m, 3) int32, anticlockwise from outside.
    Both are read-only. Two meshes are equal when their bytes are.

    Raises ValueError for wrong shapes, coordinates that are not finite, or indices out of range.
    """

    vertices: Points
    faces: Faces

    def __post_init__(self) -> None:
        vertices = np.ascontiguousarray(self.vertices, dtype="<f8")
        faces = np.ascontiguousarray(self.faces, dtype="<i4")
        if vertices.ndim != 2 or vertices.shape[1] != 3 or faces.ndim != 2 or faces.shape[1] != 3:
            raise ValueError("A mesh needs vertices of shape (n, 3) and faces of shape (m, 3).")
        if not np.isfinite(vertices).all():
            raise ValueError("A mesh needs finite coordinates.")
        if len(faces) and (faces.min() < 0 or faces.max() >= len(vertices)):
            raise ValueError("A face points to a vertex that does not exist.")
        for name, array in (("vertices", vertices), ("faces", faces)):
            view = array.view()
            view.flags.writeable = False
            object.__setattr__(self, name, view)

    def to_bytes(self) -> bytes:
        """The canonical bytes: a 24-byte head (magic, counts), vertices, faces, little-endian."""
        head = _HEAD.pack(_MAGIC, len(self.vertices), len(self.faces))
        return head + self.vertices.tobytes() + self.faces.tobytes()

    @classmethod
    def from_bytes(cls, data: bytes | memoryview, known: str | None = None) -> "Mesh":
        """The mesh of ``to_bytes``; a memory map is read without copying. Its hash, where ``known``, is believed.

        Raises ValueError when the bytes are not a whole mesh.
        """
        if len(data) < _HEAD.size:
            raise ValueError("These bytes are too short for a mesh.")
        magic, n, m = _HEAD.unpack_from(data)
        if magic != _MAGIC or len(data) != _HEAD.size + 24 * n + 12 * m:
            raise ValueError("These bytes are not a whole mesh.")
        vertices = np.frombuffer(data, "<f8", 3 * n, _HEAD.size).reshape(n, 3)
        faces = np.frombuffer(data, "<i4", 3 * m, _HEAD.size + 24 * n).reshape(m, 3)
        mesh = cls(vertices, faces)
        if known is not None:
            mesh.__dict__["hash"] = known
        return mesh

    @cached_property
    def cross(self) -> Floats:
        """What ``face_cross`` gives; kept, since nearly every measure begins with it."""
        a, b, c = (self.vertices[self.faces[:, k]] for k in range(3))
        cross = np.cross(b - a, c - a)
        cross.flags.writeable = False
        return cross

    @cached_property
    def hash(self) -> str:
        """SHA-256 of the canonical bytes."""
        return hashlib.sha256(self.to_bytes()).hexdigest()


def bounds(mesh: Mesh) -> Points:
    """Lowest and highest corner, (2, 3) mm; zeros for a mesh without vertices."""
    if not len(mesh.vertices):
        return np.zeros((2, 3))
    columns = mesh.vertices.T  # one by one, which is six times as fast as along the first axis
    return np.array([[column.min() for column in columns], [column.max() for column in columns]])


def face_cross(mesh: Mesh) -> Floats:
    """Cross product of two sides of every face, (m, 3): outward, twice the area long; read-only."""
    return mesh.cross


def face_areas(mesh: Mesh) -> Floats:
    """Area of every face, (m,) mm²."""
    return 0.5 * np.sqrt(np.einsum("ij,ij->i", *(face_cross(mesh),) * 2))


def face_normals(mesh: Mesh) -> Floats:
    """Outward unit normal of every face, (m, 3); zero for a face without area."""
    return _unit(face_cross(mesh))


def vertex_normals(mesh: Mesh) -> Floats:
    """Angle-weighted unit normal of every vertex, (n, 3) (Thürmer and Wüthrich 1998)."""
    corners = mesh.vertices[mesh.faces]
    normals = face_normals(mesh)
    total = np.zeros_like(mesh.vertices)
    for k in range(3):
        u = _unit(corners[:, (k + 1) % 3] - corners[:, k])
        v = _unit(corners[:, (k + 2) % 3] - corners[:, k])
        angle = np.arccos(np.clip(np.einsum("ij,ij->i", u, v), -1, 1))
        for axis in range(3):
            total[:, axis] += np.bincount(mesh.faces[:, k], angle * normals[:, axis], minlength=len(total))
    return _unit(total)


def faces_in_box(mesh: Mesh, low: Points, high: Points) -> NDArray[np.int64]:
    """Faces (k,) that are not wholly on one side of a box, given by its low and its high corner (3,)."""
    a, b, c = mesh.faces.T
    aside = np.zeros(len(mesh.faces), bool)
    for side in (mesh.vertices < low, mesh.vertices > high):
        for beyond in np.ascontiguousarray(side.T):
            aside |= beyond[a] & beyond[b] & beyond[c]
    return np.flatnonzero(~aside)


def area(mesh: Mesh) -> float:
    """Surface in mm²."""
    return float(face_areas(mesh).sum())


def volume(mesh: Mesh) -> float:
    """Signed enclosed volume in mm³, by the divergence theorem about the box centre.

    Means something only for a closed mesh; overlapping shells count twice.
    """
    if not len(mesh.faces):
        return 0.0
    centre = bounds(mesh).mean(axis=0)
    first = mesh.vertices[mesh.faces[:, 0]] - centre
    return float(np.einsum("ij,ij->", first, face_cross(mesh)) / 6)


def scaled(mesh: Mesh, factor: float) -> Mesh:
    """The mesh grown about the origin."""
    return Mesh(mesh.vertices * factor, mesh.faces)


def translated(mesh: Mesh, offset: Points) -> Mesh:
    """The mesh shifted by ``offset`` (3,) mm."""
    return Mesh(mesh.vertices + offset, mesh.faces)


def flipped(mesh: Mesh) -> Mesh:
    """The mesh with every face looking the other way."""
    return Mesh(mesh.vertices, mesh.faces[:, ::-1])


def spatially_sorted(mesh: Mesh) -> Mesh:
    """The same surface with vertices and faces in an order that keeps neighbours near each other (Morton 1966)."""
    low, high = bounds(mesh)
    cell = ((mesh.vertices - low) * (1023 / max(float((high - low).max()), 1e-300))).astype(np.uint32)
    key = np.zeros(len(cell), np.uint32)
    for axis in range(3):
        bits = cell[:, axis]
        for shift, mask in ((16, 0x030000FF), (8, 0x0300F00F), (4, 0x030C30C3), (2, 0x09249249)):
            bits = (bits | (bits << np.uint32(shift))) & np.uint32(mask)
        key |= bits << np.uint32(axis)
    order = np.argsort(key, kind="stable")
    place = np.empty(len(order), np.int32)
    place[order] = np.arange(len(order), dtype=np.int32)
    faces = place[mesh.faces]
    return Mesh(mesh.vertices[order], faces[np.argsort(faces.min(axis=1), kind="stable")])


def concatenated(*meshes: Mesh) -> Mesh:
    """Several meshes as one, shell beside shell."""
    starts = np.cumsum([0, *(len(mesh.vertices) for mesh in meshes[:-1])])
    return Mesh(
        np.concatenate([mesh.vertices for mesh in meshes]),
        np.concatenate([mesh.faces + start for mesh, start in zip(meshes, starts, strict=True)]),
    )


def _unit(vectors: Floats) -> Floats:
    length = np.sqrt(np.einsum("ij,ij->i", vectors, vectors))
    return vectors / np.where(length > 0, length, 1)[:, None]
