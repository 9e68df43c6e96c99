"""Line-ups and labels, measured back from the paper."""

import io

import numpy as np
import pdfplumber
import pytest
from lxml import etree

from tests.shapes import box, concatenated, cylinder
from ulvet.core.lengths import PrintMM
from ulvet.core.paper.drawing import Drawing, Outline, Words, svg_text
from ulvet.core.paper.sheets import drawing_pdf, sheets_for
from ulvet.core.size.labels import Band, band_drawing, band_grown
from ulvet.core.size.lineup import line_up, silhouette

MM = 72 / 25.4


def lines_of(page):
    return [(line["x1"] - line["x0"], line["bottom"] - line["top"]) for line in page.lines]


def test_the_check_bar_is_a_hundred_millimetres_on_every_sheet():
    drawing = line_up([silhouette("post", box(300, 10, 400))], "Line-up")
    with pdfplumber.open(io.BytesIO(drawing_pdf(drawing))) as pdf:
        assert len(pdf.pages) == sheets_for(drawing).columns * sheets_for(drawing).rows > 1
        for page in pdf.pages:
            assert min(abs(wide / MM - 100) for wide, tall in lines_of(page) if tall < 0.1) < 0.1


def test_a_figure_on_paper_is_as_large_as_it_prints():
    drawing = line_up([silhouette("post", box(31.5, 10, 63.2))], "Line-up", hand=False)
    with pdfplumber.open(io.BytesIO(drawing_pdf(drawing))) as pdf:
        curves = [shape for shape in [*pdf.pages[0].curves, *pdf.pages[0].rects] if shape["fill"]]
        (figure,) = [one for one in curves if one["height"] > 50 * MM]
    assert (figure["width"] / MM, figure["height"] / MM) == pytest.approx((31.5, 63.2), abs=0.1)


def test_a_silhouette_keeps_its_holes_and_its_true_outline():
    frame = concatenated(box(30, 4, 3), box(30, 4, 3, at=(0, 0, 27)), box(3, 4, 30), box(3, 4, 30, at=(27, 0, 0)))
    seen = silhouette("frame", frame)
    rings = [np.array(ring) for ring in seen.rings]
    assert len(rings) == 2
    outer, inner = sorted(rings, key=lambda ring: -np.ptp(ring[:, 0]))
    assert np.ptp(outer, axis=0) == pytest.approx([30, 30], abs=1e-3)
    assert np.ptp(inner, axis=0) == pytest.approx([24, 24], abs=0.1)
    round_one = silhouette("round", cylinder(10, 5, 64))
    assert (round_one.width, round_one.height) == pytest.approx((20, 5), rel=1e-6)


def test_an_svg_is_in_true_millimetres_and_escapes_what_is_written_on_it():
    evil = '"/><script>alert(1)</script>&'
    drawing = Drawing(50, 20, evil, (Words((5, 5), evil), Outline((np.array([[0.0, 0], [5, 0], [5, 5]]),), fill=None)))
    root = etree.fromstring(svg_text(drawing).encode())
    assert (root.get("width"), root.get("viewBox")) == ("50.000mm", "0 0 50.000 20.000")
    assert [child.tag.split("}")[1] for child in root] == ["title", "text", "path"]
    assert root[1].text == evil
    assert drawing_pdf(drawing).startswith(b"%PDF")


def outline_of(band):
    return np.array(next(shape for shape in band_drawing(band, "Label").shapes if isinstance(shape, Outline)).rings[0])


def test_the_band_of_a_cylinder_is_a_strip_as_long_as_girth_and_overlap():
    band = Band(height=PrintMM(20), girth=PrintMM(94.2), overlap=PrintMM(6))
    assert np.ptp(outline_of(band), axis=0) == pytest.approx([100.2, 20])
    grown = band_grown(band, 2.0)
    assert (grown.height, grown.girth, grown.overlap) == (40, pytest.approx(188.4), 6)


@pytest.mark.parametrize(("below", "above"), [(120, 90), (90, 120), (200, 20)])
def test_the_band_of_a_cone_has_arcs_as_long_as_its_girths_a_slant_apart(below, above):
    band = Band(height=PrintMM(30), girth=PrintMM(below), girth_above=PrintMM(above), overlap=PrintMM(0))
    rim = outline_of(band)
    half = len(rim) // 2
    arcs = [np.linalg.norm(np.diff(arc, axis=0), axis=1).sum() for arc in (rim[:half], rim[half:])]
    assert arcs == pytest.approx([max(below, above), min(below, above)], rel=1e-3)
    sides = np.linalg.norm(rim[half - 1] - rim[half]), np.linalg.norm(rim[-1] - rim[0])
    slant = np.hypot(30, (below - above) / (2 * np.pi))
    assert sides == pytest.approx((slant, slant), rel=1e-6)
