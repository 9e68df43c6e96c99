"""Pictures as what a stamp presses: grey between 0 and 1, 1 where a stroke is full."""

import hashlib
from dataclasses import dataclass
from functools import cached_property
from importlib.resources import files
from io import BytesIO
from typing import Literal
from xml.etree import ElementTree

import numpy as np
import resvg_py
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont, UnidentifiedImageError
from scipy.ndimage import distance_transform_edt, gaussian_filter
from skimage.morphology import skeletonize

from ulvet.core.geometry.mesh import Floats

__all__ = [
    "Font",
    "Picture",
    "UnusablePicture",
    "narrowest_stroke",
    "picture_of",
    "picture_of_text",
    "shipped_font",
    "softened",
]

_MOST_BYTES = 20_000_000
"""Bytes of a picture's file."""
_MOST_SIDE = 4096
"""Pixels of a picture's side."""
_SVG_SIDE = 1024
"""Pixels that an SVG is drawn with."""
_TEXT_PX = 160
"""Pixels of a letter's height."""
_SHARE = 6.0
"""A stroke keeps its height when it is at least this many softening lengths wide."""
_OUTSIDE = {"image", "script", "foreignObject"}


class UnusablePicture(Exception):
    """A picture that cannot be pressed; the message says why and what to do."""


@dataclass(frozen=True, eq=False)
class Picture:
    """Strength of every pixel, (h, w) from 0 to 1, the first row at the top."""

    strength: Floats

    @cached_property
    def hash(self) -> str:
        """SHA-256 of its strengths and shape."""
        return hashlib.sha256(str(self.strength.shape).encode() + self.strength.tobytes()).hexdigest()

    @property
    def ratio(self) -> float:
        """Height over width."""
        return self.strength.shape[0] / self.strength.shape[1]


def picture_of(data: bytes, inverted: bool = False) -> Picture:
    """A PNG or SVG made grey over white paper; what is dark is a stroke, or what is light where ``inverted``.

    Raises UnusablePicture for other kinds, for pictures over 20 MB or 4,096 pixels a side, and for blank ones.
    """
    if len(data) > _MOST_BYTES:
        raise UnusablePicture("This picture is larger than 20 MB: save it smaller and try again; nothing was changed.")
    png = data if data.startswith(b"\x89PNG\r\n\x1a\n") else _drawn(data)
    try:
        with Image.open(BytesIO(png), formats=["PNG"]) as image:
            if max(image.size) > _MOST_SIDE:
                raise UnusablePicture(
                    f"This picture is {image.width} x {image.height} pixels, and {_MOST_SIDE} a side is the most: save "
                    "it smaller and try again; nothing was changed."
                )
            paper = Image.new("RGBA", image.size, "white")
            grey = np.asarray(Image.alpha_composite(paper, image.convert("RGBA")).convert("L"), float) / 255
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, Image.DecompressionBombError) as error:
        raise UnusablePicture("This PNG is damaged: save it again and try once more; nothing was changed.") from error
    return _not_blank(grey if inverted else 1 - grey)


Font = Literal["bold", "plain", "italic", "bold italic"]
"""The fonts that come with Ulvet (Bitstream Vera); bold bears small sizes best."""
_FILES: dict[Font, str] = {
    "bold": "VeraBd.ttf",
    "plain": "Vera.ttf",
    "italic": "VeraIt.ttf",
    "bold italic": "VeraBI.ttf",
}


def shipped_font(font: Font = "bold") -> bytes:
    """A font that texts are pressed in."""
    return (files("reportlab") / "fonts" / _FILES[font]).read_bytes()


def picture_of_text(text: str, font: bytes) -> Picture:
    """One line of text in a font (TrueType), as a picture that just holds it.

    Raises UnusablePicture for a text without anything to see.
    """
    face = ImageFont.truetype(BytesIO(font), _TEXT_PX)
    left, top, right, bottom = map(round, face.getbbox(text))
    if right <= left or bottom <= top or right - left > 8 * _MOST_SIDE:
        raise UnusablePicture("There is nothing to see in this text, or too much of it: write a short line.")
    edge = _TEXT_PX // 8
    image = Image.new("L", (right - left + 2 * edge, bottom - top + 2 * edge), 0)
    ImageDraw.Draw(image).text((edge - left, edge - top), text, fill=255, font=face)
    return _not_blank(np.asarray(image, float) / 255)


def _drawn(data: bytes) -> bytes:
    """An SVG as a PNG; nothing outside it is read."""
    try:
        if b"<!" in data.replace(b"<!--", b"").replace(b"<![CDATA[", b""):
            raise UnusablePicture(
                "This SVG declares a document type, which is not read: save it as plain SVG; nothing was changed."
            )
        root = ElementTree.fromstring(data)
    except (ElementTree.ParseError, LookupError, ValueError) as error:
        raise UnusablePicture(
            "A stamp is a PNG or an SVG picture, and this is neither; nothing was changed."
        ) from error
    if root.tag.rpartition("}")[2] != "svg":
        raise UnusablePicture("A stamp is a PNG or an SVG picture, and this is neither; nothing was changed.")
    named = {one: one.tag.rpartition("}")[2] for one in root.iter() if isinstance(one.tag, str)}
    if not _OUTSIDE.isdisjoint(named.values()):
        raise UnusablePicture("This SVG holds other pictures or scripts: save it as plain outlines and try again.")
    again = {
        value for one, name in named.items() if name == "use" for key, value in one.items() if key.endswith("href")
    }
    if any("#" + one.get("id", "") in again and any(named.get(part) == "use" for part in one.iter()) for one in named):
        raise UnusablePicture("This SVG repeats what itself repeats: save it as plain outlines and try again.")
    try:
        return bytes(resvg_py.svg_to_bytes(svg_string=data.decode("utf-8"), width=_SVG_SIDE, height=_SVG_SIDE))
    except (ValueError, UnicodeDecodeError) as error:
        raise UnusablePicture("This SVG cannot be drawn: save it as plain outlines and try again.") from error


def _not_blank(strength: Floats) -> Picture:
    if strength.size == 0 or strength.max() - strength.min() < 0.02:
        raise UnusablePicture("This picture is blank: there is nothing in it to press; nothing was changed.")
    return Picture(strength)


def _widths(mask: NDArray[np.bool_]) -> Floats:
    """Width along the middles of the strokes of a mask, px; the border of the picture bounds none."""
    inside = distance_transform_edt(np.pad(mask, 1, mode="edge"))[1:-1, 1:-1]
    middle = skeletonize(mask)
    return np.asarray(2 * inside[middle] - 1)


def narrowest_stroke(picture: Picture) -> float:
    """How wide the narrowest strokes of a picture are, px: what one in twenty along their middles is under.

    From the distance to the edge along the skeleton (Zhang and Suen 1984).
    """
    widths = _widths(picture.strength >= (picture.strength.max() + picture.strength.min()) / 2)
    return float(np.quantile(widths, 0.05)) if len(widths) else 0.0


def softened(picture: Picture, wish: float) -> tuple[Picture, float]:
    """The picture softened by ``wish`` px (standard deviation), or a sixth of its narrowest stroke, which it bears."""
    length = float(min(wish, narrowest_stroke(picture) / _SHARE))
    if length < 0.05:
        return picture, 0.0
    return Picture(gaussian_filter(picture.strength, length, mode="nearest", truncate=3.0)), length
