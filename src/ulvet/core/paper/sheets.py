"""Drawings on paper at true size, over as many sheets as they need, each with a bar to check the printer by."""

import io
from dataclasses import dataclass

import numpy as np
from reportlab.lib.colors import HexColor
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from ulvet.core.paper.drawing import INK, SOFT, Drawing, Line, Outline, Words
from ulvet.core.paper.fonts import PLAIN, register_fonts

__all__ = ["CHECK_MM", "PAPERS", "Tiling", "drawing_pdf", "sheets_for"]

PAPERS: dict[str, tuple[float, float]] = {
    "a4": (210.0, 297.0),
    "a3": (297.0, 420.0),
    "letter": (215.9, 279.4),
}
"""Papers by name: width and height, mm."""
CHECK_MM = 100.0
"""Length of the bar on every sheet that is to be laid against a rule."""
_MARGIN = 10.0
"""Millimetres that home printers leave white."""
_FOOT = 16.0
"""Millimetres for the bar and the text under a drawing."""
_OVERLAP = 8.0
"""Millimetres by which neighbouring sheets overlap, to be glued."""


@dataclass(frozen=True)
class Tiling:
    """How a drawing lies on paper: the sheet's size, columns and rows, and the room on each, mm."""

    paper: tuple[float, float]
    columns: int
    rows: int
    room: tuple[float, float]


def sheets_for(drawing: Drawing, paper: str = "a4") -> Tiling:
    """The way round, upright or on its side, that takes fewer sheets; neighbours overlap by 8 mm to be glued.

    Raises KeyError for a paper that is not known.
    """
    width, height = PAPERS[paper]
    ways = []
    for wide, tall in ((width, height), (height, width)):
        room = (wide - 2 * _MARGIN, tall - 2 * _MARGIN - _FOOT)
        ways.append(Tiling((wide, tall), _count(drawing.width, room[0]), _count(drawing.height, room[1]), room))
    return min(ways, key=lambda way: way.columns * way.rows)


def drawing_pdf(drawing: Drawing, paper: str = "a4") -> bytes:
    """The drawing as PDF, unscaled, with a bar of exactly 100 mm at the foot of every sheet; equal drawings give equal
    bytes.

    Raises KeyError for a paper that is not known.
    """
    register_fonts()
    tiling = sheets_for(drawing, paper)
    buffer = io.BytesIO()
    canvas = Canvas(buffer, pagesize=(tiling.paper[0] * mm, tiling.paper[1] * mm), invariant=1)
    canvas.setTitle(drawing.title)
    sheets = [(column, row) for row in range(tiling.rows) for column in range(tiling.columns)]
    for number, (column, row) in enumerate(sheets):
        left, foot = column * (tiling.room[0] - _OVERLAP), row * (tiling.room[1] - _OVERLAP)
        _tile(canvas, drawing, tiling, left, foot)
        where = f", sheet {number + 1} of {len(sheets)}: column {column + 1}, row {row + 1} from below"
        _foot(canvas, drawing.title + where * (len(sheets) > 1), tiling)
        canvas.showPage()
    canvas.save()
    return buffer.getvalue()


def _count(length: float, room: float) -> int:
    return 1 if length <= room else int(np.ceil((length - _OVERLAP) / (room - _OVERLAP)))


def _tile(canvas: Canvas, drawing: Drawing, tiling: Tiling, left: float, foot: float) -> None:
    x, y = _MARGIN, _MARGIN + _FOOT
    wide, tall = tiling.room
    canvas.saveState()
    clip = canvas.beginPath()
    clip.rect(x * mm, y * mm, wide * mm, tall * mm)
    canvas.clipPath(clip, stroke=0, fill=0)
    canvas.translate((x - left) * mm, (y - foot) * mm)
    for shape in drawing.shapes:
        _draw(canvas, shape)
    canvas.restoreState()
    if tiling.columns * tiling.rows > 1:
        canvas.setStrokeColor(HexColor(SOFT))
        canvas.setLineWidth(0.1 * mm)
        canvas.setDash(1, 2)
        canvas.rect(x * mm, y * mm, wide * mm, tall * mm)
        canvas.setDash()


def _draw(canvas: Canvas, shape: Outline | Line | Words) -> None:
    if isinstance(shape, Words):
        canvas.setFillColor(HexColor(INK if shape.tone == "ink" else SOFT))
        canvas.setFont(PLAIN, shape.size * mm)
        say = {"start": canvas.drawString, "middle": canvas.drawCentredString, "end": canvas.drawRightString}
        say[shape.anchor](shape.at[0] * mm, shape.at[1] * mm, shape.text)
        return
    canvas.setLineWidth(shape.width * mm)
    path = canvas.beginPath()
    if isinstance(shape, Line):
        canvas.setStrokeColor(HexColor(INK if shape.tone == "ink" else SOFT))
        canvas.setDash(*((1.6 * mm, 1.2 * mm) if shape.dashed else ()))
        _trace(path, shape.points)
        canvas.drawPath(path)
        canvas.setDash()
        return
    canvas.setStrokeColor(HexColor(INK))
    for ring in shape.rings:
        _trace(path, ring)
        path.close()
    if shape.fill:
        canvas.setFillColor(HexColor(shape.fill))
    canvas.drawPath(path, stroke=1, fill=int(bool(shape.fill)), fillMode=0)


def _trace(path: object, points: np.ndarray[tuple[int, int], np.dtype[np.float64]]) -> None:
    path.moveTo(points[0][0] * mm, points[0][1] * mm)  # type: ignore[attr-defined]
    for x, y in points[1:]:
        path.lineTo(x * mm, y * mm)  # type: ignore[attr-defined]


def _foot(canvas: Canvas, says: str, tiling: Tiling) -> None:
    x, y = _MARGIN, _MARGIN + 6
    canvas.setStrokeColor(HexColor(INK))
    canvas.setFillColor(HexColor(INK))
    canvas.setLineWidth(0.3 * mm)
    canvas.line(x * mm, y * mm, (x + CHECK_MM) * mm, y * mm)
    for k in range(11):
        tall = 3 if k % 10 == 0 else 2 if k % 5 == 0 else 1.2
        at = x + k * CHECK_MM / 10
        canvas.line(at * mm, y * mm, at * mm, (y + tall) * mm)
    canvas.setFont(PLAIN, 2.6 * mm)
    canvas.drawString(x * mm, (y - 4) * mm, "100 mm: if a rule says otherwise, print again without fitting to the page")
    canvas.setFillColor(HexColor(SOFT))
    canvas.drawRightString((tiling.paper[0] - _MARGIN) * mm, (y - 4) * mm, says[:90])
