"""The job that makes an issue of a release set."""

import datetime
from pathlib import Path
from tempfile import TemporaryDirectory

from ulvet.core.progress import Progress
from ulvet.core.proof.state import StateKind
from ulvet.core.release.guide_words import Measured
from ulvet.core.release.issue import ReadyItem, make_issue
from ulvet.core.release.manifest import ItemEntry
from ulvet.core.release.release_set import ReleaseSet
from ulvet.store.blobs import Blobs
from ulvet.store.folder import DataFolder
from ulvet.store.results import DiskMemory
from ulvet.work.job_values import Values
from ulvet.work.release_job import checked_figure

__all__ = ["issue"]


def issue(folder: DataFolder, values: Values, progress: Progress) -> Values:
    """Pack the ``release`` set as issue ``number`` of the day ``date``. ``items`` are its builds in order (see
    ``checked_figure``) with ``figure_name``, ``edition_name``, ``state`` and ``measured``; ``before`` are the items of
    each tier's last issue.

    What was made of an item is kept, so that an issue that was stopped takes it up where it was. Gives the packs.
    """
    blobs = Blobs(folder.blobs)
    release = ReleaseSet.model_validate(values["release"])
    items = [
        ReadyItem(
            item,
            held["figure_name"],
            held["edition_name"],
            checked_figure(blobs, held),
            StateKind(held["state"]),
            Measured(**held["measured"]) if held["measured"] else None,
        )
        for item, held in zip(release.items, values["items"], strict=True)
    ]
    before = {tier: tuple(map(ItemEntry.model_validate, entries)) for tier, entries in values["before"].items()}
    with TemporaryDirectory(prefix=".new-", dir=folder.results) as out:
        packs = make_issue(
            release, items, values["number"], datetime.date.fromisoformat(values["date"]), before, blobs,
            DiskMemory(folder), Path(out), progress,
        )  # fmt: skip
        for pack in packs:
            blobs.put_file(Path(out) / pack.file_name, pack.sha256)
    return {"packs": [pack.model_dump(mode="json") for pack in packs]}
