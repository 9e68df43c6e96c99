"""Reports of buyers: the same ones joined, and how many there are of what was sold."""

import numpy as np
from pydantic import BaseModel, ConfigDict

from ulvet.core.proof.proof import Cause
from ulvet.core.release.release_set import ReleaseSet, Report

__all__ = ["JoinedReports", "ReportRate", "joined_reports", "rates_of"]

_SAME_PLACE = 5.0
"""Figure mm within which two reports on a part are of one place (bench default)."""


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class JoinedReports(_Value):
    """Reports of one thing, the oldest first, by their ids; ``open`` are those that nobody has ended."""

    figure: int | None
    part: str
    cause: Cause
    ids: tuple[str, ...]
    open: tuple[str, ...]
    point: tuple[float, float, float] | None


class ReportRate(_Value):
    """How many buyers of an item reported it, of those who have it."""

    item: int
    reports: int
    buyers: int

    @property
    def share(self) -> float | None:
        """None where nobody has bought it, as far as shops tell."""
        return min(self.reports / self.buyers, 1.0) if self.buyers else None


def joined_reports(release: ReleaseSet) -> tuple[JoinedReports, ...]:
    """Reports that say the same joined: of one figure's part, with one cause, at one place, whatever the size; those
    with most still open first."""
    groups: list[list[Report]] = []
    for report in sorted(release.reports, key=lambda one: (one.came, one.id)):
        same = next((group for group in groups if _same(release, group[0], report)), None)
        if same is None:
            groups.append([report])
        else:
            same.append(report)
    joined = [_joined(release, group) for group in groups]
    return tuple(sorted(joined, key=lambda one: (-len(one.open), -len(one.ids))))


def rates_of(release: ReleaseSet) -> tuple[ReportRate, ...]:
    """Of every item how many reports there are, and how many buyers its tiers have."""
    buyers = [0] * len(release.items)
    for listing in release.listings:
        for at in release.tier(listing.tier).items:
            buyers[at] += listing.buyers
    return tuple(
        ReportRate(item=at, reports=sum(one.item == at for one in release.reports), buyers=buyers[at])
        for at in range(len(release.items))
    )


def _same(release: ReleaseSet, one: Report, other: Report) -> bool:
    if (_figure(release, one), one.part, one.cause) != (_figure(release, other), other.part, other.cause):
        return False
    if one.point is None or other.point is None:
        return one.point is other.point
    return bool(np.linalg.norm(np.subtract(one.point, other.point)) <= _SAME_PLACE)


def _figure(release: ReleaseSet, report: Report) -> int | None:
    return None if report.item is None else release.items[report.item].figure


def _joined(release: ReleaseSet, group: list[Report]) -> JoinedReports:
    first = group[0]
    return JoinedReports(
        figure=_figure(release, first), part=first.part, cause=first.cause, ids=tuple(one.id for one in group),
        open=tuple(one.id for one in group if one.ending is None), point=first.point,
    )  # fmt: skip
