"""Which finding of one build is which of another."""

from collections.abc import Sequence
from enum import StrEnum

import numpy as np
from pydantic import BaseModel, ConfigDict
from scipy.optimize import linear_sum_assignment
from scipy.spatial.distance import cdist

from ulvet.core.findings.finding import Finding, Unseen
from ulvet.core.geometry.mesh import Floats, Points

__all__ = ["Matched", "Verdict", "match_findings"]

_SURE = 0.06  # of the figure's size: nearer than this it is the same place
_PERHAPS = 0.18
"""Distance, of the figure's longest side, within which two findings can be the same one (bench default)."""
_FAR = 1e6
"""Cost of a pair that cannot be matched, above any real one."""


class Verdict(StrEnum):
    """What became of a finding."""

    FIXED = "fixed"
    STILL = "still there"
    NEW = "new"
    UNSURE = "not sure"


class Matched(BaseModel):
    """A finding before and after; one of the two is missing where it was fixed or is new."""

    model_config = ConfigDict(frozen=True)

    verdict: Verdict
    before: Finding | None
    after: Finding | None


def match_findings(
    before: Sequence[Finding], after: Sequence[Finding], size: float, unseen: Sequence[Unseen] = ()
) -> tuple[Matched, ...]:
    """Findings of two builds side by side, those of the later build first, in its order.

    They are matched by code, part and place: within a code and part the pairing with the least distances in all
    (Jonker and Volgenant 1987), a distance being that of the nearest two places they gather. ``size`` is the figure's
    longest side in figure mm: up to 6 % of it a finding is still there, up to 18 % that is not sure, farther it is
    another one (bench defaults). What was found where the later build could not look (``unseen``) is not sure either.
    """
    pairs: dict[int, tuple[int, float]] = {}
    for key in sorted({(finding.code, finding.part) for finding in after}):
        olds = [k for k, finding in enumerate(before) if (finding.code, finding.part) == key]
        news = [k for k, finding in enumerate(after) if (finding.code, finding.part) == key]
        distance = _distances([before[k] for k in olds], [after[k] for k in news]) / max(size, 1e-9)
        rows, columns = linear_sum_assignment(np.where(distance <= _PERHAPS, distance, _FAR))
        for row, column in zip(rows, columns, strict=True):
            if distance[row, column] <= _PERHAPS:
                pairs[news[column]] = olds[row], float(distance[row, column])
    matched = []
    for k, finding in enumerate(after):
        if k not in pairs:
            matched.append(Matched(verdict=Verdict.NEW, before=None, after=finding))
            continue
        old, far = pairs[k]
        verdict = Verdict.STILL if far <= _SURE else Verdict.UNSURE
        matched.append(Matched(verdict=verdict, before=before[old], after=finding))
    kept = {old for old, _ in pairs.values()}
    blind = {(gap.station, gap.part) for gap in unseen}
    for k, finding in enumerate(before):
        if k not in kept:
            gone = Verdict.UNSURE if (finding.station, finding.part) in blind else Verdict.FIXED
            matched.append(Matched(verdict=gone, before=finding, after=None))
    return tuple(matched)


def _distances(olds: Sequence[Finding], news: Sequence[Finding]) -> Floats:
    """Least distance between the places of every two findings, (o, n) figure mm."""
    if not olds or not news:
        return np.zeros((len(olds), len(news)))
    old, new = [_places(finding) for finding in olds], [_places(finding) for finding in news]
    return np.array([[cdist(a, b).min() for b in new] for a in old])


def _places(finding: Finding) -> Points:
    """Its places; one without any is everywhere the same."""
    places = (*((finding.where,) if finding.where else ()), *finding.places)
    return np.array([place.point for place in places] or [(0.0, 0.0, 0.0)])
