"""The steps of Gauge that state something about the figure: accepted findings, named places, level faces."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field, StringConstraints

from ulvet.core.gauge.balance.level import face_way
from ulvet.core.gauge.steps import Accepted
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.lengths import FigureMM
from ulvet.core.recipe.anchors import Anchor, project_anchors
from ulvet.core.recipe.receipt import GreatestKnown, Receipt
from ulvet.core.recipe.set_down import set_down
from ulvet.core.recipe.stance import turn_to
from ulvet.core.recipe.step import AnchoredStep, Context, Part, Phase, Sentence, Step, StepResult
from ulvet.core.stations import Station

__all__ = ["Accept", "MeantLevel", "MeantLevelReceipt", "NamePlace"]


class Accept(Step):
    """Let a finding be: it stays in the record with the reason, and stops nothing. The figure is not changed.

    With a place it is of that place alone, within ``within`` mm of it; without one of all of its kind.
    """

    names_editions: ClassVar[bool] = True

    kind: Literal["accept"] = "accept"
    finding: Accepted
    reason: str = Field(min_length=3, max_length=300)
    place: tuple[FigureMM, FigureMM, FigureMM] | None = None
    within: FigureMM = Field(default=FigureMM(1.0), gt=0)

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        return part, Receipt()

    def sentence(self, receipt: Receipt) -> Sentence:
        where = "" if self.place else " everywhere"
        return (f"Accepted {self.finding.replace('-', ' ')}{where}: {self.reason.rstrip('.')}.",)


class NamePlace(AnchoredStep):
    """Call a place by a name. Whatever is found within ``within`` mm of it goes by that; the figure is not changed."""

    station: ClassVar[Station] = Station.GAUGE

    kind: Literal["name-place"] = "name-place"
    name: Annotated[str, StringConstraints(min_length=1, max_length=60, strip_whitespace=True)]
    places: tuple[Anchor, ...] = Field(min_length=1, max_length=1)
    within: FigureMM = Field(default=FigureMM(1.0), gt=0)

    def change(self, part: Part, context: Context) -> tuple[Part, Receipt]:
        return part, Receipt(lost=project_anchors(self.places, part.mesh, part.name, part.source)[1])

    def sentence(self, receipt: Receipt) -> Sentence:
        return (f"Named a place {self.name}{', which is no longer there' if receipt.lost else ''}.",)


class MeantLevelReceipt(Receipt):
    """How far the face is off level, degrees."""

    off_level_degrees: GreatestKnown = None


class MeantLevel(AnchoredStep):
    """Say of a face that it is meant to be level, as the figure stands; ``turned``, the whole figure is turned so.

    How far it is off is told by the faces around the place that look its way within 15°.
    """

    station: ClassVar[Station] = Station.GAUGE
    phase: ClassVar[Phase] = Phase.SOURCE
    rank: ClassVar[int] = 3
    once: ClassVar[bool] = True
    by_part: ClassVar[bool] = False
    places_figure: ClassVar[bool] = True
    makes: ClassVar[type[Receipt]] = MeantLevelReceipt

    kind: Literal["meant-level"] = "meant-level"
    places: tuple[Anchor, ...] = Field(min_length=1, max_length=1)
    turned: bool = False

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        found = [project_anchors(self.places, part.mesh, part.name, part.source) for part in parts]
        landed = [
            (float(np.linalg.norm(points[0] - self.places[0].point)), part, points[0])
            for part, (points, _) in zip(parts, found, strict=True)
            if len(points)
        ]
        if not landed:
            return StepResult(parts, MeantLevelReceipt(lost=found[0][1] if found else ()))
        _, part, point = min(landed, key=lambda one: one[0])
        way = face_way(part.mesh, point)
        up = way if way[2] >= 0 else -way
        receipt = MeantLevelReceipt(off_level_degrees=float(np.degrees(np.arccos(min(float(up[2]), 1.0)))))
        if not self.turned:
            return StepResult(parts, receipt)
        turn = turn_to(up)
        return set_down(parts, [Mesh(each.mesh.vertices @ turn.T, each.mesh.faces) for each in parts], receipt, turn)

    def sentence(self, receipt: MeantLevelReceipt) -> Sentence:
        off = receipt.off_level_degrees
        if off is None:
            return ("A face that is meant to be level is no longer there.",)
        turned = f"Turned by {off:.1f}°, so that" if self.turned else f"{off:.1f}° off:"
        return (f"{turned} the face picked is {'' if self.turned else 'meant to be '}level.",)
