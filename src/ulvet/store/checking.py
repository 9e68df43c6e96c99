"""Whether a data folder is whole, and what in it nothing needs any more."""

import hashlib
import json
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select

from ulvet.store.blobs import Blobs
from ulvet.store.database import open_database
from ulvet.store.folder import DataFolder
from ulvet.store.models import Bit, BuildRow, ReleaseRow, Revision, Source

__all__ = ["FolderReport", "check_folder"]

_BLOBS = ("mesh", "display", "layers", "picture", "supports", "supports_display", "captured_display")
"""Of each part in the record of a build."""


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
        pinned = {
            name
            for row in session.execute(select(Source.file_hash, Source.mesh_hash, Source.look))
            for name in row
            if name
        }
        pinned.update(session.scalars(select(ReleaseRow.zip_hash)))
        for bit in session.scalars(select(Bit)):
            pinned.update(name for name in (bit.mesh_hash, bit.picture, (bit.stamp or {}).get("sha256")) if name)
        for recipe in session.scalars(select(Revision.recipe)):
            steps = [said for step in recipe["steps"] for said in _in_every_variant(step)]
            pinned.update(piece["mesh"] for step in steps for piece in step.get("pieces", []))
            pinned.update(name for step in steps for name in _held(step))
        for record in session.scalars(select(BuildRow.record)):
            pinned.update(name for part in record["parts"] for kind in _BLOBS if (name := part.get(kind)))
            pinned.update(ghost["display"] for ghost in record.get("ghosts", []))
            pinned.update(name for name in [record.get("silhouette")] if name)
    kept_results = [json.loads(path.read_bytes()) for path in folder.results.glob("*.json")]
    results = {mesh for result in kept_results for part in result["parts"] for mesh in _meshes(part)}
    # A step result whose mesh is gone is simply computed again: it pins, but is not missed.
    there = blobs.names()
    unneeded = tuple(name for name in there if name not in pinned | results)
    freed = sum(blobs.remove(name) for name in unneeded) if collect else 0
    kept = [name for name in there if not (collect and name in unneeded)]
    return FolderReport(
        blobs=len(kept),
        missing=tuple(sorted(pinned - set(there))),
        altered=tuple(name for name in kept if hashlib.sha256(blobs.read(name)).hexdigest() != name),
        unneeded=unneeded,
        database=(*complaints, *lost),
        freed=freed,
    )


def _in_every_variant(step: dict[str, Any]) -> list[dict[str, Any]]:
    return [step, *({**step, **values} for values in step.get("variants", {}).values())]


def _held(step: dict[str, Any]) -> list[str]:
    """What a step brings along besides the source of the figure: a scan, a bit, a foreign mesh, a proof, a picture."""
    named = [
        step.get("scan"),
        step.get("proof_file"),
        step.get("picture"),
        step.get("shown"),
        (step.get("thing") or {}).get("source"),
    ]
    return [name for name in (*named, step.get("source") if step["kind"] == "add-bit" else None) if name]


def _meshes(part: object) -> list[str]:
    """The meshes that a part of a step result names; one kept by an older version names none that are needed."""
    named = [part.get("mesh"), part.get("supports"), part.get("captured")] if isinstance(part, dict) else []
    return [name for name in named if name]
