"""Flat drawings in true millimetres, as SVG on screen and as PDF on paper."""

from ulvet.core.paper.drawing import Drawing, Line, Outline, Words, svg_text
from ulvet.core.paper.sheets import PAPERS, drawing_pdf, sheets_for

__all__ = ["PAPERS", "Drawing", "Line", "Outline", "Words", "drawing_pdf", "sheets_for", "svg_text"]
