"""Packs in a shop that speaks the shop protocol: put there, replaced, never twice; buyers and reports brought back."""

import time
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, TypeVar

import httpx
from pydantic import BaseModel, Field, TypeAdapter, ValidationError

from ulvet.core.lengths import FigureMM
from ulvet.core.progress import Progress, no_progress
from ulvet.core.proof.proof import Cause
from ulvet.core.release.issue import Pack
from ulvet.core.release.listing import PackTold, listing_rows, proposed_text
from ulvet.core.release.manifest import ItemEntry, Manifest
from ulvet.core.release.release_set import Listing, ReleaseSet, Report
from ulvet.work.issuing import issues_of
from ulvet.work.loopback import loopback_address
from ulvet.work.refusals import NotThere, Refused
from ulvet.work.studio import Studio
from ulvet.work.supervisor import Job

__all__ = ["OfferNow", "bring_reports", "pack_told", "publish_job_of", "publish_pack"]

_TRIES = 6
"""Times that a shop which refuses or is silent is asked (bench default)."""
_PAUSE_S = 0.3
"""Seconds before the second time; twice as long before each further one (bench default)."""
_PATIENCE_S = 3.0
"""Seconds that a shop is waited for (bench default)."""
_SENDING_S = 120.0
"""The same while a pack is sent."""
_CHUNK = 1 << 20
"""Bytes sent at a time."""
_SECONDS_A_BYTE = 1e-8
"""That sending takes, roughly, on one machine (bench default)."""
_SILENT = (
    "The shop does not answer, and nothing here was changed. Publish again when it does: what it has already is asked "
    "for first, and nothing is sent twice."
)
Told = TypeVar("Told")


class OfferNow(BaseModel):
    """An offer as its shop tells it."""

    offer: str
    issue: int
    sha256: str
    times: int
    """How often it was put there or replaced."""
    buyers: int = Field(ge=0)
    buyers_by_issue: list[int] = []


class _ReportTold(BaseModel):
    """A report as a shop tells it: ``part`` by the number in its joints, ``at`` in mm of its file."""

    id: str = Field(min_length=1, max_length=60)
    issue: int = Field(ge=1)
    item: str = Field(max_length=300)
    part: int | None = None
    at: tuple[float, float, float] | None = None
    cause: str = Field(default="unknown", max_length=40)
    setting: str = Field(default="", max_length=400)
    says: str = Field(default="", max_length=400)


_REPORTS: TypeAdapter[list[_ReportTold]] = TypeAdapter(list[_ReportTold])


def publish_pack(
    address: str, offer: str, path: Path, digest: str, asked: dict[str, Any], progress: Progress = no_progress
) -> OfferNow:
    """Have a shop offer a pack. It is asked first what it has; a shop that refuses, is silent or tells another hash is
    asked again, and what it was sent before is never sent again.

    Raises Refused.
    """
    at = loopback_address(address)

    def put_there() -> OfferNow:
        now = _offer(at, offer)
        if now is not None and now.sha256 == digest and now.issue == asked["issue"]:
            return now
        if _answer("GET", f"{at}/packs/{digest}").status_code == 404:
            sent = _answer("PUT", f"{at}/packs/{digest}", content=_bytes_of(path, progress), patience=_SENDING_S)
            if sent.json().get("sha256") != digest:
                raise _AskAgain("The shop tells another hash than the pack's: it has something else.")
        _answer("PUT", f"{at}/offers/{offer}", json={"pack": digest, **asked})
        now = _offer(at, offer)
        if now is None or now.sha256 != digest:
            raise _AskAgain("The shop tells another hash than the pack's: it has something else.")
        return now

    return _patiently(put_there)


def publish_job_of(studio: Studio, number: int, offer: str) -> Job:
    """The job that puts the last issue of a listing's tier into its shop, or replaces what is there; what is then in
    place is ticked.

    Raises NotThere, Refused.
    """
    listing = _listing(studio.release_sets.one(number).value, offer)
    if not listing.address:
        raise Refused(f"{listing.shop} has no address: fill it in by hand, and tick what is done.")
    loopback_address(listing.address)
    issue, pack = _last_pack(studio, number, listing.tier)
    told = pack_told(issue, pack)
    asked = {
        "issue": issue, "title": listing.title or pack.manifest.name, "text": listing.text or told.proposed,
        "price": listing.price,
        "tags": list(listing.tags), "terms": list(pack.manifest.terms),
        "notice": list(pack.manifest.changed),
    }  # fmt: skip
    values = {
        "address": listing.address, "offer": _offer_name(number, listing), "digest": pack.sha256, "asked": asked,
    }  # fmt: skip

    def keep(result: dict[str, Any]) -> dict[str, Any]:
        def ticked(release: ReleaseSet) -> ReleaseSet:
            def tick(one: Listing) -> Listing:
                done = {row.what: row.digest for row in listing_rows(one, told)}
                return one.model_copy(update={"ticked": done, "holds": issue, "buyers": result["buyers"]})

            return _with_listing(release, offer, tick)

        studio.release_sets.change(number, None, f"in {listing.shop}: issue {issue}", ticked)
        return {"release_set": number, **result}

    return studio.supervisor.submit(
        "publish", f"{number} {offer} {pack.sha256}", values, f"Offering {pack.file_name} in {listing.shop}",
        2 + pack.bytes * _SECONDS_A_BYTE, then=keep,
    )  # fmt: skip


def bring_reports(studio: Studio, number: int, offer: str) -> int:
    """Bring buyers and reports back from a listing's shop; how many reports are new.

    Raises NotThere, Refused.
    """
    listing = _listing(studio.release_sets.one(number).value, offer)
    if not listing.address:
        raise Refused(f"{listing.shop} has no address: type in what came.")
    at = loopback_address(listing.address)
    name = _offer_name(number, listing)

    def ask() -> tuple[OfferNow | None, list[_ReportTold]]:
        now = _offer(at, name)
        if now is None:
            raise Refused(f"{listing.shop} has nothing of this set yet: publish it first; nothing was changed.")
        return now, _read(_REPORTS.validate_json, _answer("GET", f"{at}/offers/{name}/reports"))

    now, told = _patiently(ask)
    assert now is not None
    manifests = {
        issue.number: pack.manifest
        for issue in issues_of(studio, number)
        for pack in issue.packs
        if pack.tier == listing.tier
    }
    came = datetime.now(UTC).date()
    before = len(studio.release_sets.one(number).value.reports)

    def joined(release: ReleaseSet) -> ReleaseSet:
        known = {one.id for one in release.reports}
        new: dict[str, Report] = {}
        for one in told:
            report = _report(release, listing, one, manifests.get(one.issue), came.isoformat())
            if report.id not in known:
                new[report.id] = report
        release = release.model_copy(update={"reports": (*release.reports, *new.values())})
        return _with_listing(release, offer, lambda one: one.model_copy(update={"buyers": now.buyers}))

    studio.release_sets.change(number, None, f"reports from {listing.shop}", joined)
    return len(studio.release_sets.one(number).value.reports) - before


def pack_told(issue: int, pack: Pack) -> PackTold:
    """A pack as a shop is told of it."""
    return PackTold(
        issue=issue, file_name=pack.file_name, sha256=pack.sha256, bytes=pack.bytes, terms=pack.manifest.terms,
        pictures=pack.pictures, proposed=proposed_text(pack.manifest.name, pack.manifest.items),
    )  # fmt: skip


def _report(release: ReleaseSet, listing: Listing, told: _ReportTold, manifest: Manifest | None, came: str) -> Report:
    entry = next((one for one in manifest.items if one.name == told.item), None) if manifest else None
    at = None if entry is None else next(
        (k for k, one in enumerate(release.items) if (one.figure, one.edition) == (entry.figure, entry.edition)), None
    )  # fmt: skip
    part = next((one.part for one in entry.parts if one.number == told.part), "") if entry else ""
    says = told.says if at is not None else f"On {told.item[:100]}, which was never in this set: {told.says}"[:400]
    return Report.model_validate(
        {
            "id": f"{listing.offer}:{told.id}"[:80], "came": came, "shop": listing.shop, "issue": told.issue,
            "item": at, "part": part, "point": None if entry is None else _in_figure(told.at, entry),
            "cause": told.cause if told.cause in set(Cause) else Cause.UNKNOWN, "setting": told.setting, "says": says,
        }
    )  # fmt: skip


def _in_figure(at: tuple[float, float, float] | None, entry: ItemEntry) -> tuple[FigureMM, FigureMM, FigureMM] | None:
    """A place in an item's file as one of the figure."""
    if at is None:
        return None
    x, y, z = (value / entry.factor for value in at)
    return FigureMM(-x if entry.mirrored else x), FigureMM(y), FigureMM(z)


def _last_pack(studio: Studio, number: int, tier: str) -> tuple[int, Pack]:
    for issue in issues_of(studio, number):
        for pack in issue.packs:
            if pack.tier == tier:
                return issue.number, pack
    raise Refused(f"Nothing was packed for {tier} yet: pack an issue, then publish it.")


def _listing(release: ReleaseSet, offer: str) -> Listing:
    found = next((one for one in release.listings if one.offer == offer), None)
    if found is None:
        raise NotThere("That shop does not list this tier any more.")
    return found


def _with_listing(release: ReleaseSet, offer: str, change: Callable[[Listing], Listing]) -> ReleaseSet:
    listings = tuple(change(one) if one.offer == offer else one for one in release.listings)
    return release.model_copy(update={"listings": listings})


def _offer_name(number: int, listing: Listing) -> str:
    """The same for every issue, and of no other set."""
    return f"set-{number}.{listing.offer}"


class _AskAgain(Exception):
    """What may be otherwise the next time; its text is for the user, should it not."""


def _patiently(do: Callable[[], Told]) -> Told:
    said = _SILENT
    for wait in range(_TRIES):
        if wait:
            time.sleep(_PAUSE_S * 2 ** (wait - 1))
        try:
            return do()
        except _AskAgain as error:
            said = str(error) or _SILENT
    raise Refused(said)


def _answer(verb: str, address: str, patience: float = _PATIENCE_S, **sent: Any) -> httpx.Response:
    """What a shop answers; 404 is an answer.

    Raises _AskAgain for what may pass, and Refused for what will not.
    """
    try:
        answer = httpx.request(verb, address, timeout=patience, **sent)
    except httpx.HTTPError as error:
        raise _AskAgain(_SILENT) from error
    if answer.status_code >= 500:
        raise _AskAgain(
            f"The shop refused again and again: {answer.text[:120]}. Nothing here was changed; publish later."
        )
    if answer.is_error and answer.status_code != 404:
        raise Refused(f"The shop refused: {answer.text[:200]}. Nothing here was changed.")
    return answer


def _offer(at: str, name: str) -> OfferNow | None:
    answer = _answer("GET", f"{at}/offers/{name}")
    return None if answer.status_code == 404 else _read(OfferNow.model_validate_json, answer)


def _read(read: Callable[[bytes], Told], answer: httpx.Response) -> Told:
    try:
        return read(answer.content)
    except ValidationError as error:
        raise Refused("What answers there is no shop that speaks this protocol; nothing was changed.") from error


def _bytes_of(path: Path, progress: Progress) -> Iterator[bytes]:
    whole, sent = max(path.stat().st_size, 1), 0
    with path.open("rb") as file:
        while chunk := file.read(_CHUNK):
            yield chunk
            sent += len(chunk)
            progress(0.05 + 0.9 * sent / whole, f"{sent / 1e6:.0f} of {whole / 1e6:.0f} MB sent")
