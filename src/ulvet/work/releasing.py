"""Releases of a figure: packing them, and finding those that were made."""

import json
from collections.abc import Sequence
from typing import Any

from sqlalchemy import select

from ulvet.core.provenance.check import BLOCKING
from ulvet.core.recipe.reading import UnreadableRecipe
from ulvet.core.recipe.runner import Recipe
from ulvet.store.blobs import write_whole
from ulvet.store.folder import read_note
from ulvet.store.models import ReleaseRow
from ulvet.work.memory import build_memory
from ulvet.work.proofing import state_now
from ulvet.work.refusals import NotThere, Refused
from ulvet.work.studio import Studio
from ulvet.work.supervisor import Job

__all__ = ["make_release", "one_release", "releases_of", "resume_releases"]

_SECONDS_A_TRIANGLE = 8e-6
"""Seconds that packing takes for a triangle, roughly."""


def make_release(studio: Studio, number: int, edition: str = "") -> Job:
    """The job that packages a figure's head in an edition for release, once it is built.

    A note in the data folder has it made again should the server end before it is done.

    Raises NotThere, Refused, also where provenance holds it back.
    """
    figure, head, record, _ = studio.figure(number, edition)
    looked = studio.edition(head, edition)
    if record is None:
        raise Refused("The figure is still being checked: make the release when that is done.")
    held = [finding.title for finding in record.findings if finding.code in BLOCKING]
    if held:
        more = f" and {len(held) - 1} more" if len(held) > 1 else ""
        raise Refused(
            f"Not released: {held[0]}{more}. The work is safe; settle it at Bring in, and pack the release again."
        )
    note = studio.folder.wanted / f"release-{number}-{record.key}.json"
    write_whole(note, json.dumps({"figure": number, "edition": looked.id, "build": record.key}).encode())

    def keep(result: dict[str, Any]) -> dict[str, Any]:
        with studio.sessions.begin() as session:
            same = select(ReleaseRow).where(
                ReleaseRow.revision_id == head.id, ReleaseRow.zip_hash == result["zip_hash"]
            )
            # Made again after a crash it is the same release, since its bytes are.
            row = session.scalar(same)
            if row is None:
                row = ReleaseRow(
                    figure_id=number, revision_id=head.id, edition=looked.id, edition_name=looked.name, **result
                )
                session.add(row)
                session.flush()
            return {"release": row.id, "file_name": row.file_name}

    triangles = sum(part.facts.triangles for part in record.parts)
    recipe, made = studio.asked(head, edition)
    proofed = state_now(studio, number, edition)[0].says
    return studio.supervisor.submit(
        "release",
        f"{number} {record.key} {proofed}",
        {
            "recipe": recipe.model_dump(mode="json"),
            "edition": made.model_dump(mode="json"),
            "bench": studio.bench.value.model_dump(mode="json"),
            "name": f"{figure.name}, {made.variant}" if made.variant else figure.name,
            "record": record.model_dump(mode="json"),
            "proofed": proofed,
        },
        f"Packing {figure.name}",
        2 + triangles * _SECONDS_A_TRIANGLE,
        figure.id,
        build_memory(Recipe(steps=()), triangles),
        then=keep,
        after=lambda job: note.unlink(missing_ok=True),
    )


def resume_releases(studio: Studio) -> None:
    """Take up the releases that were under way when the server last ended, unless the figure has changed since."""
    for note in sorted(studio.folder.wanted.glob("release-*.json")):
        said = read_note(note)
        note.unlink()
        try:
            _, _, record, _ = studio.figure(said.get("figure", -1), said.get("edition", ""))
        except (NotThere, UnreadableRecipe):
            continue
        if record is not None and record.key == said.get("build"):
            make_release(studio, said["figure"], said.get("edition", ""))


def releases_of(studio: Studio, number: int) -> Sequence[ReleaseRow]:
    """Releases of a figure, the newest first."""
    with studio.sessions() as session:
        return session.scalars(
            select(ReleaseRow).where(ReleaseRow.figure_id == number).order_by(ReleaseRow.id.desc())
        ).all()


def one_release(studio: Studio, release: int) -> ReleaseRow:
    """One release.

    Raises NotThere.
    """
    with studio.sessions() as session:
        row = session.get(ReleaseRow, release)
    if row is None:
        raise NotThere("There is no such release.")
    return row
