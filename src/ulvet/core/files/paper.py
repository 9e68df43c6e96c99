"""Line-ups and labels of files, without the server."""

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
from pydantic import ValidationError

from ulvet.core.files.inspection import bring_in_step
from ulvet.core.formats.read import read_file
from ulvet.core.geometry.mesh import bounds, scaled
from ulvet.core.geometry.placement import placement_of
from ulvet.core.lengths import PrintMM
from ulvet.core.paper.drawing import Drawing, svg_text
from ulvet.core.paper.sheets import PAPERS, drawing_pdf, sheets_for
from ulvet.core.size.labels import Band, band_drawing, band_grown
from ulvet.core.size.lineup import line_up, silhouette
from ulvet.core.size.ways import UnusableSize

__all__ = ["label_bytes", "line_up_of_files"]


def line_up_of_files(
    files: Sequence[Path], out: Path, heights: str | None, paper: str, hand: bool
) -> tuple[bytes, dict[str, Any]]:
    """The bytes of ``out``, a line-up of files at the ``heights`` given, and what is on it as plain values.

    Raises UnreadableFile and UnusableSize, both with a text for the user.
    """
    wanted = _heights(heights, len(files))
    figures = []
    for path, height in zip(files, wanted, strict=True):
        read = read_file(path)
        step = bring_in_step(read, path.name)
        mesh = placement_of(read.mesh, step.unit, step.up).placed(read.mesh)
        tall = float(np.ptp(bounds(mesh)[:, 2]))
        if height is not None and tall <= 0:
            raise UnusableSize(f"{path.name} has no height, so none can be set: leave it as it is.")
        figures.append(silhouette(path.stem, mesh if height is None else scaled(mesh, height / tall)))
    drawing = line_up(figures, "Line-up, true size", hand)
    data = _written(drawing, out, paper)
    tiling = sheets_for(drawing, paper)
    return data, {
        "out": str(out),
        "paper": paper,
        "sheets": tiling.columns * tiling.rows,
        "size_mm": [drawing.width, drawing.height],
        "figures": [
            {"file": str(path), "width_mm": one.width, "height_mm": one.height}
            for path, one in zip(files, figures, strict=True)
        ],
    }


def label_bytes(
    out: Path, paper: str, height: float, girth: float, girth_above: float | None, overlap: float, grow: float
) -> bytes:
    """The bytes of ``out``, an unrolled band for what has grown by a factor since it was measured; all lengths in mm.

    Raises UnusableSize.
    """
    if not (np.isfinite(grow) and 0 < grow <= 1_000):
        raise UnusableSize("What a band goes round grows by a factor above 0, up to 1,000.")
    try:
        band = Band(
            height=PrintMM(height),
            girth=PrintMM(girth),
            girth_above=None if girth_above is None else PrintMM(girth_above),
            overlap=PrintMM(overlap),
        )
    except ValidationError as error:
        raise UnusableSize(
            "A band has a height and girths above 0 and an overlap of at least 0 mm, none of them longer than 5 m."
        ) from error
    return _written(band_drawing(band_grown(band, grow), "Label, true size"), out, paper)


def _heights(text: str | None, count: int) -> list[float | None]:
    if text is None:
        return [None] * count
    try:
        heights = [float(part) for part in text.split(",")]
    except ValueError:
        heights = []
    if len(heights) != count or not all(np.isfinite(height) and 0 < height <= 10_000 for height in heights):
        raise UnusableSize(f"Give {count} heights above 0 up to 10,000 mm with commas between, one a file.")
    return list(heights)


def _written(drawing: Drawing, out: Path, paper: str) -> bytes:
    if paper not in PAPERS:
        raise UnusableSize(f"There is no paper {paper!r}: give {', '.join(PAPERS)}.")
    if out.suffix.lower() == ".svg":
        return svg_text(drawing).encode()
    if out.suffix.lower() == ".pdf":
        return drawing_pdf(drawing, paper)
    raise UnusableSize(f"{out.name} has to end in .pdf or .svg.")
