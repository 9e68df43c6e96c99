"""3MF, by its consortium's reference library, behind an archive that was counted first."""

import ctypes
import locale
import re
import zipfile
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from itertools import pairwise
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from uuid import NAMESPACE_URL, uuid5

import lib3mf
import numpy as np
from numpy.typing import NDArray

from ulvet.core.formats.archive import MOST_UNPACKED_XML, chunks_of, open_archive, refuse_document_types
from ulvet.core.formats.corners import mesh_of_faces
from ulvet.core.formats.errors import UnreadableFile, UnwritableFile
from ulvet.core.formats.reading import MOST_PIECES, MOST_TRIANGLES, Reading, named_pieces
from ulvet.core.geometry.mesh import Mesh, Points

__all__ = ["read_3mf", "threemf_bytes"]

_MM = {"MicroMeter": 0.001, "MilliMeter": 1.0, "CentiMeter": 10.0, "Inch": 25.4, "Foot": 304.8, "Meter": 1000.0}
_DEEPEST = 32
"""Levels of assemblies in assemblies."""
_MOST_PLACED = 100_000
"""Objects placed on a build plate, before they are unfolded."""
_FARTHEST = 1e9
"""mm; coordinates beyond it the library refuses."""
_LONGEST_TAG = 1 << 16
"""Bytes; what is longer is no tag of a model, and the library refuses it."""
_ENDLESS = (
    "{} repeats its parts so often or so deep that they make more than can be printed: "
    "export only what is to be printed."
)
_TAGS = re.compile(rb"<(?:\w+:)?(object|component)\b([^>]*)>")
_ATTRIBUTES = re.compile(rb"""(?:\w+:)?(\w+)\s*=\s*["']([^"']*)["']""")


@contextmanager
def _locale_kept() -> Iterator[None]:
    # The library puts the whole process into the C locale, in which text files would no longer be UTF-8.
    before = locale.setlocale(locale.LC_ALL)
    try:
        yield
    finally:
        locale.setlocale(locale.LC_ALL, before)


@_locale_kept()
def read_3mf(path: Path) -> Reading:
    """Everything on the build plate of a 3MF in millimetres, its components placed; every item is a piece.

    Raises UnreadableFile for an archive or XML that is not to be trusted, a damaged model, or one that repeats its
    parts beyond measure.
    """
    with open_archive(path, MOST_UNPACKED_XML) as archive:
        refuse_document_types(path, archive)
        _refuse_endless(path, archive)
    try:
        model = lib3mf.Wrapper().CreateModel()
        reader = model.QueryReader("3mf")
        reader.SetStrictModeActive(False)
        reader.ReadFromFile(str(path))
        unit = _MM[model.GetUnit().name]
        plate = _Plate(path)
        names = []
        items = model.GetBuildItems()
        while items.MoveNext():
            item = items.GetCurrent()
            thing = item.GetObjectResource()
            plate.begin_item()
            plate.place(thing, _matrix(item.GetObjectTransform()))
            names.append(thing.GetName())
    except lib3mf.ELib3MFException as error:
        raise UnreadableFile(f"{path.name} is damaged or no 3MF that can be read: export it again.") from error
    points, faces = plate.taken()
    points *= unit
    apart = plate.items() if 1 < len(names) <= MOST_PIECES else []
    meshes = [(name, mesh_of_faces(path, points, faces[rows])) for name, rows in zip(names, apart, strict=False)]
    return Reading(mesh_of_faces(path, points, faces), unit="mm", up="z", pieces=named_pieces(meshes))


def _refuse_endless(path: Path, archive: zipfile.ZipFile) -> None:
    """Refuse assemblies that place assemblies beyond measure, before the library unfolds them.

    A few lines can ask for two to the thousandth placements: each object's are counted from those of its components.
    """
    endless = UnreadableFile(_ENDLESS.format(path.name))
    tags: list[tuple[str, bytes, dict[bytes, bytes]]] = []
    for name in archive.namelist():
        if name.lower().endswith(".model"):
            for kind, said in _tags(archive, name):
                tags.append((name, kind, said))
                if len(tags) > _MOST_PLACED:
                    raise endless
    placed: dict[tuple[str, bytes], int] = {}
    depth: dict[tuple[str, bytes], int] = {}
    for _ in range(_DEEPEST):  # again until what one model takes from another is known
        before, thing = dict(placed), ("", b"")
        for name, kind, said in tags:
            if kind == b"object":
                thing = (name, said.get(b"id", b""))
                placed[thing], depth[thing] = 1, 0
                continue
            elsewhere = said.get(b"path", b"").decode("latin-1").lstrip("/")
            other = (elsewhere or name, said.get(b"objectid", b""))
            placed[thing] = placed.get(thing, 1) + placed.get(other, 1)
            depth[thing] = max(depth.get(thing, 0), depth.get(other, 0) + 1)
            if placed[thing] > _MOST_PLACED or depth[thing] > _DEEPEST:
                raise endless
        if placed == before:
            return
    raise endless


def _tags(archive: zipfile.ZipFile, name: str) -> Iterator[tuple[bytes, dict[bytes, bytes]]]:
    """Objects and components of a model with their attributes, read a megabyte at a time."""
    before = b""
    for chunk in chunks_of(archive, name):
        seen = before + chunk
        whole = seen.rfind(b">") + 1
        for tag in _TAGS.finditer(seen, 0, whole):
            yield tag[1], dict(_ATTRIBUTES.findall(tag[2]))
        before = seen[whole:][-_LONGEST_TAG:]


class _Plate:
    """Meshes as they are placed; every mesh is fetched once, however often it is placed."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self._fetched: dict[int, tuple[Points, NDArray[np.int64]]] = {}
        self._points: list[Points] = []
        self._faces: list[NDArray[np.int64]] = []
        self._corners = self._triangles = self._placed = 0
        self._begun: list[int] = []

    def begin_item(self) -> None:
        """Count what is placed from now on to the next item."""
        self._begun.append(self._triangles)

    def items(self) -> list[slice]:
        """Rows of the faces of each item."""
        return [slice(a, b) for a, b in pairwise([*self._begun, self._triangles])]

    def place(self, thing: "lib3mf.Object", matrix: Points, depth: int = 0) -> None:
        """A mesh, or the components of an assembly, at a place: ``matrix`` (4, 3), row vectors."""
        self._placed += 1
        if depth > _DEEPEST or self._placed > _MOST_PLACED or self._triangles > MOST_TRIANGLES:
            raise UnreadableFile(_ENDLESS.format(self._path.name))
        if thing.IsMeshObject():
            self._lay(thing, matrix)
            return
        for number in range(thing.GetComponentCount()):
            component = thing.GetComponent(number)
            inner = _matrix(component.GetTransform()) if component.HasTransform() else np.eye(4)[:, :3]
            moved = inner @ matrix[:3]
            moved[3] += matrix[3]
            self.place(component.GetObjectResource(), moved, depth + 1)

    def _lay(self, thing: "lib3mf.MeshObject", matrix: Points) -> None:
        number = thing.GetResourceID()
        if number not in self._fetched:
            self._fetched[number] = (_vertices(thing), _triangles(thing))
        points, faces = self._fetched[number]
        mirrored = np.linalg.det(matrix[:3]) < 0
        self._points.append(points @ matrix[:3] + matrix[3])
        self._faces.append(faces[:, :: -1 if mirrored else 1] + self._corners)
        self._corners += len(points)
        self._triangles += len(faces)

    def taken(self) -> tuple[Points, NDArray[np.int64]]:
        """All that was placed: points (n, 3) and faces (m, 3)."""
        if not self._points:
            return np.empty((0, 3)), np.empty((0, 3), np.int64)
        return np.concatenate(self._points), np.concatenate(self._faces)


def _matrix(transform: "lib3mf.Transform") -> Points:
    return np.array([list(row) for row in transform.Fields], dtype=np.float64)


def _vertices(thing: "lib3mf.MeshObject") -> Points:
    raw = _fetched(thing, lib3mf.Position, thing.GetVertexCount(), "getvertices")
    return np.frombuffer(raw, np.float32).reshape(-1, 3).astype(np.float64)


def _triangles(thing: "lib3mf.MeshObject") -> NDArray[np.int64]:
    raw = _fetched(thing, lib3mf.Triangle, thing.GetTriangleCount(), "gettriangleindices")
    return np.frombuffer(raw, np.uint32).reshape(-1, 3).astype(np.int64)


def _fetched(thing: "lib3mf.MeshObject", kind: Any, count: int, call: str) -> Any:
    # The library's Python layer makes an object of every corner; its C layer fills a buffer.
    wrapper, filled = thing._wrapper, ctypes.c_uint64(0)
    buffer = (kind * count)()
    fetch = getattr(wrapper.lib, f"lib3mf_meshobject_{call}")
    wrapper.checkError(thing, fetch(thing._handle, ctypes.c_uint64(count), filled, buffer))
    return buffer


@_locale_kept()
def threemf_bytes(parts: Sequence[tuple[str, Mesh]]) -> bytes:
    """Named parts in mm, z up, as a 3MF with one build item a part; equal parts give equal bytes.

    The format has no faces with two equal corners; they are left out, which takes nothing off the shape.

    Raises UnwritableFile for a part that the format does not carry.
    """
    wrapper = lib3mf.Wrapper()
    model = wrapper.CreateModel()
    model.SetUnit(lib3mf.ModelUnit.MilliMeter)
    _set_uuid(model.SetBuildUUID, "build", parts)
    for name, mesh in parts:
        thing = model.AddMeshObject()
        thing.SetName(name)
        if float(np.abs(mesh.vertices).max(initial=0.0)) > _FARTHEST:
            raise UnwritableFile(
                f"{name} is too large for a 3MF, whose coordinates end at {_FARTHEST / 1e6:g} km: look at its unit, or "
                "give it a size; nothing was changed."
            )
        a, b, c = mesh.faces.T
        whole = mesh.faces[(a != b) & (b != c) & (c != a)]
        points, faces = _buffer(lib3mf.Position, mesh.vertices.astype("<f4")), _buffer(lib3mf.Triangle, whole)
        counts = ctypes.c_uint64(len(points)), ctypes.c_uint64(len(faces))
        put = wrapper.lib.lib3mf_meshobject_setgeometry
        wrapper.checkError(thing, put(thing._handle, counts[0], points, counts[1], faces))
        _set_uuid(thing.SetUUID, name, [(name, mesh)])
        item = model.AddBuildItem(thing, wrapper.GetIdentityTransform())
        _set_uuid(item.SetUUID, f"{name} placed", [(name, mesh)])
    with TemporaryDirectory(prefix="ulvet-") as folder:
        out = Path(folder) / "figure.3mf"
        model.QueryWriter("3mf").WriteToFile(str(out))
        return out.read_bytes()


def _set_uuid(put: Callable[[str], None], what: str, parts: Sequence[tuple[str, Mesh]]) -> None:
    # Drawn at random otherwise, and then equal parts would not give equal bytes.
    put(str(uuid5(NAMESPACE_URL, f"{what} {' '.join(name + mesh.hash for name, mesh in parts)}")))


def _buffer(kind: Any, array: NDArray[Any]) -> Any:
    whole = np.ascontiguousarray(array)
    return (kind * len(whole)).from_buffer_copy(whole.tobytes())
