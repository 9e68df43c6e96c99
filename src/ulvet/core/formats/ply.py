"""PLY, by the general library; what Ulvet writes is binary, float32, in mm."""

import io
from pathlib import Path
from typing import Any

import numpy as np

from ulvet.core.formats.corners import mesh_of_faces
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.geometry.mesh import Mesh, Points

__all__ = ["ply_bytes", "points_ply_bytes", "read_ply", "read_points_ply"]

_HEAD_BYTES = 1 << 16
"""Bytes in which the header of a PLY has to end."""
_LEAST_BYTES_A_ROW = {"ascii": 2, "binary_little_endian": 1, "binary_big_endian": 1}


def read_ply(path: Path) -> Mesh:
    """A PLY in text or binary; faces of more than three corners are cut into triangles, colours left out.

    Raises UnreadableFile for a header that cannot be, counts that the file cannot hold, or data cut off.
    """
    read = _loaded(path.name, path.read_bytes())
    try:
        points = np.asarray(read.vertices, dtype=np.float64)
        faces = np.asarray(getattr(read, "faces", np.empty((0, 3))), dtype=np.int64)
    except (TypeError, ValueError) as error:
        raise UnreadableFile(f"{path.name} is damaged or no PLY that can be read: export it again.") from error
    return mesh_of_faces(path, points, faces)


def read_points_ply(name: str, data: bytes) -> tuple[Points, Points]:
    """Points and unit normals (n, 3) of a PLY without faces.

    Raises UnreadableFile for one that is damaged, or whose points have no normals or are not finite.
    """
    head = data[:_HEAD_BYTES].partition(b"end_header")[0]
    if b"element vertex 0\n" in head.replace(b"\r", b""):
        return np.empty((0, 3)), np.empty((0, 3))
    read = _loaded(name, data)
    try:
        rows = read.metadata["_ply_raw"]["vertex"]["data"]
        points = np.stack([rows[axis] for axis in ("x", "y", "z")], axis=-1).astype(float).reshape(-1, 3)
        normals = np.stack([rows[axis] for axis in ("nx", "ny", "nz")], axis=-1).astype(float).reshape(-1, 3)
    except (AttributeError, KeyError, TypeError, ValueError) as error:
        raise UnreadableFile(f"{name} holds no points with normals: export the passes with both.") from error
    length = np.linalg.norm(normals, axis=1)
    if not np.isfinite(points).all() or not ((length > 1e-6) & np.isfinite(length)).all():
        raise UnreadableFile(f"{name} holds points that are not numbers, or normals without length: scan it again.")
    return points, normals / length[:, None]


def points_ply_bytes(points: Points, normals: Points) -> bytes:
    """Points and normals (n, 3) as binary PLY without faces, float32."""
    names = "".join(f"property float {name}\n" for name in ("x", "y", "z", "nx", "ny", "nz"))
    head = (
        "ply\nformat binary_little_endian 1.0\ncomment Ulvet, millimetres\n"
        f"element vertex {len(points)}\n{names}end_header\n"
    )
    return head.encode() + np.concatenate([points, normals], axis=1).astype("<f4").tobytes()


def _loaded(name: str, data: bytes) -> Any:
    import trimesh  # slow to load, and most files need it not

    _check_head(name, data)
    try:
        return trimesh.load(io.BytesIO(data), file_type="ply", process=False, skip_materials=True)
    except Exception as error:  # a foreign library may fail in any way on a foreign file
        raise UnreadableFile(f"{name} is damaged or no PLY that can be read: export it again.") from error


def ply_bytes(mesh: Mesh) -> bytes:
    """The mesh as binary PLY, float32; equal meshes give equal bytes."""
    head = (
        "ply\nformat binary_little_endian 1.0\ncomment Ulvet, millimetres, z up\n"
        f"element vertex {len(mesh.vertices)}\nproperty float x\nproperty float y\nproperty float z\n"
        f"element face {len(mesh.faces)}\nproperty list uchar int vertex_indices\nend_header\n"
    )
    faces = np.zeros(len(mesh.faces), [("n", "u1"), ("v", "<i4", 3)])
    faces["n"], faces["v"] = 3, mesh.faces
    return head.encode() + mesh.vertices.astype("<f4").tobytes() + faces.tobytes()


def _check_head(name: str, data: bytes) -> None:
    """Counts are checked before anything is allocated for them."""
    head, found, _ = data[:_HEAD_BYTES].partition(b"end_header")
    lines = [line.split() for line in head.decode("latin-1").splitlines()]
    form = next((line[1] for line in lines if len(line) > 1 and line[0] == "format"), "")
    if not data.startswith(b"ply") or not found or form not in _LEAST_BYTES_A_ROW:
        raise UnreadableFile(f"{name} does not begin like a PLY: it is damaged or something else; export it again.")
    counts = [line[2] for line in lines if len(line) == 3 and line[0] == "element"]
    if not all(count.isdigit() for count in counts):
        raise UnreadableFile(f"{name} has a header that counts in no numbers: export it again.")
    promised = sum(map(int, counts))
    if promised * _LEAST_BYTES_A_ROW[form] > len(data):
        raise UnreadableFile(
            f"{name} is cut off: its header promises {promised:,} rows, and it has {len(data):,} bytes; "
            "export or copy it again."
        )
