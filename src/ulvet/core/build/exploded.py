"""A picture of a figure pulled apart along its ways in, by rays."""

import io

import numpy as np
from PIL import Image

from ulvet.core.build.picture import draw_figure
from ulvet.core.gauge.walls.thickness import Thickness
from ulvet.core.geometry.mesh import Mesh, concatenated, translated
from ulvet.core.recipe.stance import Vector

__all__ = ["exploded_png"]

_HEIGHT = 900
"""Pixels of the picture's larger side."""


def exploded_png(parts: dict[str, Mesh], apart: dict[str, Vector]) -> bytes:
    """Parts by name, figure mm, each moved by what ``apart`` says of it, from the front, as PNG."""
    moved = [translated(mesh, np.array(apart.get(name, (0.0, 0.0, 0.0)))) for name, mesh in parts.items()]
    whole = concatenated(*moved)
    buffer = io.BytesIO()
    Image.fromarray(draw_figure(whole, Thickness.unknown(whole), 0.0, _HEIGHT)).save(buffer, "PNG")
    return buffer.getvalue()
