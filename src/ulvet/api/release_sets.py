"""Release sets over HTTP: what goes out, issues and their packs, shops, and reports."""

import datetime
from typing import Annotated

from fastapi import APIRouter, Header, Response
from fastapi.responses import FileResponse
from pydantic import BaseModel, Field

from ulvet.api.asked import AtStudio, RowNumber
from ulvet.api.views import JobView, job_view
from ulvet.core.proof.state import StateKind
from ulvet.core.release.correction import Correction
from ulvet.core.release.issue import Hold
from ulvet.core.release.listing import ListingRow, listing_rows
from ulvet.core.release.pictures import cut_to_size
from ulvet.core.release.release_set import ReleaseSet, Report
from ulvet.core.release.reports import JoinedReports, joined_reports, rates_of
from ulvet.work import issuing, shop_link
from ulvet.work.issuing import Issue
from ulvet.work.refusals import NotThere, Refused
from ulvet.work.release_sets import ReleaseSetNow
from ulvet.work.studio import Studio

__all__ = ["router"]

router = APIRouter(tags=["release"])

SeenSet = Annotated[int, Header(alias="If-Match", description="Number of the set's revision that was seen.")]
_OPEN_LISTED = 60
"""Findings of an item that the page lists by their codes."""


class OpenNow(BaseModel):
    """Findings of one code on an item, and what buyers are told of them."""

    code: str
    title: str
    severity: str
    count: int
    says: str | None


class ItemView(BaseModel):
    """An item as it stands."""

    figure_name: str
    edition_name: str
    built: bool
    why: str = Field(description="Why it cannot go out as it is; empty where it can.")
    tall_mm: float | None
    parts: list[tuple[str, str]] = Field(description="Lineages and names of its parts.")
    state: StateKind
    proofed_says: str
    holds: list[Hold]
    open: list[OpenNow]
    reports: int
    buyers: int
    printed: int = Field(description="Copies of it in proofs.")
    failed: int = Field(description="Of these, those that failed.")


class PackView(BaseModel):
    """A pack of an issue."""

    tier: str
    file_name: str
    bytes: int
    sha256: str
    items: list[str]
    correction: Correction | None


class IssueView(BaseModel):
    """An issue that was made."""

    number: int
    date: datetime.date
    packs: list[PackView]


class ListingView(BaseModel):
    """A listing with what is to be filled in; none of it before a pack is there."""

    offer: str
    rows: list[ListingRow]
    issue: int | None = Field(description="The last issue of its tier.")
    proposed: str = Field(description="A text to begin with.")


class ReleaseSetView(BaseModel):
    """A release set as it stands."""

    number: int
    revision: int
    can_undo: bool
    can_redo: bool
    release: ReleaseSet
    items: list[ItemView]
    issues: list[IssueView] = Field(description="The newest first.")
    listings: list[ListingView]
    joined: list[JoinedReports]


class ReleaseSets(BaseModel):
    """The sets with an edition of a figure, the oldest first."""

    sets: list[ReleaseSetView]
    unreadable: int = Field(description="Sets of the studio that another version wrote, which are kept unread.")


class EnterRelease(BaseModel):
    """A set, whole; ``says`` names what was changed."""

    release: ReleaseSet
    says: str = Field(min_length=1, max_length=200)


class PackIssue(BaseModel):
    """The day that the next issue is of."""

    date: datetime.date


class Brought(BaseModel):
    """How many reports are new."""

    new: int


@router.get("/figures/{number}/release-sets")
def of_figure(number: RowNumber, studio: AtStudio) -> ReleaseSets:
    """The sets that have an edition of a figure."""
    studio.figure_and_head(number)
    found = [_view(studio, one) for one in studio.release_sets.of_figure(number)]
    return ReleaseSets(sets=found, unreadable=studio.release_sets.unreadable)


@router.get("/release-sets")
def all_sets(studio: AtStudio) -> ReleaseSets:
    """Every release set."""
    found = [_view(studio, one) for one in studio.release_sets.all()]
    return ReleaseSets(sets=found, unreadable=studio.release_sets.unreadable)


@router.post("/release-sets", status_code=201)
def begin(asked: ReleaseSet, studio: AtStudio) -> ReleaseSetView:
    """Begin a set."""
    (number,) = studio.release_sets.begin([asked])
    return _one(studio, number)


@router.get("/release-sets/{number}")
def one(number: RowNumber, studio: AtStudio) -> ReleaseSetView:
    """One set."""
    return _one(studio, number)


@router.put("/release-sets/{number}")
def enter(number: RowNumber, asked: EnterRelease, seen: SeenSet, studio: AtStudio) -> ReleaseSetView:
    """Change a set."""
    _refuse_unknown(studio, number, asked.release)
    studio.release_sets.change(number, seen, asked.says, lambda _: asked.release)
    return _one(studio, number)


@router.post("/release-sets/{number}/undo")
def undo(number: RowNumber, seen: SeenSet, studio: AtStudio) -> ReleaseSetView:
    """Take the last change of a set back."""
    studio.release_sets.undo(number, seen)
    return _one(studio, number)


@router.post("/release-sets/{number}/redo")
def redo(number: RowNumber, seen: SeenSet, studio: AtStudio) -> ReleaseSetView:
    """Make the change again that was taken back last."""
    studio.release_sets.redo(number, seen)
    return _one(studio, number)


@router.delete("/release-sets/{number}", status_code=204)
def drop(number: RowNumber, studio: AtStudio) -> Response:
    """Put a set out of sight; its issues are kept, and it can be put back."""
    studio.release_sets.drop(number)
    return Response(status_code=204)


@router.post("/release-sets/{number}/back")
def put_back(number: RowNumber, studio: AtStudio) -> ReleaseSetView:
    """Take a set up again."""
    studio.release_sets.drop(number, dropped=False)
    return _one(studio, number)


@router.post("/release-sets/{number}/issues", status_code=202)
def make_issue(number: RowNumber, asked: PackIssue, studio: AtStudio) -> JobView:
    """Pack a set as its next issue."""
    return job_view(issuing.make_issue_job(studio, number, asked.date))


@router.get("/release-sets/{number}/issues/{issue}/{tier}.zip", response_class=FileResponse)
def download(number: RowNumber, issue: RowNumber, tier: str, studio: AtStudio) -> FileResponse:
    """A pack of an issue."""
    pack = next((one for one in issuing.one_issue(studio, number, issue).packs if one.tier == tier), None)
    if pack is None:
        raise NotThere("That issue has no such tier.")
    return FileResponse(studio.blobs.path(pack.sha256), media_type="application/zip", filename=pack.file_name)


@router.get("/release-sets/{number}/listings/{offer}/picture-{at}-{size}.png", response_class=Response)
def picture(number: RowNumber, offer: str, at: RowNumber, size: RowNumber, studio: AtStudio) -> Response:
    """The front of an item of a listing's last issue, cut to one of the sizes that the shop wants."""
    listing = next((one for one in studio.release_sets.one(number).value.listings if one.offer == offer), None)
    packs = [pack for issue in issuing.issues_of(studio, number) for pack in issue.packs]
    pack = listing and next((one for one in packs if one.tier == listing.tier), None)
    if not listing or not pack or at >= len(pack.pictures) or size >= len(listing.pictures):
        raise NotThere("There is no such picture: pack an issue first.")
    asked = listing.pictures[size]
    data = cut_to_size(bytes(studio.blobs.read(pack.pictures[at])), asked.wide, asked.high)
    name = f"{pack.manifest.items[at].name}_{asked.wide}x{asked.high}.png"
    return Response(data, media_type="image/png", headers={"Content-Disposition": f'attachment; filename="{name}"'})


@router.post("/release-sets/{number}/listings/{offer}/publish", status_code=202)
def publish(number: RowNumber, offer: str, studio: AtStudio) -> JobView:
    """Put a listing's last pack into its shop, or replace what is there."""
    return job_view(shop_link.publish_job_of(studio, number, offer))


@router.post("/release-sets/{number}/listings/{offer}/reports")
def bring_reports(number: RowNumber, offer: str, studio: AtStudio) -> Brought:
    """Bring buyers and reports back from a listing's shop."""
    return Brought(new=shop_link.bring_reports(studio, number, offer))


def _refuse_unknown(studio: Studio, number: int, release: ReleaseSet) -> None:
    """Refuse reports that name an issue or an item that never went out."""
    before = {one.id for one in studio.release_sets.one(number).value.reports}
    issues = {issue.number: issue for issue in issuing.issues_of(studio, number)}
    for report in release.reports:
        if report.id not in before:
            _refuse_unsold(release, report, issues.get(report.issue))


def _refuse_unsold(release: ReleaseSet, report: Report, issue: Issue | None) -> None:
    if issue is None:
        raise Refused(f"There is no issue {report.issue} of this set: the report was not entered, nothing was lost.")
    if report.item is None or report.item >= len(release.items):
        raise Refused("The report names no item of this set: say which it is of; nothing was lost.")
    item = release.items[report.item]
    sold = [one for pack in issue.packs for one in pack.manifest.items if one.figure == item.figure]
    if all(one.edition != item.edition for one in sold):
        raise Refused(f"That item was not in issue {report.issue}: choose another; the report was not entered.")


def _one(studio: Studio, number: int) -> ReleaseSetView:
    return _view(studio, studio.release_sets.one(number))


def _view(studio: Studio, now: ReleaseSetNow) -> ReleaseSetView:
    release = now.value
    issues = issuing.issues_of(studio, now.number)
    rates = {one.item: one for one in rates_of(release)}
    items = []
    for at, item in enumerate(issuing.items_now(studio, release)):
        copies = _copies(studio, item.item.figure, item.item.edition)
        record = item.record
        items.append(
            ItemView(
                figure_name=item.figure_name, edition_name=item.edition_name, built=record is not None, why=item.why,
                tall_mm=record.size_mm[2] if record and record.parts else None,
                parts=[(part.facts.part, part.facts.called) for part in record.parts] if record else [],
                state=item.state.kind, proofed_says=item.state.says, holds=list(item.holds),
                open=_open(release, item), reports=rates[at].reports, buyers=rates[at].buyers,
                printed=len(copies), failed=sum(copies),
            )
        )  # fmt: skip
    return ReleaseSetView(
        number=now.number, revision=now.revision, can_undo=now.can_undo, can_redo=now.can_redo, release=release,
        items=items, issues=[_issue(one) for one in issues], listings=_listings(release, issues),
        joined=list(joined_reports(release)),
    )  # fmt: skip


def _copies(studio: Studio, figure: int, edition: str) -> list[bool]:
    """Of every copy of an edition in proofs, whether it failed."""
    return [
        copy.outcome in ("failed", "spare")
        for one in studio.proofs.of_figure(figure, edition)
        for copy in one.value.came.copies
        if (one.value.parts[copy.part].figure, one.value.parts[copy.part].edition) == (figure, edition)
    ]


def _open(release: ReleaseSet, item: issuing.ItemNow) -> list[OpenNow]:
    found: dict[str, OpenNow] = {}
    for finding in item.record.findings if item.record else ():
        known = found.get(finding.code)
        if known is None:
            says = release.word_on(finding.code)
            found[finding.code] = OpenNow(
                code=finding.code, title=finding.title, severity=finding.severity, count=1, says=says
            )
        else:
            known.count += 1
    return list(found.values())[:_OPEN_LISTED]


def _issue(issue: Issue) -> IssueView:
    packs = [
        PackView(
            tier=pack.tier, file_name=pack.file_name, bytes=pack.bytes, sha256=pack.sha256,
            items=[item.name for item in pack.manifest.items], correction=pack.correction,
        )
        for pack in issue.packs
    ]  # fmt: skip
    return IssueView(number=issue.number, date=issue.date, packs=packs)


def _listings(release: ReleaseSet, issues: list[Issue]) -> list[ListingView]:
    found = []
    for listing in release.listings:
        last = next(
            ((issue.number, pack) for issue in issues for pack in issue.packs if pack.tier == listing.tier), None
        )
        rows: tuple[ListingRow, ...] = ()
        proposed = ""
        if last is not None:
            told = shop_link.pack_told(*last)
            rows = listing_rows(listing, told)
            proposed = told.proposed
        found.append(ListingView(offer=listing.offer, rows=list(rows), issue=last and last[0], proposed=proposed))
    return found
