"""Two files joined where they lie, without a recipe."""

from pathlib import Path
from typing import Any

from ulvet.core.files.reading import mesh_as_it_lies
from ulvet.core.formats.write import bytes_for
from ulvet.core.geometry.mesh import volume
from ulvet.core.join.joining import join_meshes

__all__ = ["join_files"]


def join_files(a: Path, b: Path, out: Path, blend: float) -> tuple[bytes, dict[str, Any]]:
    """Two files joined exactly, or with a round of ``blend`` mm: the bytes of ``out``, in mm where the files lie, and
    what was measured as plain values.

    Raises UnreadableFile and CannotJoin, both with a text for the user.
    """
    one, other = mesh_as_it_lies(a), mesh_as_it_lies(b)
    done = join_meshes(one, other, blend)
    data = bytes_for(out, [("figure", done.mesh)])
    return data, {
        "files": [str(a), str(b)],
        "out": str(out),
        "overlap_mm": done.hold.overlap,
        "neck_mm2": done.hold.neck,
        "neck_mm": done.hold.neck_width,
        "sealed_mm3": done.sealed,
        "volume_before_mm3": [volume(one), volume(other)],
        "volume_mm3": volume(done.mesh),
        "inner_surface_removed_mm2": done.hold.removed,
        "blend_mm": blend,
        "grid_mm": done.pitch,
        "triangles": len(done.mesh.faces),
    }
