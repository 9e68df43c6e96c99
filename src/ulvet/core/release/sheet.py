"""The sheet of a release: one PDF for buyers and for the wall of the workshop, with pictures, facts and cautions."""

import io
from functools import cache
from typing import Any
from xml.sax.saxutils import escape

from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Image, KeepTogether, Paragraph, SimpleDocTemplate, Spacer, Table

from ulvet.core.build.figure_build import Facts
from ulvet.core.findings.finding import Finding, Severity
from ulvet.core.layers.estimate import Estimate
from ulvet.core.lengths import spoken
from ulvet.core.paper.fonts import BOLD, PLAIN, register_fonts
from ulvet.core.provenance.named import named_in_release
from ulvet.core.release.cautions import cautions_for
from ulvet.core.release.checked_figure import CheckedFigure
from ulvet.core.release.guide_paper import INK, MARGIN, SOFT, neat_line

__all__ = ["sheet_pdf"]

_MOST_FINDINGS = 40
"""Findings on the sheet; the manifest has all."""
_SAYS = {Severity.STOP: "stops", Severity.CAUTION: "wants care", Severity.NOTE: "worth knowing"}


def sheet_pdf(checked: CheckedFigure) -> bytes:
    """The sheet as A4 PDF with embedded fonts and without a date, so that equal figures give equal bytes.

    What the user wrote is escaped; at most forty findings are named, and the rest counted.
    """
    style = _styles()
    setup = checked.setup
    story: list[Flowable] = [
        Paragraph(escape(checked.figure), style["name"]),
        Paragraph(
            escape(f"Checked for {setup.printer.name} and {setup.material.name.lower()}. {checked.proofed}"),
            style["soft"],
        ),
    ]
    for picture, facts, estimate in _by_part(checked):
        story += [Spacer(0, 4 * mm), _part(picture, facts, estimate, style)]
    if named := named_in_release(checked.recipe.steps):
        sentences = [Paragraph(escape(sentence), style["item"]) for sentence in named]
        story += [Spacer(0, 4 * mm), Paragraph("Where it comes from", style["head"]), *sentences]
    story += [Spacer(0, 4 * mm), *_findings(checked, style)]
    cautions = [Paragraph(escape(caution), style["item"]) for caution in cautions_for(setup.printer.process)]
    story += [Spacer(0, 3 * mm), KeepTogether([Paragraph("Cautions", style["head"]), *cautions])]
    buffer = io.BytesIO()
    document = SimpleDocTemplate(
        buffer, pagesize=A4, invariant=1, leftMargin=MARGIN, rightMargin=MARGIN, topMargin=MARGIN,
        bottomMargin=MARGIN, title=checked.figure, author="", creator="Ulvet",
    )  # fmt: skip
    document.build(story, onFirstPage=neat_line, onLaterPages=neat_line)
    return buffer.getvalue()


def _by_part(checked: CheckedFigure) -> list[tuple[bytes, Facts, Estimate | None]]:
    return list(zip(checked.pictures, checked.facts, checked.estimates, strict=True))


def _part(picture: bytes, facts: Facts, estimate: Estimate | None, style: dict[str, ParagraphStyle]) -> Table:
    drawn = Image(io.BytesIO(picture))
    drawn._restrictSize(84 * mm, 92 * mm)
    rows = [
        ("part", facts.part),
        ("wide, deep, tall", " x ".join(spoken(side) for side in facts.size_mm) + " mm"),
        ("from source to print", f"{facts.factor:.5g}"),
        ("triangles", f"{facts.triangles:,}"),
        ("surface", "closed" if facts.watertight else "not closed"),
        ("volume", f"{facts.volume_mm3 / 1000:.1f} ml"),
    ]
    if estimate:
        rows += [
            ("layers", f"{estimate.layers:,}"),
            ("time (estimate)", f"{estimate.seconds / 3600:.1f} h"),
            ("material (estimate)", f"{estimate.material_ml:.1f} ml, {estimate.money:.2f}"),
        ]
    beside: list[Any] = [
        Table([[Paragraph(escape(a), style["soft"]), Paragraph(escape(b), style["fact"])] for a, b in rows],
              colWidths=[32 * mm, 46 * mm], style=[("VALIGN", (0, 0), (-1, -1), "TOP"), *_tight()])
    ]  # fmt: skip
    if estimate:
        beside.append(Paragraph(escape(estimate.model), style["soft"]))
    return Table(
        [[drawn, beside]], colWidths=[92 * mm, 80 * mm], style=[("VALIGN", (0, 0), (-1, -1), "MIDDLE"), *_tight()]
    )


def _findings(checked: CheckedFigure, style: dict[str, ParagraphStyle]) -> list[Flowable]:
    story: list[Flowable] = [Paragraph("Open findings", style["head"])]
    if not checked.findings and not checked.unseen:
        story.append(Paragraph("None.", style["item"]))
    story += [Paragraph(f"Not seen: {escape(gap.why)}", style["item"]) for gap in checked.unseen]
    story += [Paragraph(_finding(finding), style["item"]) for finding in checked.findings[:_MOST_FINDINGS]]
    more = len(checked.findings) - _MOST_FINDINGS
    if more > 0:
        story.append(Paragraph(f"And {more:,} more; the manifest names them all.", style["soft"]))
    return story


def _finding(finding: Finding) -> str:
    said = escape(f"{finding.title} ({_SAYS[finding.severity]})")
    return f'<font color="#a3155f">{said}</font>' if finding.severity is Severity.STOP else said


def _tight() -> list[tuple[Any, ...]]:
    sides = ("LEFTPADDING", "RIGHTPADDING", "TOPPADDING", "BOTTOMPADDING")
    return [(side, (0, 0), (-1, -1), 0.5 * mm) for side in sides]


@cache
def _styles() -> dict[str, ParagraphStyle]:
    register_fonts()
    plain = ParagraphStyle("fact", fontName=PLAIN, fontSize=8.5, leading=11.5, textColor=INK)
    return {
        "fact": plain,
        "item": ParagraphStyle("item", plain, spaceAfter=1.2 * mm),
        "soft": ParagraphStyle("soft", plain, textColor=SOFT),
        "head": ParagraphStyle("head", plain, fontName=BOLD, fontSize=10.5, leading=15),
        "name": ParagraphStyle("name", plain, fontName=BOLD, fontSize=19, leading=25),
    }
