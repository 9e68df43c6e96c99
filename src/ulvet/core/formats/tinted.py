"""A figure with a measure painted on it: OBJ with its material library and a strip of tints as texture, in a ZIP."""

import io
from collections.abc import Sequence

import numpy as np
from PIL import Image

from ulvet.core.formats.archive import archive_bytes
from ulvet.core.formats.obj import obj_name
from ulvet.core.geometry.mesh import Floats, Mesh

__all__ = ["tinted_zip_bytes"]

_BAND = 64
"""Pixels of a tint in the texture, so that filtering does not mix two."""
Tint = tuple[int, int, int]


def tinted_zip_bytes(
    parts: Sequence[tuple[str, Mesh, Floats]], levels: Sequence[float], tints: Sequence[Tint], measure: str
) -> bytes:
    """A ZIP of ``figure.obj``, ``figure.mtl`` and a PNG: every part in its tints, in the unit and axes of its mesh.

    A part is its name, mesh and one value a vertex, (n,); values that are not finite count as above all levels.
    ``levels`` rise, and there is one tint more than levels, the first for values below all. Tints meet exactly at the
    levels, between vertices too. Equal parts give equal bytes.
    """
    files = [
        ("figure.obj", _obj(parts, levels, measure)),
        ("figure.mtl", f"newmtl {measure}\nKa 0 0 0\nKd 1 1 1\nKs 0 0 0\nillum 1\nmap_Kd {measure}.png\n".encode()),
        (f"{measure}.png", _strip(tints)),
    ]
    return archive_bytes(files)


def _obj(parts: Sequence[tuple[str, Mesh, Floats]], levels: Sequence[float], measure: str) -> bytes:
    buffer = io.BytesIO(f"# Ulvet\nmtllib figure.mtl\nusemtl {measure}\n".encode())
    buffer.seek(0, io.SEEK_END)
    first = 1
    for name, mesh, values in parts:
        buffer.write(f"o {obj_name(name)}\n".encode())
        np.savetxt(buffer, mesh.vertices, "v %.7g %.7g %.7g")
        np.savetxt(buffer, _across(values, levels), "vt %.5f 0.5")
        np.savetxt(buffer, np.repeat(mesh.faces + first, 2, axis=1), "f %d/%d %d/%d %d/%d")
        first += len(mesh.vertices)
    return buffer.getvalue()


def _across(values: Floats, levels: Sequence[float]) -> Floats:
    """How far along the strip each value lies, 0 to 1: a band between two levels each, ends as wide as their level."""
    ends = [0.0, *levels, 2 * levels[-1]]
    within = np.where(np.isfinite(values), values, np.inf)
    return np.interp(within, ends, np.linspace(0, 1, len(ends)))


def _strip(tints: Sequence[Tint]) -> bytes:
    buffer = io.BytesIO()
    Image.fromarray(np.repeat(np.array(tints, np.uint8)[None], _BAND, axis=1)).save(buffer, "PNG")
    return buffer.getvalue()
