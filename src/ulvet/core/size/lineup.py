"""The line-up: silhouettes of figures at print size on one ground, beside a ruler and a block as large as a hand."""

from collections.abc import Sequence

import numpy as np
import shapely
from pydantic import BaseModel, ConfigDict
from skimage.measure import find_contours

from ulvet.core.geometry.mesh import Mesh, bounds
from ulvet.core.geometry.rays import Rays
from ulvet.core.lengths import spoken
from ulvet.core.paper.drawing import Drawing, Line, Outline, Words

__all__ = ["HAND_MM", "Silhouette", "line_up", "silhouette"]

HAND_MM = (85.0, 185.0)
"""Breadth and length of a grown hand, as a block (bench default)."""
_ACROSS = 900
"""Rays along the longer side of a silhouette."""
_GAP, _EDGE, _FOOT, _HEAD = 8.0, 6.0, 16.0, 6.0
"""Millimetres between figures, round the drawing, under the ground and over the tallest."""
_RULER = 14.0
"""Millimetres for the ruler and its figures."""
_NAME = 3.2
"""Height (mm) of names."""


class Silhouette(BaseModel):
    """A figure seen from its front: closed rings of points in mm, even-odd, from its left and the ground; its size."""

    model_config = ConfigDict(frozen=True)

    name: str
    rings: tuple[tuple[tuple[float, float], ...], ...]
    width: float
    height: float


def silhouette(name: str, mesh: Mesh) -> Silhouette:
    """The outline of a mesh in print mm, z up, seen along y: rays on a grid of a 900th of its longer side, fitted to
    its exact width and height."""
    low, high = bounds(mesh)
    wide, tall = float(high[0] - low[0]), float(high[2] - low[2])
    pixel = max(wide, tall, 1e-9) / _ACROSS
    columns, rows = max(int(np.ceil(wide / pixel)), 1), max(int(np.ceil(tall / pixel)), 1)
    x = low[0] + (np.arange(columns) + 0.5) * (wide / columns)
    z = low[2] + (np.arange(rows) + 0.5) * (tall / rows)
    ways = np.stack(np.meshgrid(x, [low[1] - max(wide, tall)], z, indexing="ij"), axis=-1).reshape(-1, 3)
    _, face = Rays(mesh).first(ways, np.tile([0.0, 1, 0], (len(ways), 1)))
    met = np.zeros((columns + 2, rows + 2))
    met[1:-1, 1:-1] = (face >= 0).reshape(columns, rows)
    rings = []
    for contour in find_contours(met, 0.5):
        if len(contour) < 4:
            continue
        points = (contour - 0.5) * [wide / columns, tall / rows]
        smooth = shapely.get_coordinates(shapely.simplify(shapely.LinearRing(points), 0.6 * pixel))
        rings.append(smooth[:-1])
    if rings:
        every = np.concatenate(rings)
        first, span = every.min(axis=0), np.maximum(np.ptp(every, axis=0), 1e-9)
        rings = [(ring - first) * ([wide, tall] / span) for ring in rings]
    rounded = tuple(tuple((round(float(x), 4), round(float(z), 4)) for x, z in ring) for ring in rings)
    return Silhouette(name=name, rings=rounded, width=wide, height=tall)


def line_up(figures: Sequence[Silhouette], title: str, hand: bool = True) -> Drawing:
    """Figures side by side on one ground line at true size, with a ruler as tall as the tallest, and a hand's block."""
    tallest = max([*(figure.height for figure in figures), HAND_MM[1] if hand else 0.0, 20.0])
    shapes: list[Outline | Line | Words] = list(_ruler(_EDGE + _RULER, _FOOT, tallest))
    x = _EDGE + _RULER + _GAP
    for figure in figures:
        # No narrower than what is written under it.
        words = [figure.name[:40], f"{spoken(figure.height)} mm tall, {spoken(figure.width)} mm wide"]
        room = max(figure.width, 0.56 * _NAME * max(map(len, words)))
        left = x + (room - figure.width) / 2
        shapes.append(Outline(tuple(np.array(ring) + np.array([left, _FOOT]) for ring in figure.rings)))
        shapes.append(Words((x + room / 2, _FOOT - 5), words[0], _NAME))
        shapes.append(Words((x + room / 2, _FOOT - 9.5), words[1], 0.85 * _NAME, tone="soft"))
        x += room + _GAP
    if hand:
        wide, tall = HAND_MM
        block = np.array([[0, 0], [wide, 0], [wide, tall], [0, tall]], float) + np.array([x, _FOOT])
        shapes.append(Outline((block,), fill=None))
        shapes.append(Words((x + wide / 2, _FOOT - 5), "a grown hand, as a block", _NAME))
        shapes.append(
            Words((x + wide / 2, _FOOT - 9.5), f"{tall:.0f} mm long, {wide:.0f} mm wide", 0.85 * _NAME, tone="soft")
        )
        x += wide + _GAP
    width = x - _GAP + _EDGE
    shapes.append(Line(np.array([[_EDGE + _RULER, _FOOT], [width - _EDGE, _FOOT]]), 0.35))
    return Drawing(width, _FOOT + tallest + _HEAD, title, tuple(shapes))


def _ruler(x: float, foot: float, tallest: float) -> list[Line | Words]:
    top = float(np.ceil(tallest / 5) * 5)
    marks: list[Line | Words] = [Line(np.array([[x, foot], [x, foot + top]]), 0.35)]
    for k in range(int(top) + 1):
        long = 6.0 if k % 10 == 0 else 4.0 if k % 5 == 0 else 2.2
        marks.append(Line(np.array([[x - long, foot + k], [x, foot + k]]), 0.12 if k % 5 else 0.25))
        if k % 10 == 0:
            marks.append(Words((x - 7, foot + k - 0.9), str(k), 2.6, "end"))
    return marks
