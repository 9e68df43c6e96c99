"""Ways to say a size: each works out the factor from figure to print, and shows its working."""

from typing import Annotated, Literal

import numpy as np
import shapely
from pydantic import BaseModel, ConfigDict, Field, TypeAdapter
from scipy.spatial import ConvexHull, QhullError

from ulvet.core.bench.bench import DEFAULT_BENCH, Bench
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.lengths import FigureMM, PrintMM, spoken
from ulvet.core.size.check import largest_height
from ulvet.core.size.turning import Turned, largest_turned

__all__ = [
    "EYE_SHARE",
    "PERSON_MM",
    "AnyWay",
    "FigureSize",
    "UnusableSize",
    "WorkedSize",
    "figure_size",
    "footprint",
    "way_adapter",
]

EYE_SHARE = 14 / 15
"""Of a standing figure's height: the eyes lie half-way down the head, and a grown person is about seven and a half
heads tall (the usual canon of figure drawing; bench default, replaced by an eye line that was picked)."""
PERSON_MM = 1750.0
"""Height of a grown person where none is given (bench default)."""
_CONTACT_SHARE = 0.01
"""What lies within so much of the height above the ground counts as the footprint (bench default)."""
_GRAIN = 1e-4
"""Step, of the longest side, to which lengths of a figure are rounded before they are compared."""
_LARGEST, _SMALLEST = 100_000.0, 1e-6
"""Factors between which a size makes sense."""

Length = Annotated[float, Field(gt=0, le=1e7, allow_inf_nan=False)]


class UnusableSize(ValueError):
    """A size that cannot be worked out; its text is for the user."""


class FigureSize(BaseModel):
    """What the ways need to know of a figure, all parts as they stand to each other, in figure mm.

    ``size`` is its box, ``footprint`` the diameter of the smallest circle round what stands on the ground, ``hull``
    corners that no corner of the figure lies outside of, rounded to a ten-thousandth of its size.
    """

    model_config = ConfigDict(frozen=True)

    size: tuple[FigureMM, FigureMM, FigureMM]
    footprint: FigureMM
    hull: tuple[tuple[float, float, float], ...]

    @property
    def height(self) -> FigureMM:
        return self.size[2]


class WorkedSize(BaseModel):
    """A factor, the working it comes from line by line, and how the figure is turned where the way asks for that."""

    model_config = ConfigDict(frozen=True)

    factor: float
    working: tuple[str, ...]
    turned: Turned | None = None


class _Way(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class OverallHeight(_Way):
    """So many mm from the ground to the highest point."""

    way: Literal["height"] = "height"
    height: PrintMM = Field(gt=0, le=10_000)

    def work(self, figure: FigureSize, bench: Bench = DEFAULT_BENCH) -> WorkedSize:
        return _worked(
            self.height / figure.height, f"{spoken(self.height)} mm / {spoken(figure.height)} mm of the source"
        )


class EyeLine(_Way):
    """So many mm from the ground to the eyes, as tabletop scales are given; ``at`` is where they are."""

    way: Literal["eye"] = "eye"
    eye: PrintMM = Field(gt=0, le=10_000)
    at: FigureMM | None = Field(default=None, gt=0)

    def work(self, figure: FigureSize, bench: Bench = DEFAULT_BENCH) -> WorkedSize:
        at = self.at or FigureMM(EYE_SHARE * figure.height)
        whence = "as it was picked" if self.at else f"taken as {EYE_SHARE:.3f} of the height, until the eyes are picked"
        return _worked(
            self.eye / at,
            f"eyes {spoken(at)} mm up the source, {whence}",
            f"{spoken(self.eye)} mm / {spoken(at)} mm",
        )


class Ratio(_Way):
    """One to ``n``, of a being that is really ``real`` mm tall."""

    way: Literal["ratio"] = "ratio"
    n: float = Field(gt=0, le=100_000, allow_inf_nan=False)
    real: Length = PERSON_MM

    def work(self, figure: FigureSize, bench: Bench = DEFAULT_BENCH) -> WorkedSize:
        height = self.real / self.n
        return _worked(
            height / figure.height,
            f"{self.real:,.0f} mm in life / {self.n:g} = {spoken(height)} mm",
            f"{spoken(height)} mm / {spoken(figure.height)} mm of the source",
        )


class Percent(_Way):
    """So many percent of the source's own size."""

    way: Literal["percent"] = "percent"
    percent: float = Field(gt=0, le=10_000_000, allow_inf_nan=False)

    def work(self, figure: FigureSize, bench: Bench = DEFAULT_BENCH) -> WorkedSize:
        return _worked(self.percent / 100, f"{self.percent:g} % of the source's {spoken(figure.height)} mm")


class MatchLength(_Way):
    """A length measured on the figure is to print as another; ``of`` and ``to`` say what they are."""

    way: Literal["match"] = "match"
    length: FigureMM = Field(gt=0, le=1e7)
    wanted: PrintMM = Field(gt=0, le=100_000)
    of: str = Field(default="the measured length", max_length=80)
    to: str = Field(default="the length wanted", max_length=80)

    def work(self, figure: FigureSize, bench: Bench = DEFAULT_BENCH) -> WorkedSize:
        return _worked(
            self.wanted / self.length,
            f"{self.to} {spoken(self.wanted)} mm / {self.of} {spoken(self.length)} mm of the source",
        )


class FillBase(_Way):
    """The footprint fills a base of so many mm across, but for a rim left free all round."""

    way: Literal["base"] = "base"
    diameter: PrintMM = Field(gt=0, le=10_000)
    rim: PrintMM = Field(default=PrintMM(1.0), ge=0, le=5_000)

    def work(self, figure: FigureSize, bench: Bench = DEFAULT_BENCH) -> WorkedSize:
        free = self.diameter - 2 * self.rim
        if free <= 0:
            raise UnusableSize(
                f"A rim of {spoken(self.rim)} mm leaves nothing of a base {spoken(self.diameter)} mm across: "
                "give a narrower rim or a larger base."
            )
        if figure.footprint <= 0:
            raise UnusableSize("The figure stands on a single point, so it fills no base: give its height instead.")
        return _worked(
            free / figure.footprint,
            f"{spoken(self.diameter)} mm less {spoken(self.rim)} mm all round = {spoken(free)} mm",
            f"{spoken(free)} mm / {spoken(figure.footprint)} mm, the circle round what stands on the ground",
        )


class FitPrinter(_Way):
    """The largest that fits a printer, as it stands or turned any way."""

    way: Literal["fit"] = "fit"
    printer: str = Field(max_length=80)
    turned: bool = False

    def work(self, figure: FigureSize, bench: Bench = DEFAULT_BENCH) -> WorkedSize:
        printer = bench.setup(printer_id=self.printer).printer
        builds = " x ".join(spoken(side) for side in printer.room)
        if self.turned:
            found = largest_turned(np.array(figure.hull), np.array(printer.room))
            height = np.floor(figure.height * found.factor * 100) / 100
            if height <= 0:
                raise UnusableSize(
                    "So large a source fits no printer at a size that could be seen: set its unit first."
                )
            return _worked(
                height / figure.height,
                f"{printer.name} builds {builds} mm",
                f"turned {found.lean:.0f}° over it fits {spoken(height)} mm tall; supports will want room of their own",
                turned=found,
            )
        height = largest_height(np.array(figure.size), printer)
        if height <= 0:
            raise UnusableSize(f"The source is so flat that no height of it fits {printer.name}: turn it first.")
        return _worked(
            height / figure.height,
            f"{printer.name} builds {builds} mm, quarter turns allowed",
            f"as it stands it fits {spoken(height)} mm tall; {spoken(height)} mm / {spoken(figure.height)} mm",
        )


AnyWay = Annotated[
    OverallHeight | EyeLine | Ratio | Percent | MatchLength | FillBase | FitPrinter, Field(discriminator="way")
]
"""One way to say a size."""

way_adapter: TypeAdapter[AnyWay] = TypeAdapter(AnyWay)


def figure_size(*parts: Mesh) -> FigureSize:
    """What the ways need to know of parts as they stand to each other, in figure mm."""
    points = np.concatenate([part.vertices[np.unique(part.faces)] for part in parts])
    low, high = points.min(axis=0), points.max(axis=0)
    x, y, z = (FigureMM(side) for side in high - low)
    grain = max(x, y, z) * _GRAIN or 1.0
    hull = np.unique(np.round(_outermost(points) / grain) * grain, axis=0)
    return FigureSize(
        size=(x, y, z),
        footprint=footprint(points),
        hull=tuple((float(a), float(b), float(c)) for a, b, c in hull),
    )


def footprint(points: np.ndarray[tuple[int, int], np.dtype[np.float64]]) -> FigureMM:
    """Diameter of the smallest circle round what of points (n, 3) stands on the ground."""
    low, high = points[:, 2].min(), points[:, 2].max()
    on_ground = points[points[:, 2] <= low + _CONTACT_SHARE * (high - low), :2]
    return FigureMM(2 * shapely.minimum_bounding_radius(shapely.MultiPoint(on_ground)))


def _outermost(
    points: np.ndarray[tuple[int, int], np.dtype[np.float64]],
) -> np.ndarray[tuple[int, int], np.dtype[np.float64]]:
    """The corners of the convex hull, or of the box where the figure is flat."""
    try:
        return np.asarray(points[ConvexHull(points).vertices])
    except QhullError:
        low, high = points.min(axis=0), points.max(axis=0)
        return np.array([[x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])])


def _worked(factor: float, *working: str, turned: Turned | None = None) -> WorkedSize:
    if not _SMALLEST <= factor <= _LARGEST:
        raise UnusableSize(
            f"That would make the figure {factor:.3g} times its source, which no printer can: check the numbers."
        )
    return WorkedSize(factor=factor, working=(*working, f"factor {factor:.5g}"), turned=turned)
