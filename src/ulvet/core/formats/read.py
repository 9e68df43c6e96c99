"""Reading any supported file as one mesh, in the file's own units and axes."""

from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from ulvet.core.formats.archive import open_archive, unpacked_member
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.formats.glb import read_glb
from ulvet.core.formats.obj import read_obj
from ulvet.core.formats.ply import read_ply
from ulvet.core.formats.reading import Reading
from ulvet.core.formats.scans import FUSED, read_scan_archive, read_scan_folder
from ulvet.core.formats.stl import read_ascii_stl, read_binary_stl, stl_kind
from ulvet.core.formats.threemf import read_3mf
from ulvet.core.geometry.mesh import Mesh, bounds
from ulvet.core.geometry.topology import connected_groups
from ulvet.core.sources.scan import Scan

__all__ = ["FORMATS", "MOST_BYTES", "PACKED", "read_file", "read_mesh", "read_scan"]

FORMATS = (".stl", ".obj", ".ply", ".3mf", ".glb")
"""Endings of the figures that can be read."""
PACKED = ".zip"
"""Ending of an archive with one of them inside, as figures with textures come."""
MOST_SHELLS = 100_000
"""More separate shells than this are taken for dust (bench default)."""
MOST_BYTES = 1_500_000_000
"""Larger files are not read (bench default): five million triangles as text take less."""
_NAMES = "STL, OBJ, PLY, 3MF and GLB"


def read_mesh(path: Path | str) -> Mesh:
    """The mesh in a file: ``read_file`` without what the file says of itself."""
    return read_file(path).mesh


def read_file(path: Path | str) -> Reading:
    """The figure in an STL (binary or ASCII), OBJ, PLY, 3MF or GLB file, or in a ZIP that holds one of them.

    Corners at equal coordinates share a vertex. Coordinates stay in the file's units and axes, as float64.

    Raises UnreadableFile, whose text is for the user, when the file is missing, empty, cut off, not what its name says,
    not to be trusted, holds coordinates that are not finite or faces that point nowhere, or has no size.
    """
    path = Path(path)
    kind = path.suffix.lower()
    if kind not in (*FORMATS, PACKED):
        raise UnreadableFile(
            f"Ulvet reads {_NAMES}, alone or in a ZIP, not {path.suffix or 'a file without an ending'}: "
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
    if size > MOST_BYTES:
        raise UnreadableFile(
            f"{path.name} is {size / 1e9:.1f} GB, and more than {MOST_BYTES / 1e9:.1f} GB are not read: thin out its "
            "triangles, which print finer than they need to be, and bring it in again."
        )
    if kind == PACKED:
        if scanned := read_scan_archive(path):
            return _scanned(path.name, *scanned)
        with open_archive(path) as archive, unpacked_member(path, archive, FORMATS) as inner:
            try:
                return read_file(inner)
            except UnreadableFile as refusal:
                raise UnreadableFile(f"In {path.name}: {refusal}") from refusal
    read = _read(path, kind, head, size)
    mesh = read.mesh
    if not len(mesh.faces):
        raise UnreadableFile(f"{path.name} holds no faces: export the figure as triangles, not as points or curves.")
    if not (np.ptp(bounds(mesh), axis=0) > 0).any():
        raise UnreadableFile(f"{path.name} has no size, all its corners are at one point: export it again.")
    _refuse_dust(path, mesh)
    return read


def read_scan(folder: Path) -> Reading:
    """The scan in a folder as a scanner delivers it, or in a ZIP of one.

    Raises UnreadableFile.
    """
    if folder.is_file():
        read = read_file(folder)
        if read.scan is None:
            raise UnreadableFile(f"{folder.name} is no scan: it holds no passes of points.")
        return read
    return _scanned(folder.name, *read_scan_folder(folder))


def _scanned(name: str, scan: Scan, fused: bytes) -> Reading:
    """A scan with the mesh its device made of it; which way is up follows from the turntable, in a step of its own."""
    with TemporaryDirectory(prefix="ulvet-") as folder:
        path = Path(folder) / FUSED
        path.write_bytes(fused)
        mesh = read_ply(path)
    if not len(mesh.faces):
        raise UnreadableFile(f"{FUSED} of {name} holds no faces: have the scanner fuse its passes, and pack it again.")
    return Reading(mesh, unit="mm", up="z", scan=scan)


def _refuse_dust(path: Path, mesh: Mesh) -> None:
    # Euler: closed shells without holes have half as many corners as faces, and two more each. Fewer corners than
    # that many shells would need, and they need not be counted.
    if len(mesh.vertices) - len(mesh.faces) / 2 < 2 * MOST_SHELLS:
        return
    sides = mesh.faces[:, [0, 1, 1, 2]].reshape(-1, 2).astype(np.int64)
    used = np.unique(mesh.faces)
    shells = connected_groups(len(mesh.vertices), sides)[0] - (len(mesh.vertices) - len(used))
    if shells > MOST_SHELLS:
        raise UnreadableFile(
            f"{path.name} holds {shells:,} separate shells, which is dust and no figure: drop loose specks where it "
            "was scanned or sculpted, and bring it in again."
        )


def _read(path: Path, kind: str, head: bytes, size: int) -> Reading:
    if kind == ".ply":
        return Reading(read_ply(path))
    if kind == ".glb":
        return read_glb(path)
    if kind == ".3mf":
        return read_3mf(path)
    return Reading(_read_plain(path, kind, head, size))


def _read_plain(path: Path, kind: str, head: bytes, size: int) -> Mesh:
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
