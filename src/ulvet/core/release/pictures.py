"""Pictures for buyers: front and back beside a ruler, and the parts pulled apart with their numbers, by rays."""

import io
from collections.abc import Mapping, Sequence
from functools import cache
from importlib.resources import files

import numpy as np
from PIL import Image, ImageDraw, ImageFont, ImageOps

from ulvet.core.build.picture import ASIDE, PictureFrame, draw_figure, picture_frame
from ulvet.core.gauge.walls.thickness import Thickness
from ulvet.core.geometry.mesh import Mesh, Points, bounds, concatenated, translated
from ulvet.core.recipe.stance import Vector

__all__ = ["cut_to_size", "numbered_parts", "ruled_picture"]

_TALL = 720
"""Pixels of a figure's larger side in a picture with a ruler."""
_APART = 900
"""The same of a figure pulled apart."""
_BACK = 180.0
"""Degrees to its back."""
_INK, _SOFT, _PAPER = (34, 38, 46), (85, 91, 102), (244, 236, 216)
"""Red, green and blue of what is drawn and written, and of what it is drawn on."""
_RULER, _TEXT = 16, 20
"""Pixels that the ruler's bar is wide, and that a letter is high."""
_MOST_BARS = 12
"""Bars of a ruler at most, so that each is told from the next."""
_STEPS = (1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1000.0)
"""Print mm that one bar of a ruler may stand for; the first of which there are few enough."""
_NAMED_BARS = 2
"""Every so many bars a number stands at the ruler."""


def ruled_picture(meshes: Sequence[Mesh], factor: float, back: bool) -> bytes:
    """A figure (parts in figure mm) from its front or back beside a ruler in print mm, as PNG on paper."""
    whole = concatenated(*meshes)
    aside = ASIDE + (_BACK if back else 0.0)
    frame = picture_frame(whole, _TALL, aside)
    figure = Image.fromarray(draw_figure(whole, Thickness.unknown(whole), 0.0, _TALL, aside))
    room = _RULER + 6 * _TEXT
    page = Image.new("RGB", (figure.width + room + _TEXT, figure.height + 2 * _TEXT), _PAPER)
    page.paste(figure, (_TEXT // 2, _TEXT), figure)
    _rule(ImageDraw.Draw(page), frame, factor, figure.width + _TEXT)
    return _png(page)


def numbered_parts(parts: Mapping[str, Mesh], apart: Mapping[str, Vector], numbers: Mapping[str, str]) -> bytes:
    """Parts by name (figure mm) pulled apart by what ``apart`` says of each, every one with its number, as PNG on
    paper."""
    moved = {name: translated(mesh, np.array(apart.get(name, (0.0, 0.0, 0.0)))) for name, mesh in parts.items()}
    whole = concatenated(*moved.values())
    frame = picture_frame(whole, _APART)
    figure = Image.fromarray(draw_figure(whole, Thickness.unknown(whole), 0.0, _APART))
    page = Image.new("RGB", (figure.width + 4 * _TEXT, figure.height + 2 * _TEXT), _PAPER)
    page.paste(figure, (2 * _TEXT, _TEXT), figure)
    draw = ImageDraw.Draw(page)
    for name, mesh in moved.items():
        x, y = frame.pixel_of(_on_it(mesh))
        _number(draw, x + 2 * _TEXT, y + _TEXT, numbers[name])
    return _png(page)


def cut_to_size(png: bytes, wide: int, high: int) -> bytes:
    """A picture fitted onto paper of so many pixels, nothing of it cut off."""
    held = Image.open(io.BytesIO(png)).convert("RGB")
    margin = max(min(wide, high) // 20, 1)
    fitted = ImageOps.contain(held, (max(wide - 2 * margin, 1), max(high - 2 * margin, 1)))
    page = Image.new("RGB", (wide, high), _PAPER)
    page.paste(fitted, ((wide - fitted.width) // 2, (high - fitted.height) // 2))
    return _png(page)


def _on_it(mesh: Mesh) -> Points:
    """A point (3,) of a mesh near its middle, where a number is seen to be its own."""
    middle = np.mean(bounds(mesh), axis=0)
    centres = mesh.vertices[mesh.faces].mean(axis=1)
    return np.asarray(centres[np.argmin(((centres - middle) ** 2).sum(axis=1))])


def _rule(draw: ImageDraw.ImageDraw, frame: PictureFrame, factor: float, left: int) -> None:
    """A ruler of inked and open bars from the figure's foot up."""
    tall = float(frame.high[2] - frame.low[2]) * factor
    step = next((one for one in _STEPS if tall / one <= _MOST_BARS), _STEPS[-1])
    foot = frame.size[1] - 2 + _TEXT
    a_mm = 1 / (frame.pixel * factor)
    for bar in range(int(np.ceil(tall / step))):
        low, high = foot - bar * step * a_mm, foot - min((bar + 1) * step, tall) * a_mm
        draw.rectangle((left, high, left + _RULER, low), fill=_INK if bar % 2 == 0 else None, outline=_INK)
        if bar % _NAMED_BARS == 0:
            draw.text((left + _RULER + 6, low), f"{bar * step:g}", _SOFT, font=_font(_TEXT), anchor="lm")
    draw.text((left + _RULER + 6, foot - tall * a_mm), f"{tall:.1f} mm", _INK, font=_font(_TEXT), anchor="lm")


def _number(draw: ImageDraw.ImageDraw, x: float, y: float, text: str) -> None:
    half = 0.75 * _TEXT + 0.3 * _TEXT * (len(text) - 1)
    draw.rectangle((x - half, y - 0.7 * _TEXT, x + half, y + 0.7 * _TEXT), fill=_PAPER, outline=_INK, width=2)
    draw.text((x, y), text, _INK, font=_font(_TEXT), anchor="mm")


@cache
def _font(size: int) -> ImageFont.FreeTypeFont:
    return ImageFont.truetype(str(files("reportlab") / "fonts" / "VeraBd.ttf"), size)


def _png(picture: Image.Image) -> bytes:
    buffer = io.BytesIO()
    picture.save(buffer, "PNG")
    return buffer.getvalue()
