"""The fonts of everything printed."""

from functools import cache
from importlib.resources import files

from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

__all__ = ["BOLD", "PLAIN", "register_fonts"]

PLAIN, BOLD = "Sheet", "Sheet-Bold"


@cache
def register_fonts() -> None:
    """Make the fonts known that come with the PDF library, so that paper looks the same on every machine."""
    folder = files("reportlab") / "fonts"
    pdfmetrics.registerFont(TTFont(PLAIN, str(folder / "Vera.ttf")))
    pdfmetrics.registerFont(TTFont(BOLD, str(folder / "VeraBd.ttf")))
