"""What becomes too thin at which size, before any is chosen."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

from ulvet.core.bench.setup import Setup
from ulvet.core.gauge.walls.kinds import Kind, few_of, kind_among, kinds_of, limit_for
from ulvet.core.gauge.walls.thickness import Thickness
from ulvet.core.gauge.walls.thin_places import ThinGroups, WallGraph
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.geometry.rays import Rays
from ulvet.core.lengths import FigureMM, PrintMM

__all__ = ["AtSize", "SizeScale", "SizeSurvey", "sizes_about", "survey_sizes"]

_NEAR = 1.002
"""Two heights nearer than this ratio are one when the smallest is looked for."""
_TIMES = 8
"""A figure that does not print at so many times the size asked about has other troubles than its size."""
_LOOKS = 24
"""Sizes that are surveyed."""
_SMALLEST = 0.25
"""Times the present height from which sizes are surveyed."""
_SHOWN_LINES = 2
"""A wall narrower than so many pixels does not show for certain (bench default); in filament than one line."""


class AtSize(BaseModel):
    """One size: how many places are thinner than the material wants, of those how many it cannot bear, how many are
    finer than the printer can draw, and the least wall (print mm; none where none is thin)."""

    model_config = ConfigDict(frozen=True)

    height: PrintMM
    factor: float
    thin: int
    stops: int
    too_fine: int
    least: PrintMM | None


class SizeSurvey(BaseModel):
    """What is too thin at sizes about the one it has, the smallest first, and the smallest that prints, if any does."""

    model_config = ConfigDict(frozen=True)

    sizes: tuple[AtSize, ...]
    smallest: PrintMM | None

    def near(self, height: PrintMM) -> AtSize | None:
        """The size looked at that is nearest by ratio; None for what lies beyond all of them."""
        if not self.sizes or not 0.9 * self.sizes[0].height <= height <= 1.1 * self.sizes[-1].height:
            return None
        return min(self.sizes, key=lambda at: abs(np.log(at.height / height)))


class SizeScale:
    """The thin places of a figure at any size, from its walls measured once.

    ``parts`` are its parts with their walls, ``height`` that of all of them together; sizes go down to ``smallest``.
    Places are those of ``thin-wall`` before near ones are gathered.
    """

    def __init__(
        self, parts: Sequence[tuple[Mesh, Thickness]], height: FigureMM, setup: Setup, smallest: PrintMM
    ) -> None:
        self._height, self._setup = height, setup
        most = setup.walls.thin_from / (smallest / height)
        self._graphs = [WallGraph(mesh, walls, most, for_many=True) for mesh, walls in parts]
        self._parts = [(mesh, walls, Rays(mesh)) for mesh, walls in parts]
        self._smallest = smallest

    def at(self, height: PrintMM) -> AtSize:
        """What is too thin when the figure is ``height`` tall.

        Raises ValueError for less than the smallest size it was made for.
        """
        if height < self._smallest:
            raise ValueError("The scale was not made for sizes as small as that.")
        factor = height / self._height
        setup = self._setup
        groups = [graph.at(setup.walls.thin_from / factor) for graph in self._graphs]
        walls = np.concatenate([found.walls * factor for found in groups])
        judged = [self._judged(k, found, factor) for k, found in enumerate(groups)]
        thin, stops = (np.concatenate(of) for of in zip(*judged, strict=True))
        drawn = setup.line * (_SHOWN_LINES if setup.process == "resin" else 1)
        return AtSize(
            height=height,
            factor=factor,
            thin=int(thin.sum()),
            stops=int(stops.sum()),
            too_fine=int((walls < drawn).sum()),
            least=PrintMM(walls[thin].min()) if thin.any() else None,
        )

    def _judged(self, k: int, found: ThinGroups, factor: float) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
        """Which places of part ``k`` are thin, and which stop the print; what kind of wall they are is asked only where
        the limits of the kinds differ about them."""
        asked, walls = self._setup.walls, found.walls * factor
        limits = [limit_for(asked, kind) for kind in Kind]
        thin = walls < min(limit.caution for limit in limits)
        stops = walls < min(limit.stop for limit in limits)
        doubted = (~thin & (walls < asked.thin_from)) | (~stops & (walls < max(of.stop for of in limits)))
        mesh, thickness, rays = self._parts[k]
        ends = np.append(found.starts[1:], len(found.samples))
        for g in np.flatnonzero(doubted):
            few = few_of(found.samples[found.starts[g] : ends[g]])
            kinds = kinds_of(mesh, thickness, float(asked.thin_from / factor), few, rays)
            limit = limit_for(asked, kind_among(kinds[few]))
            thin[g], stops[g] = walls[g] < limit.caution, walls[g] < limit.stop
        return thin, stops

    def smallest_that_prints(self, about: PrintMM) -> PrintMM | None:
        """The least height at which no wall stops the print, to 0.2 %, rounded up to a tenth of a millimetre.

        Looked for from the smallest size of the scale to eight times ``about``, above every size that was seen to stop;
        None where even the largest does, for then it is not the size that is wrong.
        """
        heights = [PrintMM(h) for h in np.geomspace(self._smallest, about * _TIMES, _LOOKS)]
        stops = [k for k, height in enumerate(heights) if self.at(height).stops]
        if stops and stops[-1] == _LOOKS - 1:
            return None
        low = heights[stops[-1]] if stops else self._smallest
        high = heights[stops[-1] + 1] if stops else self._smallest
        while high / low > _NEAR:
            middle = PrintMM((low * high) ** 0.5)
            low, high = (middle, high) if self.at(middle).stops else (low, middle)
        return PrintMM(np.ceil(high * 10) / 10)


def survey_sizes(
    parts: Sequence[tuple[Mesh, Thickness]], height: FigureMM, now: PrintMM, setup: Setup
) -> SizeSurvey | None:
    """Sizes from a quarter to four times as tall, and the smallest that prints; None for a flat figure."""
    if height <= 0 or now <= 0:
        return None
    scale = SizeScale(parts, height, setup, PrintMM(now * _SMALLEST))
    return SizeSurvey(
        sizes=tuple(scale.at(size) for size in sizes_about(now)), smallest=scale.smallest_that_prints(now)
    )


def sizes_about(height: PrintMM, count: int = 49) -> list[PrintMM]:
    """Heights from a quarter to four times as tall, evenly by ratio; with an odd count its own is among them."""
    return [PrintMM(height * ratio) for ratio in np.geomspace(_SMALLEST, 1 / _SMALLEST, count)]
