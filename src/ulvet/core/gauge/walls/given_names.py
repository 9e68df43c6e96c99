"""Names that the user gave to places of a figure."""

from collections.abc import Sequence
from typing import TypeVar

import numpy as np

from ulvet.core.findings.finding import Finding, Place
from ulvet.core.gauge.figure_measures import FigureMeasures, LimbRow
from ulvet.core.gauge.record_steps import NamePlace
from ulvet.core.gauge.walls.place_names import ThinPlaceRow
from ulvet.core.recipe.step import Step

__all__ = ["renamed", "with_names"]

Row = TypeVar("Row", ThinPlaceRow, LimbRow)


def renamed(findings: Sequence[Finding], steps: Sequence[Step]) -> list[Finding]:
    """Put the user's place names on findings near those places."""
    names = _given(steps)
    return [_renamed(finding, _name_at(finding.where, finding.part, names)) for finding in findings]


def with_names(gauge: FigureMeasures, steps: Sequence[Step]) -> FigureMeasures:
    """Measures whose places and limbs have the names that the record gives them."""
    names = _given(steps)

    def name_of(one: ThinPlaceRow | LimbRow) -> str:
        return _name_at(Place(point=one.point), one.part, names)

    places = [_called(place, {"name": name_of(place), "given": True}) for place in gauge.places]
    limbs = [_called(limb, {"name": name_of(limb)}) for limb in gauge.limbs]
    return gauge.model_copy(update={"places": tuple(places), "limbs": tuple(limbs)})


def _given(steps: Sequence[Step]) -> list[NamePlace]:
    return [step for step in steps if isinstance(step, NamePlace) and step.on]


def _called(one: Row, update: dict[str, object]) -> Row:
    return one.model_copy(update=update) if update["name"] else one


def _renamed(finding: Finding, name: str) -> Finding:
    if not finding.at or not name:
        return finding
    return finding.model_copy(update={"title": finding.title.removesuffix(finding.at) + name, "at": name})


def _name_at(where: Place | None, part: str, names: Sequence[NamePlace]) -> str:
    """The name given nearest to a place; "" where none reaches it."""
    if where is None:
        return ""
    near = [
        (float(np.linalg.norm(np.subtract(where.point, step.places[0].point))), step)
        for step in reversed(names)  # of two at one place the later
        if step.scope in (None, part)
    ]
    away, step = min(near, key=lambda one: one[0], default=(np.inf, None))
    return step.name if step and away <= step.within else ""
