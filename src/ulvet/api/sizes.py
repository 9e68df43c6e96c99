"""Size: ways to say it with their consequences, the line-up, and flat labels."""

from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, Field

from ulvet.api.asked import AtStudio, LookedEdition, RowNumber
from ulvet.core.layers.estimate import Estimate
from ulvet.core.lengths import PrintMM
from ulvet.core.paper.drawing import Drawing, svg_text
from ulvet.core.paper.sheets import PAPERS, drawing_pdf
from ulvet.core.size.build_volume import fits_standing
from ulvet.core.size.consequences import estimate_at
from ulvet.core.size.labels import Band, band_drawing
from ulvet.core.size.lineup import Silhouette, line_up
from ulvet.core.size.scales import AtSize
from ulvet.core.size.ways import AnyWay, FigureSize, WorkedSize
from ulvet.work.refusals import NotThere, Refused
from ulvet.work.studio import Studio

__all__ = ["router"]

router = APIRouter(tags=["size"])

Paper = Annotated[str, Query(pattern=f"^({'|'.join(PAPERS)})$")]
_PDF = "application/pdf"


_AS_TALL = 1e-4
"""Share of its height by which a figure may differ from what was set down and still be as tall."""


class AskSize(BaseModel):
    """One way to say a size."""

    way: AnyWay


class SizeWorked(BaseModel):
    """What a size comes to, before it is set. Lengths are print mm."""

    worked: WorkedSize
    height: float
    by_factor: bool = Field(
        description="Whether an edition has to say the size as its factor: later steps made the figure taller or lower "
        "than what was set down, of which a height is said."
    )
    size_mm: tuple[float, float, float]
    near: AtSize | None = Field(description="What is too thin at the size looked at that is nearest to it.")
    estimate: Estimate | None
    fits: bool = Field(description="Whether it fits its printer as it stands now, without supports.")


@router.post("/figures/{number}/size")
def work_out(number: RowNumber, asked: AskSize, edition: LookedEdition, studio: AtStudio) -> SizeWorked:
    """Work out a size and what follows from it; nothing is changed."""
    _, head, record, _ = studio.figure(number, edition)
    if record is None or record.measured is None:
        raise Refused("The figure is still being checked: work its size out when that is done.")
    measured = FigureSize.model_validate_json(bytes(studio.blobs.read(record.measured)))
    bench, made = studio.bench.value, studio.edition(head, edition).made
    setup = bench.setup(made.setting)
    worked = asked.way.work(measured, bench)
    placed = float(record.placed_mm or measured.height)
    x, y, z = (float(side) * worked.factor for side in measured.size)
    ratio = worked.factor / record.parts[0].facts.factor
    return SizeWorked(
        worked=worked,
        height=z,
        by_factor=abs(float(measured.height) - placed) > _AS_TALL * placed,
        size_mm=(x, y, z),
        near=record.sizes.near(PrintMM(z)) if record.sizes else None,
        estimate=None if record.estimate is None else estimate_at(record.estimate, ratio, setup),
        fits=fits_standing(np.array([x, y, z]), setup.printer),
    )


@router.get("/line-up.svg", response_class=Response)
def line_up_svg(studio: AtStudio, figures: Annotated[list[int], Query(max_length=60)], hand: bool = True) -> Response:
    """Figures of the shelf side by side, as SVG in true millimetres."""
    return Response(svg_text(_line_up(studio, figures, hand)), media_type="image/svg+xml")


@router.get("/line-up.pdf", response_class=Response)
def line_up_pdf(
    studio: AtStudio, figures: Annotated[list[int], Query(max_length=60)], hand: bool = True, paper: Paper = "a4"
) -> Response:
    """The same on paper at true size, over as many sheets as it takes."""
    return _attached(drawing_pdf(_line_up(studio, figures, hand), paper), "line-up.pdf")


@router.get("/label.svg", response_class=Response)
def label_svg(band: Annotated[Band, Query()]) -> Response:
    """The unrolled band for a cylinder or cone, as SVG in true millimetres."""
    return Response(svg_text(band_drawing(band, "Label")), media_type="image/svg+xml")


@router.get("/label.pdf", response_class=Response)
def label_pdf(band: Annotated[Band, Query()]) -> Response:
    """The same on A4 at true size."""
    return _attached(drawing_pdf(band_drawing(band, "Label")), "label.pdf")


def _line_up(studio: Studio, figures: list[int], hand: bool) -> Drawing:
    shapes = []
    for number in figures:
        figure, _, record, _ = studio.figure(number)
        if record is None:
            raise NotThere(f"{figure.name} is still being checked: line it up when that is done.")
        kept = Silhouette.model_validate_json(bytes(studio.blobs.read(record.silhouette)))
        shapes.append(kept.model_copy(update={"name": figure.name}))
    return line_up(shapes, "The studio's line-up", hand)


def _attached(data: bytes, name: str) -> Response:
    headers: dict[str, Any] = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(data, media_type=_PDF, headers=headers)
