"""A drawing in millimetres, from its lower left corner; what is in it is drawn in order."""

from dataclasses import dataclass
from typing import Literal
from xml.sax.saxutils import escape, quoteattr

import numpy as np
from numpy.typing import NDArray

__all__ = ["INK", "PAPER", "SOFT", "WASH", "Drawing", "Line", "Outline", "Tone", "Words", "svg_text"]

INK, SOFT, WASH, PAPER = "#1b2230", "#5d6470", "#d9cfb4", "#f4ecd8"
Tone = Literal["ink", "soft"]
_TONES = {"ink": INK, "soft": SOFT}


@dataclass(frozen=True)
class Outline:
    """Closed rings (n, 2) filled together by the even-odd rule; ``fill`` is a colour or none."""

    rings: tuple[NDArray[np.float64], ...]
    fill: str | None = WASH
    width: float = 0.25


@dataclass(frozen=True)
class Line:
    """An open line through points (n, 2)."""

    points: NDArray[np.float64]
    width: float = 0.25
    dashed: bool = False
    tone: Tone = "ink"


@dataclass(frozen=True)
class Words:
    """Text whose baseline begins, is centred, or ends at a point; ``size`` in mm."""

    at: tuple[float, float]
    text: str
    size: float = 3.2
    anchor: Literal["start", "middle", "end"] = "middle"
    tone: Tone = "ink"


@dataclass(frozen=True)
class Drawing:
    """A drawing ``width`` by ``height`` mm; ``title`` says what it is to those who cannot see it."""

    width: float
    height: float
    title: str
    shapes: tuple[Outline | Line | Words, ...]


def svg_text(drawing: Drawing) -> str:
    """The drawing as SVG whose width and height are in mm, so that it prints at true size; all text escaped."""
    shapes = "".join(_shape(shape, drawing.height) for shape in drawing.shapes)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" role="img" width="{drawing.width:.3f}mm" '
        f'height="{drawing.height:.3f}mm" viewBox="0 0 {drawing.width:.3f} {drawing.height:.3f}" '
        f'font-family="Atkinson Hyperlegible Next Variable, sans-serif">'
        f"<title>{escape(drawing.title)}</title>{shapes}</svg>\n"
    )


def _shape(shape: Outline | Line | Words, height: float) -> str:
    if isinstance(shape, Outline):
        path = " ".join(f"M {_points(ring, height)} Z" for ring in shape.rings)
        return (
            f'<path d="{path}" fill={quoteattr(shape.fill or "none")} fill-rule="evenodd" stroke="{INK}" '
            f'stroke-width="{shape.width}" stroke-linejoin="round"/>'
        )
    if isinstance(shape, Line):
        dash = ' stroke-dasharray="1.6 1.2"' if shape.dashed else ""
        return (
            f'<path d="M {_points(shape.points, height)}" fill="none" stroke="{_TONES[shape.tone]}" '
            f'stroke-width="{shape.width}"{dash}/>'
        )
    x, y = shape.at
    return (
        f'<text x="{x:.3f}" y="{height - y:.3f}" font-size="{shape.size}" text-anchor="{shape.anchor}" '
        f'fill="{_TONES[shape.tone]}">{escape(shape.text)}</text>'
    )


def _points(points: NDArray[np.float64], height: float) -> str:
    return " ".join(f"{x:.3f},{height - y:.3f}" for x, y in points)
