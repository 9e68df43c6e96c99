"""The guide as PDF and as one HTML page that needs nothing else. What users wrote is escaped in both."""

import base64
import html
import io
from functools import cache
from typing import Any
from xml.sax.saxutils import escape

from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable, Image, Paragraph, SimpleDocTemplate, Spacer, Table

from ulvet.core.paper.fonts import BOLD, PLAIN, register_fonts
from ulvet.core.release.guide import Block, Guide, Picture, Rows, Section, Sentence

__all__ = ["INK", "MARGIN", "SOFT", "guide_html", "guide_pdf", "neat_line"]

MARGIN = 18 * mm
"""Margin of the page, points."""
_WIDE = A4[0] - 2 * MARGIN
"""Room for text, points."""
_TALLEST = 105 * mm
"""Height of a picture at most, points."""
INK, SOFT = HexColor("#20242c"), HexColor("#555b66")
_WARNS = "#a3155f"
_STYLE = f"""
:root {{ color-scheme: light dark; --ink: #20242c; --soft: #555b66; --paper: #f4ecd8; --warns: {_WARNS}; }}
@media (prefers-color-scheme: dark) {{
  :root {{ --ink: #e8e1cd; --soft: #b5b0a0; --paper: #151b26; --warns: #ff8cc4; }}
}}
body {{ background: var(--paper); color: var(--ink); font: 17px/1.5 Georgia, serif; max-width: 60rem;
  margin: 0 auto; padding: 1.5rem; }}
h1, h2, h3 {{ line-height: 1.2; }} h2 {{ border-top: 6px double var(--ink); padding-top: .6rem; margin-top: 2.2rem; }}
.soft {{ color: var(--soft); }} .warns {{ color: var(--warns); }}
.pictures {{ display: flex; flex-wrap: wrap; gap: 1rem; }} figure {{ margin: 0; flex: 1 1 16rem; max-width: 30rem; }}
img {{ max-width: 100%; background: #f4ecd8; }} figcaption {{ color: var(--soft); font-size: .9rem; }}
.wide {{ overflow-x: auto; }} table {{ border-collapse: collapse; font-size: .95rem; }}
th, td {{ text-align: left; vertical-align: top; padding: .25rem .8rem .25rem 0;
  border-bottom: 1px solid var(--soft); }}
"""


def guide_html(guide: Guide) -> bytes:
    """The guide as one HTML page with its pictures inside, without scripts."""
    body = "".join(_section_html(section) for section in guide.sections)
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8">'
        f'<meta name="viewport" content="width=device-width"><title>{html.escape(guide.title)}</title>'
        f"<style>{_STYLE}</style></head><body><main><h1>{html.escape(guide.title)}</h1>"
        f'<p class="soft">{html.escape(guide.lead)}</p>{body}</main></body></html>\n'
    ).encode()


def guide_pdf(guide: Guide) -> bytes:
    """The guide as A4 PDF with embedded fonts and without a date, so that equal guides give equal bytes."""
    style = _styles()
    story: list[Flowable] = [
        Paragraph(escape(guide.title), style["name"]),
        Paragraph(escape(guide.lead), style["soft"]),
    ]
    for section in guide.sections:
        story.append(Spacer(0, (5 if section.level == 1 else 3) * mm))
        story.append(Paragraph(escape(section.title), style["head" if section.level == 1 else "item-head"]))
        for block in section.blocks:
            story += _block_pdf(block, style)
    buffer = io.BytesIO()
    document = SimpleDocTemplate(
        buffer, pagesize=A4, invariant=1, leftMargin=MARGIN, rightMargin=MARGIN, topMargin=MARGIN,
        bottomMargin=MARGIN, title=guide.title, author="", creator="Ulvet",
    )  # fmt: skip
    document.build(story, onFirstPage=neat_line, onLaterPages=neat_line)
    return buffer.getvalue()


def neat_line(canvas: Canvas, document: Any) -> None:
    """The graduated border of a chart about every page: bars of ten millimetres, inked and open by turns."""
    width, height = A4
    left, foot = MARGIN - 6 * mm, MARGIN - 6 * mm
    right, top = width - left, height - foot
    canvas.saveState()
    canvas.setStrokeColor(INK)
    canvas.setFillColor(INK)
    canvas.setLineWidth(0.6)
    for inset in (0, 1.4 * mm):
        canvas.rect(left + inset, foot + inset, right - left - 2 * inset, top - foot - 2 * inset)
    for k in range(int((right - left) // (20 * mm)) + 1):
        x = left + k * 20 * mm
        for y in (foot, top - 1.4 * mm):
            canvas.rect(x, y, min(10 * mm, right - x), 1.4 * mm, fill=1)
    canvas.setFont(PLAIN, 7)
    canvas.setFillColor(SOFT)
    canvas.drawRightString(right - 3 * mm, foot + 3 * mm, f"sheet {document.page}")
    canvas.restoreState()


def _section_html(section: Section) -> str:
    level = section.level + 1
    blocks = "".join(map(_block_html, section.blocks))
    return f"<section><h{level}>{html.escape(section.title)}</h{level}>{blocks}</section>"


def _block_html(block: Block) -> str:
    match block:
        case Sentence(text, tone):
            return f'<p class="{tone}">{html.escape(text)}</p>'
        case Rows(head, rows):
            heads = "".join(f"<th scope=col>{html.escape(one)}</th>" for one in head)
            cells = "".join(f"<tr>{''.join(f'<td>{html.escape(one)}</td>' for one in row)}</tr>" for row in rows)
            return f"<div class=wide tabindex=0><table>{f'<tr>{heads}</tr>' if head else ''}{cells}</table></div>"
    return f'<div class="pictures">{"".join(map(_picture_html, block))}</div>'


def _picture_html(picture: Picture) -> str:
    data = base64.b64encode(picture.png).decode()
    said = html.escape(picture.says, quote=True)
    return f'<figure><img alt="{said}" src="data:image/png;base64,{data}"><figcaption>{said}</figcaption></figure>'


def _block_pdf(block: Block, style: dict[str, ParagraphStyle]) -> list[Flowable]:
    match block:
        case Sentence(text, tone):
            said = escape(text)
            return [Paragraph(f'<font color="{_WARNS}">{said}</font>' if tone == "warns" else said, style[tone])]
        case Rows(head, rows):
            return _table_pdf(head, rows, style)
    wide = min(_WIDE / max(len(block), 1), 120 * mm)
    drawn = [[_picture_pdf(one, wide - 4 * mm, style) for one in block]]
    return [Table(drawn, colWidths=[wide] * len(block), style=[("VALIGN", (0, 0), (-1, -1), "BOTTOM"), *_tight()])]


def _picture_pdf(picture: Picture, wide: float, style: dict[str, ParagraphStyle]) -> list[Flowable]:
    drawn = Image(io.BytesIO(picture.png))
    drawn._restrictSize(min(wide, picture.wide_mm * mm), _TALLEST)
    return [drawn, Paragraph(escape(picture.says), style["soft"])]


def _table_pdf(
    head: tuple[str, ...], rows: tuple[tuple[str, ...], ...], style: dict[str, ParagraphStyle]
) -> list[Flowable]:
    if not rows:
        return []
    told = [[Paragraph(escape(one), style["plain"]) for one in row] for row in rows]
    if head:
        told.insert(0, [Paragraph(escape(one), style["soft"]) for one in head])
    longest = [max(len(row[k]) for row in (head, *rows) if row) for k in range(len(rows[0]))]
    shares = [min(max(one, 9), 44) for one in longest]
    widths = [_WIDE * one / sum(shares) for one in shares]
    rules = [("LINEBELOW", (0, 0), (-1, -1), 0.25, SOFT), ("VALIGN", (0, 0), (-1, -1), "TOP"), *_tight()]
    return [Table(told, colWidths=widths, style=rules, repeatRows=1 if head else 0)]


def _tight() -> list[tuple[Any, ...]]:
    sides = ("LEFTPADDING", "RIGHTPADDING", "TOPPADDING", "BOTTOMPADDING")
    return [(side, (0, 0), (-1, -1), 0.6 * mm) for side in sides]


@cache
def _styles() -> dict[str, ParagraphStyle]:
    register_fonts()
    plain = ParagraphStyle("plain", fontName=PLAIN, fontSize=8.5, leading=11.5, textColor=INK, spaceAfter=1.2 * mm)
    head = ParagraphStyle("head", plain, fontName=BOLD, fontSize=12, leading=16, keepWithNext=1)
    return {
        "plain": plain,
        "warns": plain,
        "soft": ParagraphStyle("soft", plain, textColor=SOFT),
        "head": head,
        "item-head": ParagraphStyle("item-head", head, fontSize=9.5, leading=13),
        "name": ParagraphStyle("name", plain, fontName=BOLD, fontSize=19, leading=25),
    }
