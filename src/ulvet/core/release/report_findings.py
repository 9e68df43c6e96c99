"""What buyers report and nobody has ended, as findings with what can be changed."""

from collections.abc import Mapping, Sequence

import numpy as np

from ulvet.core.findings.finding import Finding, Place, Severity
from ulvet.core.findings.location import location_in_words
from ulvet.core.lengths import PrintMM
from ulvet.core.proof.remedies_by_cause import PartNow, remedies_by_cause
from ulvet.core.proof.words import CAUSES
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.step import plural
from ulvet.core.release.release_set import ReleaseSet, Report
from ulvet.core.release.reports import JoinedReports, joined_reports
from ulvet.core.stations import Station

__all__ = ["is_reported", "report_findings"]

_DRAWN = 0.03
"""Share of a part's longest side that a place is drawn as (bench default)."""


def report_findings(
    sets: Sequence[ReleaseSet], figure: int, edition: str, parts: Mapping[str, PartNow],
    open_findings: Sequence[Finding], spacing: float | None,
) -> list[Finding]:  # fmt: skip
    """Findings of reports on an edition of a figure that nobody has ended, those of one thing together.

    ``parts`` are the parts as they are now by name, ``open_findings`` what is found in them, of which remedies are
    taken, and ``spacing`` that of the supports, mm, where they are held.
    """
    found = []
    for release in sets:
        reports = {report.id: report for report in release.reports}
        for group in joined_reports(release):
            mine = [one for one in (reports[name] for name in group.open) if _is_of(release, one, figure, edition)]
            if mine:
                found.append(_finding(release, group, mine, parts, open_findings, spacing))
    return found


def is_reported(finding: Finding) -> bool:
    """Whether a finding is what buyers report, which goes to no other buyer."""
    return finding.code == "reported"


def _is_of(release: ReleaseSet, report: Report, figure: int, edition: str) -> bool:
    item = None if report.item is None else release.items[report.item]
    return item is not None and (item.figure, item.edition) == (figure, edition)


def _finding(
    release: ReleaseSet, group: JoinedReports, mine: Sequence[Report], parts: Mapping[str, PartNow],
    open_findings: Sequence[Finding], spacing: float | None,
) -> Finding:  # fmt: skip
    now = parts.get(group.part)
    where, at, remedies = None, "", []
    if now is not None and group.point is not None:
        point = np.array(group.point, float)
        longest = float((now.high - now.low).max() * now.factor)
        where = Place(point=(float(point[0]), float(point[1]), float(point[2])), normal=None,
                      extent=PrintMM(longest * _DRAWN))  # fmt: skip
        at = location_in_words(point, now.low, now.high)
        remedies = remedies_by_cause(
            group.cause, Anchor(point=group.point), group.part, longest, now, open_findings, spacing
        )
    words = next((one.says for one in reversed(mine) if one.says), "")
    settings = ", ".join(dict.fromkeys(one.setting for one in mine if one.setting))
    said = f" They say: “{words}”" if words else ""
    return Finding(
        code="reported", station=Station.RELEASE, severity=Severity.CAUTION, part=group.part if now else "",
        title=f"{plural(len(mine), 'buyer')} of {release.name}: it {CAUSES[group.cause]}", at=at,
        measured=float(len(mine)), limit=0.0, unit="", where=where, places=(where,) if where else (),
        why=f"Reported of issue {', '.join(map(str, sorted({one.issue for one in mine})))}"
        f"{f', printed in {settings}' if settings else ''}.{said} Answer it, correct it, or say it in the guide.",
        remedies=tuple(remedies),
    )  # fmt: skip
