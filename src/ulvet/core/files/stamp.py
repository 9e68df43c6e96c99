"""A picture pressed into a file where it lies, without a recipe."""

from pathlib import Path
from typing import Any

import numpy as np

from ulvet.core.files.reading import mesh_as_it_lies
from ulvet.core.formats.write import bytes_for
from ulvet.core.recipe.stance import Vector, unit_vector
from ulvet.core.sources.picture import narrowest_stroke, picture_of, softened
from ulvet.core.stamp.pressing import CannotPress, StampPlacement, press_picture

__all__ = ["stamp_file"]


def stamp_file(
    path: Path,
    picture: bytes,
    out: Path,
    point: Vector,
    normal: Vector,
    width: float,
    depth: float,
    sunk: bool = False,
    inverted: bool = False,
    turn: float = 0.0,
    soften: float = 0.05,
) -> tuple[bytes, dict[str, Any]]:
    """A file with a picture (PNG or SVG) raised or sunk at a point, seen along a normal, both in mm where the file
    lies: the bytes of ``out`` and what was measured as plain values. ``soften`` is in mm and kept within what the
    strokes bear.

    Raises UnreadableFile, UnusablePicture and CannotPress, each with a text for the user.
    """
    view = np.array(unit_vector(normal), float)
    if not (width > 0 and depth > 0):
        raise CannotPress("A stamp needs a width and a depth above 0; nothing was changed.")
    mesh = mesh_as_it_lies(path)
    drawn = picture_of(picture, inverted)
    pixel = width / drawn.strength.shape[1]
    soft, used = softened(drawn, soften / pixel)
    stamping = StampPlacement(np.array(point, float), view, width, depth, sunk, turn)
    done = press_picture(mesh, soft, stamping)
    data = bytes_for(out, [("figure", done.mesh)])
    return data, {
        "file": str(path),
        "out": str(out),
        "depth_min_mm": done.depth_min,
        "depth_max_mm": done.depth_max,
        "back_moved_mm": done.back_moved,
        "landed_share": done.landed,
        "narrowest_stroke_mm": narrowest_stroke(drawn) * pixel,
        "softened_mm": used * pixel,
        "triangles_before": len(mesh.faces),
        "triangles": len(done.mesh.faces),
    }
