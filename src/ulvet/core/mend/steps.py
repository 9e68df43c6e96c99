"""The steps of Mend. None moves the surface that is right; each says what it changed."""

from collections.abc import Callable
from dataclasses import replace
from typing import Literal

from pydantic import Field

from ulvet.core.lengths import FigureMM
from ulvet.core.mend.faces import drop_faces
from ulvet.core.mend.holes import close_holes
from ulvet.core.mend.winding import orient_faces
from ulvet.core.mesh import Mesh, area, volume
from ulvet.core.recipe.step import (
    Context,
    Number,
    Part,
    Receipt,
    Sentence,
    Step,
    says,
)
from ulvet.core.tolerances import BENCH_TOLERANCES
from ulvet.core.welding import weld_within

__all__ = ["CloseHoles", "DropFaces", "OrientFaces", "Weld"]


class Weld(Step):
    """Join vertices no farther apart than ``distance``."""

    kind: Literal["weld"] = "weld"
    distance: FigureMM = Field(default=BENCH_TOLERANCES.weld, ge=0, le=5)

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        def weld(mesh: Mesh) -> tuple[Mesh, dict[str, int]]:
            welded, joined = weld_within(mesh, self.distance)
            return welded, {"joined": joined}

        # A joined vertex lands on another one, at most the distance away where no chains form.
        return _mended(part, weld, movement=float(self.distance))

    def sentence(self, receipt: Receipt) -> Sentence:
        joined = says(receipt.counts["joined"], "loose corner")
        return (f"Joined {joined} within ", Number(field="distance", value=self.distance, unit="mm"), ".")


class DropFaces(Step):
    """Drop faces without area and faces that are there twice."""

    kind: Literal["drop-faces"] = "drop-faces"
    height: FigureMM = Field(default=BENCH_TOLERANCES.zero_area_height, ge=0, le=0.1)

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        return _mended(part, lambda mesh: drop_faces(mesh, self.height), float(self.height))

    def sentence(self, receipt: Receipt) -> Sentence:
        flat, twice = receipt.counts["zero-area"], receipt.counts["doubled"]
        return (f"Dropped {says(flat, 'face')} without area and {says(twice, 'double')}.",)


class OrientFaces(Step):
    """Make every shell agree with itself and look outward."""

    kind: Literal["orient-faces"] = "orient-faces"

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        return _mended(part, orient_faces)

    def sentence(self, receipt: Receipt) -> Sentence:
        against, shells = receipt.counts["against"], receipt.counts["shells-inverted"]
        return (f"Turned {says(against, 'face')} to agree and {says(shells, 'shell')} outward.",)


class CloseHoles(Step):
    """Close simple holes, all of them or those no wider than ``widest``."""

    kind: Literal["close-holes"] = "close-holes"
    widest: FigureMM | None = Field(default=None, gt=0)

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        return _mended(part, lambda mesh: close_holes(mesh, self.widest))

    def sentence(self, receipt: Receipt) -> Sentence:
        closed = says(receipt.counts["closed"], "hole")
        left = f"; {says(receipt.counts['left'], 'rim')} left open" if receipt.counts["left"] else ""
        return (f"Closed {closed}, {_square(receipt.surface_added)} mm² invented{left}; nothing else moved.",)


def _square(area: float) -> str:
    return f"{area:,.0f}" if area >= 10 else f"{area:.2g}"


def _mended(
    part: Part, mend: Callable[[Mesh], tuple[Mesh, dict[str, int]]], movement: float = 0.0
) -> tuple[Part, Receipt]:
    mended, counts = mend(part.mesh)
    grown = area(mended) - area(part.mesh)
    receipt = Receipt(
        counts=counts,
        surface_added=max(grown, 0.0),
        surface_removed=max(-grown, 0.0),
        greatest_movement=movement if any(counts.values()) else 0.0,
        volume_before=volume(part.mesh),
        volume_after=volume(mended),
    )
    return replace(part, mesh=mended), receipt
