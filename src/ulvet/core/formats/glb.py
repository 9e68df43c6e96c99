"""GLB (binary glTF 2.0), by the general library. A GLB is in metres, y up."""

import io
import json
import struct
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from ulvet.core.formats.corners import mesh_of_faces
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.formats.reading import MOST_PIECES, MOST_TRIANGLES, Reading, named_pieces
from ulvet.core.geometry.mesh import Mesh, Points
from ulvet.core.geometry.topology import connected_groups

if TYPE_CHECKING:
    import trimesh

__all__ = ["glb_bytes", "read_glb"]

_HEAD = struct.Struct("<4sIIII")
_JSON = 0x4E4F534A
"""Type of the chunk that holds the document ("JSON", glTF 2.0)."""
_ARRAYS, _ELEMENTS, _FLOAT, _UNSIGNED = 34962, 34963, 5126, 5125
"""Targets and component types of buffers (glTF 2.0)."""
_TO_FILE = np.array([[1.0, 0, 0], [0, 0, 1], [0, -1, 0]])
"""From z up to y up, as rows."""


def read_glb(path: Path) -> Reading:
    """Every mesh of a GLB where its nodes place it. Materials, pictures and motion are left out.

    Nodes whose boxes reach into each other make one piece, named after the largest: bits of one figure.

    Raises UnreadableFile for a damaged file, for one that keeps data outside itself, and for one that repeats its
    meshes beyond measure.
    """
    import trimesh  # slow to load, and most files need it not

    data = path.read_bytes()
    said = _document(path, data)
    uris = [part["uri"] for kind in ("buffers", "images") for part in said.get(kind, []) if "uri" in part]
    if any(not str(uri).startswith("data:") for uri in uris):
        raise UnreadableFile(
            f"{path.name} keeps part of itself in other files, which are not read: pack it into one GLB."
        )
    # Pictures are not needed, and one of a billion pixels would be unfolded only to be thrown away.
    said = {name: value for name, value in said.items() if name not in ("images", "textures", "samplers", "materials")}
    for mesh in said.get("meshes", []):
        for primitive in mesh.get("primitives", []):
            primitive.pop("material", None)
    try:
        scene = trimesh.load(io.BytesIO(_packed(said, data)), file_type="glb", process=False, skip_materials=True)
        points, faces, nodes = _flattened(path, trimesh.Scene(scene) if not isinstance(scene, trimesh.Scene) else scene)
    except UnreadableFile:
        raise
    except Exception as error:  # a foreign library may fail in any way on a foreign file
        raise UnreadableFile(f"{path.name} is damaged or no GLB that can be read: export it again.") from error
    apart = _apart(points, faces, nodes)
    meshes = [(name, mesh_of_faces(path, points, faces[rows])) for name, rows in apart] if len(apart) > 1 else []
    return Reading(mesh_of_faces(path, points, faces), unit="m", up="y", pieces=named_pieces(meshes))


def _document(path: Path, data: bytes) -> dict[str, Any]:
    try:
        magic, version, length, json_length, kind = _HEAD.unpack_from(data)
        if magic != b"glTF" or version != 2 or kind != _JSON or length > len(data):
            raise ValueError("not a whole GLB")
        said = json.loads(data[_HEAD.size : _HEAD.size + json_length])
        if not isinstance(said, dict):
            raise TypeError("not a document")
    except (struct.error, ValueError, TypeError, RecursionError) as error:
        raise UnreadableFile(f"{path.name} is cut off or no GLB (glTF 2.0): export or copy it again.") from error
    return said


def _packed(said: dict[str, Any], data: bytes) -> bytes:
    """The document, changed, with the binary part of the file it came from."""
    _, _, _, json_length, _ = _HEAD.unpack_from(data)
    rest = data[_HEAD.size + json_length :]
    text = json.dumps(said, separators=(",", ":")).encode()
    text += b" " * (-len(text) % 4)
    return _HEAD.pack(b"glTF", 2, _HEAD.size + len(text) + len(rest), len(text), _JSON) + text + rest


Nodes = list[tuple[str, slice]]


def _flattened(path: Path, scene: "trimesh.Scene") -> tuple[Points, np.ndarray, Nodes]:
    """Points (n, 3) and faces (m, 3) as they are placed, and the name and faces of every node."""
    points, faces, nodes, corners, triangles = [], [], [], 0, 0
    for node in sorted(scene.graph.nodes_geometry):
        transform, name = scene.graph[node]
        mesh = scene.geometry[name]
        if not hasattr(mesh, "faces"):
            continue  # lines and loose points
        nodes.append((str(node), slice(triangles, triangles + len(mesh.faces))))
        triangles += len(mesh.faces)
        if triangles > MOST_TRIANGLES:
            raise UnreadableFile(
                f"{path.name} places its meshes so often that they make more than {MOST_TRIANGLES:,} triangles: "
                "export only what is to be printed."
            )
        placed = np.asarray(mesh.vertices) @ transform[:3, :3].T + transform[:3, 3]
        mirrored = np.linalg.det(transform[:3, :3]) < 0
        points.append(placed)
        faces.append(np.asarray(mesh.faces, np.int64)[:, :: -1 if mirrored else 1] + corners)
        corners += len(placed)
    if not points:
        return np.empty((0, 3)), np.empty((0, 3), np.int64), nodes
    return np.concatenate(points), np.concatenate(faces), nodes


def _apart(points: Points, faces: np.ndarray, nodes: Nodes) -> list[tuple[str, np.ndarray]]:
    """Nodes gathered where their boxes overlap: the name and rows of faces of each group."""
    nodes = [(name, rows) for name, rows in nodes if rows.stop > rows.start]
    if not 1 < len(nodes) <= MOST_PIECES:
        return []
    corners = [points[faces[rows]].reshape(-1, 3) for _, rows in nodes]
    low, high = np.array([c.min(axis=0) for c in corners]), np.array([c.max(axis=0) for c in corners])
    overlap = ((low[:, None] <= high[None]) & (low[None] <= high[:, None])).all(axis=2)
    count, group = connected_groups(len(nodes), np.argwhere(overlap))
    apart = []
    for number in range(count):
        members = np.flatnonzero(group == number)
        largest = max(members, key=lambda k: float(np.prod(high[k] - low[k] + 1e-12)))
        rows = np.concatenate([np.arange(nodes[k][1].start, nodes[k][1].stop) for k in members])
        apart.append((nodes[largest][0], rows))
    return apart


def glb_bytes(parts: Sequence[tuple[str, Mesh]]) -> bytes:
    """Named parts in mm, z up, as a GLB in metres, y up: float32, one node a part; equal parts give equal bytes."""
    views, accessors, meshes, binary = [], [], [], b""

    def add(array: np.ndarray, target: int, kind: int, shape: str, **more: list[float]) -> int:
        nonlocal binary
        views.append({"buffer": 0, "byteOffset": len(binary), "byteLength": array.nbytes, "target": target})
        accessors.append(
            {"bufferView": len(views) - 1, "componentType": kind, "count": len(array), "type": shape, **more}
        )
        binary += array.tobytes()
        return len(accessors) - 1

    for name, mesh in parts:
        points = (mesh.vertices @ _TO_FILE.T / 1000).astype("<f4")
        ends = {"min": points.min(axis=0).tolist(), "max": points.max(axis=0).tolist()}
        position = add(points, _ARRAYS, _FLOAT, "VEC3", **ends)
        index = add(mesh.faces.astype("<u4").ravel(), _ELEMENTS, _UNSIGNED, "SCALAR")
        meshes.append(
            {"name": name, "primitives": [{"attributes": {"POSITION": position}, "indices": index, "mode": 4}]}
        )
    said = {
        "asset": {"version": "2.0", "generator": "Ulvet"},
        "scene": 0,
        "scenes": [{"nodes": list(range(len(parts)))}],
        "nodes": [{"name": name, "mesh": k} for k, (name, _) in enumerate(parts)],
        "meshes": meshes,
        "accessors": accessors,
        "bufferViews": views,
        "buffers": [{"byteLength": len(binary)}],
    }
    return _packed(said, _HEAD.pack(b"glTF", 2, 0, 0, _JSON) + struct.pack("<II", len(binary), 0x004E4942) + binary)
