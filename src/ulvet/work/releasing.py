"""Releases of a figure: packing them, and finding those that were made."""

from collections.abc import Sequence
from typing import Any

from sqlalchemy import select

from ulvet.store.models import ReleaseRow
from ulvet.work.studio import NotThere, Refused, Studio
from ulvet.work.supervisor import Job

__all__ = ["make_release", "one_release", "releases_of"]


def make_release(studio: Studio, number: int) -> Job:
    """The job that packages a figure's head for release, once it is built.

    Raises NotThere, Refused.
    """
    figure, head, record, _ = studio.figure(number)
    if record is None:
        raise Refused("The figure is still being checked: make the release when that is done.")

    def keep(result: dict[str, Any]) -> dict[str, Any]:
        with studio.sessions.begin() as session:
            row = ReleaseRow(figure_id=number, revision_id=head.id, **result)
            session.add(row)
            session.flush()
            return {"release": row.id, "file_name": row.file_name}

    return studio.supervisor.submit(
        "release",
        f"{number} {record.key}",
        {
            "recipe": head.recipe,
            "edition": head.edition,
            "name": figure.name,
            "record": record.model_dump(mode="json"),
        },
        f"Packing {figure.name}",
        2.0,
        figure.id,
        then=keep,
    )


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
