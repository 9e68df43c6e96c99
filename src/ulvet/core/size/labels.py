"""Flat labels: the band that goes round a cylinder or cone, unrolled."""

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from ulvet.core.lengths import PrintMM, spoken
from ulvet.core.paper.drawing import Drawing, Line, Outline, Words

__all__ = ["Band", "band_drawing", "band_grown"]

_EDGE = 6.0
"""Millimetres round a drawing."""
_STEPS = 96
"""Points along an arc."""
_STRAIGHT = 1e-6
"""Difference of girths, of the lower, under which a cone is a cylinder (rounding)."""


class Band(BaseModel):
    """A band round something: its height along the surface's axis, its girth below and above, and how far its ends
    overlap to be glued. Girths may be measured with a strip of paper."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    height: PrintMM = Field(gt=0, le=2_000)
    girth: PrintMM = Field(gt=0, le=5_000)
    girth_above: PrintMM | None = Field(default=None, gt=0, le=5_000)
    """None for a cylinder."""
    overlap: PrintMM = Field(default=PrintMM(5.0), ge=0, le=500)

    @property
    def slant(self) -> float:
        """Height along the surface, mm."""
        lean = (self.girth - (self.girth_above or self.girth)) / (2 * np.pi)
        return float(np.hypot(self.height, lean))


def band_grown(band: Band, factor: float) -> Band:
    """The band for a figure grown by a factor: height and girth grow with it, the overlap that is glued does not."""
    above = band.girth_above
    return band.model_copy(
        update={
            "height": PrintMM(band.height * factor),
            "girth": PrintMM(band.girth * factor),
            "girth_above": None if above is None else PrintMM(above * factor),
        }
    )


def band_drawing(band: Band, title: str) -> Drawing:
    """The unrolled band at true size: a strip, or a piece of a ring for a cone; its overlap is dashed off."""
    below, above = float(band.girth), float(band.girth_above or band.girth)
    if abs(below - above) < _STRAIGHT * below:
        rim, seam = _strip(below, band.height, band.overlap)
    else:
        rim, seam = _ring_piece(below, above, band.slant, band.overlap)
    low = rim.min(axis=0) - np.array([_EDGE, _EDGE + 8])
    width, height = np.ptp(rim, axis=0) + np.array([2 * _EDGE, 2 * _EDGE + 8])
    says = f"{spoken(band.height)} mm high, {spoken(below)} mm round" + (
        f" below, {spoken(above)} mm above" if band.girth_above else ""
    )
    return Drawing(
        float(max(width, 70)),
        float(height),
        title,
        (
            Outline((rim - low,), fill=None),
            Line(seam - low, dashed=True),
            Words((_EDGE, 6.5), title[:60], 3.2, "start"),
            Words((_EDGE, 2.5), f"{says}; glue {spoken(band.overlap)} mm beyond the dashes", 2.6, "start", "soft"),
        ),
    )


def _strip(girth: float, height: float, overlap: float) -> tuple[np.ndarray, np.ndarray]:
    long = girth + overlap
    return np.array([[0, 0], [long, 0], [long, height], [0, height]]), np.array([[girth, 0], [girth, height]])


def _ring_piece(below: float, above: float, slant: float, overlap: float) -> tuple[np.ndarray, np.ndarray]:
    """A cone unrolls to a piece of a ring whose arcs are as long as the girths."""
    wide, narrow = max(below, above), min(below, above)
    angle = (wide - narrow) / slant
    outer, inner = wide / angle, narrow / angle
    whole = angle + overlap / outer
    # Opened evenly about the upright, the wider arc where it is on the cone.
    turn = np.linspace(-whole / 2, whole / 2, _STEPS)
    up = 1.0 if above > below else -1.0

    def arc(radius: float, angles: np.ndarray) -> np.ndarray:
        return np.stack([radius * np.sin(angles), up * radius * np.cos(angles)], axis=1)

    rim = np.concatenate([arc(outer, turn), arc(inner, turn[::-1])])
    seam = arc(1.0, np.array([-whole / 2 + angle]))
    return rim, np.concatenate([seam * inner, seam * outer])
