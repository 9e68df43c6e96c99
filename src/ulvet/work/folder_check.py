"""Whether a data folder is whole, and what in it nothing needs any more."""

import hashlib
import json
import re
from collections.abc import Iterator
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from ulvet.core.blob_hash import blobs_named
from ulvet.core.recipe.reading import UnreadableRecipe, read_recipe
from ulvet.store import documents, models
from ulvet.store.blobs import Blobs
from ulvet.store.database import open_database
from ulvet.store.folder import DataFolder
from ulvet.store.models import BuildRow, IssueRow, Revision
from ulvet.store.results import DiskMemory
from ulvet.work.record_reading import read_record

__all__ = ["FolderReport", "all_rows", "blobs_of_row", "check_folder"]

_HASH = re.compile(r"\b[0-9a-f]{64}\b")


@dataclass(frozen=True)
class FolderReport:
    """What was found. ``missing`` and ``altered`` are blobs that are needed; ``unneeded`` is what nothing refers to."""

    blobs: int
    missing: tuple[str, ...]
    altered: tuple[str, ...]
    unneeded: tuple[str, ...]
    database: tuple[str, ...]
    """Complaints of the database about itself."""
    freed: int = 0
    """Bytes of unneeded blobs that were removed."""

    @property
    def whole(self) -> bool:
        return not (self.missing or self.altered or self.database)


def check_folder(folder: DataFolder, collect: bool = False) -> FolderReport:
    """Compare every blob with its name and every reference with the blobs; ``collect`` removes what nothing needs.

    Sources and releases pin their blobs. So do finished builds and step results, as long as their records are kept.
    """
    sessions = open_database(folder.database)
    blobs = Blobs(folder.blobs)
    with sessions() as session:
        run = session.connection().exec_driver_sql
        complaints = [str(row[0]) for row in run("PRAGMA integrity_check") if row[0] != "ok"]
        lost = [f"{row[0]} refers to a row of {row[2]} that is not there" for row in run("PRAGMA foreign_key_check")]
        rows = list(all_rows(session))
        needed = {name for row in rows for name in _needed_by(row)}
        pinned = {name for row in rows for name in blobs_of_row(row)}
    # A step result whose mesh is gone is simply computed again: it pins, but is not missed.
    pinned |= {name for path in folder.results.glob("*.json") for name in DiskMemory.blobs_of(path)}
    there = blobs.names()
    unneeded = tuple(name for name in there if name not in pinned)
    freed = sum(blobs.remove(name) for name in unneeded) if collect else 0
    kept = [name for name in there if not (collect and name in unneeded)]
    return FolderReport(
        blobs=len(kept),
        missing=tuple(sorted(needed - set(there))),
        altered=tuple(name for name in kept if hashlib.sha256(blobs.read(name)).hexdigest() != name),
        unneeded=unneeded,
        database=(*complaints, *lost),
        freed=freed,
    )


def all_rows(session: Session) -> Iterator[object]:
    """Every row of every table."""
    for tables in (models, documents):
        for name in tables.__all__:
            yield from session.scalars(select(getattr(tables, name)))


def blobs_of_row(row: object) -> set[str]:
    """The blobs that a row needs, and whatever else in it reads like the name of one: what another version wrote may
    name blobs in ways that this one cannot read."""
    held = [value for value in vars(row).values() if isinstance(value, dict | list)]
    return _needed_by(row) | set(_HASH.findall(json.dumps(held)))


def _needed_by(row: object) -> set[str]:
    """The blobs that a row needs, as its types say: its columns and fields of ``BlobHash``."""
    if isinstance(row, BuildRow):
        return set(blobs_named(read_record(row)))
    if isinstance(row, IssueRow):
        return {pack["sha256"] for pack in row.packs}
    if not isinstance(row, Revision):
        return set(blobs_named(vars(row)))
    try:
        recipe = read_recipe(row.recipe)
    except UnreadableRecipe:
        return set()
    return {name for variant in ("", *recipe.variants) for name in blobs_named(recipe.as_made(variant))}
