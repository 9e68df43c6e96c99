"""Pictures of a figure in ink and tint, by rays, so that they need no screen."""

import io
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from ulvet.core.gauge.walls.thickness import Thickness
from ulvet.core.gauge.walls.tints import STONE, TINTS
from ulvet.core.geometry.mesh import Floats, Mesh, Points, bounds
from ulvet.core.geometry.rays import Rays

__all__ = ["ASIDE", "PictureFrame", "draw_figure", "picture_frame", "picture_png"]

ASIDE = -35.0
"""Degrees by which a figure is turned from its front, so that its depth reads."""
_MARGIN = 2
"""Pixels left free on every side."""
_INK = np.array([34, 38, 46])
_STONE, _TINTS = np.array(STONE), np.array(TINTS)
_TINT_STEPS = (1.0, 1.6, 2.4, 3.8)
"""Where the depth tints end, in times the wall that stops."""
_LIGHT = np.array([-0.45, -0.7, 0.55]) / np.linalg.norm([-0.45, -0.7, 0.55])


@dataclass(frozen=True)
class PictureFrame:
    """Where a mesh lies in its picture: turned (3, 3), then from its ``low`` and ``high`` corners (3,) so many mm a
    pixel."""

    turn: Floats
    low: Floats
    high: Floats
    pixel: float

    @property
    def size(self) -> tuple[int, int]:
        """Columns and rows."""
        wide, _, tall = np.maximum(np.ceil((self.high - self.low) / self.pixel), 1)
        return int(wide) + 2 * _MARGIN, int(tall) + 2 * _MARGIN

    def pixel_of(self, point: Points) -> tuple[float, float]:
        """Column and row of a point (3,)."""
        x, _, z = self.turn @ np.asarray(point)
        half = _MARGIN - 0.5
        return (x - self.low[0]) / self.pixel + half, (self.high[2] - z) / self.pixel + half


def picture_frame(mesh: Mesh, height: int, aside: float = ASIDE) -> PictureFrame:
    """The frame of a mesh seen from its front, turned ``aside`` degrees; ``height`` pixels for the larger side."""
    cos, sin = np.cos(np.deg2rad(aside)), np.sin(np.deg2rad(aside))
    turn = np.array([[cos, -sin, 0], [sin, cos, 0], [0, 0, 1]])
    low, high = bounds(Mesh(mesh.vertices @ turn.T, mesh.faces))
    return PictureFrame(turn, low, high, max(high[2] - low[2], high[0] - low[0]) / height)


def draw_figure(
    mesh: Mesh, thickness: Thickness, stop_wall: float, height: int = 420, aside: float = ASIDE
) -> NDArray[np.uint8]:
    """The figure from its front, turned ``aside`` degrees, as RGBA; ``height`` pixels for the larger of its two sides.

    ``stop_wall`` (figure mm) is the wall that stops; thinner is darker blue. Outlines and folds are inked where depth
    jumps or the surface turns.
    """
    frame = picture_frame(mesh, height, aside)
    mesh = Mesh(mesh.vertices @ frame.turn.T, mesh.faces)
    low, high, pixel = frame.low, frame.high, frame.pixel
    size = high - low
    columns, rows = frame.size
    x = low[0] + (np.arange(columns) - 1.5) * pixel
    z = high[2] - (np.arange(rows) - 1.5) * pixel
    origins = np.stack(np.meshgrid(x, [low[1] - size.max()], z, indexing="ij"), axis=-1)
    origins = origins[:, 0].transpose(1, 0, 2).reshape(-1, 3)
    ways = np.tile([0.0, 1, 0], (len(origins), 1))
    rays = Rays(mesh)
    depth, face = rays.first(origins, ways)
    hit = face >= 0
    normals = rays.normals[face] * hit[:, None]
    # A face seen from behind is lit like its front.
    normals *= np.where(normals[:, 1] > 0, -1, 1)[:, None]
    wall = _wall_of_faces(mesh, thickness)[face]
    colour = _STONE * np.ones((len(face), 1))
    for step, tint in zip(_TINT_STEPS[::-1], _TINTS[::-1], strict=True):
        colour[wall < step * stop_wall] = tint
    light = 0.72 + 0.28 * np.clip(normals @ _LIGHT, 0, 1)
    picture = np.zeros((rows, columns, 4), np.uint8)
    inked = _ink_lines(depth.reshape(rows, columns), normals.reshape(rows, columns, 3), pixel)
    shade = np.where(inked.reshape(-1, 1), _INK, colour * light[:, None])
    picture[..., :3] = shade.reshape(rows, columns, 3).astype(np.uint8)
    picture[..., 3] = np.where(hit.reshape(rows, columns) | inked, 255, 0)
    return picture


def picture_png(mesh: Mesh, thickness: Thickness, stop_wall: float) -> bytes:
    """The figure as ``draw_figure`` draws it, as PNG."""
    buffer = io.BytesIO()
    Image.fromarray(draw_figure(mesh, thickness, stop_wall)).save(buffer, "PNG")
    return buffer.getvalue()


def _wall_of_faces(mesh: Mesh, thickness: Thickness) -> NDArray[np.float64]:
    return np.asarray(thickness.walls[: len(mesh.vertices)][mesh.faces].min(axis=1))


def _ink_lines(depth: NDArray[np.float64], normals: NDArray[np.float64], pixel: float) -> NDArray[np.bool_]:
    far = np.where(np.isfinite(depth), depth, depth[np.isfinite(depth)].max(initial=0) + 1e3 * pixel)
    ink = np.zeros(depth.shape, bool)
    for axis in (0, 1):
        step = np.abs(np.diff(far, axis=axis)) > 7 * pixel
        a, b = (normals[:-1], normals[1:]) if axis == 0 else (normals[:, :-1], normals[:, 1:])
        seen = (np.abs(a).sum(-1) > 0) & (np.abs(b).sum(-1) > 0)
        step |= seen & (np.einsum("...k,...k", a, b) < 0.35)
        if axis == 0:
            ink[1:] |= step
        else:
            ink[:, 1:] |= step
    return ink
