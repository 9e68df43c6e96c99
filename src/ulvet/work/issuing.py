"""Issues of release sets: what each item would go out as, packing, and the issues there are."""

import datetime
import json
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select

from ulvet.core.proof.state import EditionState, StateKind
from ulvet.core.recipe.reading import UnreadableRecipe
from ulvet.core.recipe.runner import Recipe, measured_key
from ulvet.core.release.issue import Hold, Pack, holds_of
from ulvet.core.release.release_set import Item, ReleaseSet
from ulvet.core.release.report_findings import is_reported
from ulvet.store.blobs import write_whole
from ulvet.store.folder import read_note
from ulvet.store.models import IssueRow
from ulvet.work.memory import build_memory
from ulvet.work.proofing import state_of_build
from ulvet.work.record import BuildRecord
from ulvet.work.refusals import NotThere, Refused
from ulvet.work.studio import Studio
from ulvet.work.supervisor import Job

__all__ = ["Issue", "ItemNow", "issues_of", "items_now", "make_issue_job", "one_issue", "resume_issues"]

_SECONDS_A_TRIANGLE = 2e-5
"""Seconds that making and packing take for a triangle, roughly."""


_NOT = EditionState(StateKind.NOT)


@dataclass(frozen=True)
class ItemNow:
    """An item as it stands: its build, what proofs say of it and what holds it back. ``why`` it is not there."""

    item: Item
    figure_name: str = ""
    edition_name: str = ""
    record: BuildRecord | None = None
    state: EditionState = _NOT
    holds: tuple[Hold, ...] = ()
    why: str = ""


@dataclass(frozen=True)
class Issue:
    """An issue that was made."""

    id: int
    number: int
    date: datetime.date
    packs: tuple[Pack, ...]


def items_now(studio: Studio, release: ReleaseSet) -> list[ItemNow]:
    """Every item of a set as its figure stands now."""
    return [_item_now(studio, release, at) for at in range(len(release.items))]


def _item_now(studio: Studio, release: ReleaseSet, at: int) -> ItemNow:
    item = release.items[at]
    try:
        figure, head, record, _ = studio.figure(item.figure, item.edition)
        looked = studio.edition(head, item.edition)
    except (NotThere, UnreadableRecipe):
        return ItemNow(item, why="Its figure or its edition is gone: take it out of the set, or put the figure back.")
    if record is None:
        return ItemNow(item, figure.name, looked.name, why="It is still to be checked.")
    # What buyers of one issue report is answered to them, and told to no other.
    record = record.model_copy(update={"findings": [one for one in record.findings if not is_reported(one)]})
    return ItemNow(
        item, figure.name, looked.name, record,
        state_of_build(studio, looked, item.figure, record, item.mirrored),
        holds_of(release, at, record.findings, len(record.parts)),
    )  # fmt: skip


def make_issue_job(studio: Studio, number: int, date: datetime.date) -> Job:
    """The job that packs a set as its next issue, of the day ``date``. What is not checked yet begins to be.

    A note in the data folder has it made again should the server end before it is done.

    Raises NotThere, and Refused with what holds it back.
    """
    now = studio.release_sets.one(number)
    release = now.value
    if not any(tier.items for tier in release.tiers):
        raise Refused("No tier holds anything yet: add an edition to one; nothing was packed.")
    for tier in release.tiers:
        if any(one.tier == tier.name for one in release.listings) and not tier.items:
            raise Refused(
                f"The tier {tier.name} is listed in a shop and holds nothing: add an edition; nothing was packed."
            )
    return _job(studio, number, date, release)


def _job(studio: Studio, number: int, date: datetime.date, release: ReleaseSet) -> Job:
    items = items_now(studio, release)
    _refuse_held(studio, release, items)
    issues = issues_of(studio, number)
    before: dict[str, list[dict[str, Any]]] = {}
    for past in issues:  # the newest first
        for pack in past.packs:
            before.setdefault(pack.tier, [item.model_dump(mode="json") for item in pack.manifest.items])
    issue = 1 + max((past.number for past in issues), default=0)
    note = studio.folder.wanted / f"issue-{number}.json"
    said = {"set": number, "issue": issue, "date": date.isoformat(), "release": release.model_dump(mode="json")}
    write_whole(note, json.dumps(said).encode())
    values = {
        "release": said["release"], "number": issue, "date": said["date"], "before": before,
        "items": [_values(studio, one) for one in items],
    }  # fmt: skip

    def keep(result: dict[str, Any]) -> dict[str, Any]:
        with studio.sessions.begin() as session:
            row = session.scalar(select(IssueRow).where(IssueRow.set_id == number, IssueRow.number == issue))
            if row is None:  # made again after a crash it is the same issue, since its bytes are
                session.add(IssueRow(set_id=number, number=issue, date=said["date"], packs=result["packs"]))
        return {"release_set": number, "issue": issue}

    triangles = [sum(part.facts.triangles for part in one.record.parts) for one in items if one.record]
    return studio.supervisor.submit(
        "issue",
        f"{number} {issue} {measured_key(values['release'], said['date'])}",
        values,
        f"Packing {release.name}, issue {issue}",
        3 + sum(triangles) * _SECONDS_A_TRIANGLE,
        None,
        build_memory(Recipe(steps=()), max(triangles, default=0)),
        then=keep,
        after=lambda job: note.unlink(missing_ok=True),
    )


def _refuse_held(studio: Studio, release: ReleaseSet, items: list[ItemNow]) -> None:
    meant = {at for tier in release.tiers for at in tier.items}
    gone = [at for at, one in enumerate(items) if one.record is None and not one.figure_name]
    if gone:
        raise Refused(f"Item {gone[0] + 1} is gone from the shelf: {items[gone[0]].why} Nothing was packed.")
    unbuilt = [one for at, one in enumerate(items) if one.record is None]
    if unbuilt:
        for one in unbuilt:
            studio.want_build(one.item.figure, one.item.edition)
        raise Refused(f"{len(unbuilt)} of its items are still being checked: pack it when that is done.")
    held = [hold for at, one in enumerate(items) if at in meant for hold in one.holds]
    if held:
        more = f" and {len(held) - 1} more" if len(held) > 1 else ""
        raise Refused(f"Not packed: {held[0].title}{more}. {held[0].why} The work is safe.")


def _values(studio: Studio, one: ItemNow) -> dict[str, Any]:
    assert one.record is not None
    figure, head = studio.figure_and_head(one.item.figure)
    recipe, made = studio.asked(head, one.item.edition)
    return {
        "figure_name": f"{figure.name}, {made.variant}" if made.variant else figure.name,
        "edition_name": one.edition_name,
        "name": figure.name,
        "recipe": recipe.model_dump(mode="json"),
        "edition": made.model_dump(mode="json"),
        "bench": studio.bench.value.model_dump(mode="json"),
        "record": one.record.model_dump(mode="json"),
        "state": one.state.kind,
        "proofed": one.state.says,
        "measured": _measured(studio, one.state),
    }


def _measured(studio: Studio, state: EditionState) -> dict[str, Any] | None:
    if state.kind is not StateKind.EXACT or state.proof is None:
        return None
    came = studio.proofs.one(state.proof).value.came
    return {"proof": state.proof, "seconds": came.seconds, "ml": came.ml}


def issues_of(studio: Studio, number: int) -> list[Issue]:
    """The issues of a set, the newest first."""
    with studio.sessions() as session:
        rows = session.scalars(select(IssueRow).where(IssueRow.set_id == number).order_by(IssueRow.number.desc()))
        return [
            Issue(row.id, row.number, datetime.date.fromisoformat(row.date), tuple(map(Pack.model_validate, row.packs)))
            for row in rows
        ]


def one_issue(studio: Studio, number: int, issue: int) -> Issue:
    """One issue of a set.

    Raises NotThere.
    """
    found = next((one for one in issues_of(studio, number) if one.number == issue), None)
    if found is None:
        raise NotThere("There is no such issue of this set.")
    return found


def resume_issues(studio: Studio) -> None:
    """Take up the issues that were under way when the server last ended, as they were asked for."""
    for note in sorted(studio.folder.wanted.glob("issue-*.json")):
        said = read_note(note)
        note.unlink()
        try:
            number, release = said["set"], ReleaseSet.model_validate(said["release"])
            studio.release_sets.one(number)
            if said["issue"] not in {one.number for one in issues_of(studio, number)}:
                _job(studio, number, datetime.date.fromisoformat(said["date"]), release)
        except (KeyError, ValueError, NotThere, Refused):
            continue  # what it was of is gone, or is to be checked anew: it is packed when somebody asks
