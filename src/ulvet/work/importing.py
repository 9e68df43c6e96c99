"""Files brought in: as a new figure, or as the new sculpt of one that is there."""

import json
import secrets
from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ulvet.core.bench.editions import edition_of
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.first_forms.shapes import Form, form_mesh
from ulvet.core.formats.threemf import threemf_bytes
from ulvet.core.provenance.steps import Credit
from ulvet.core.recipe.changes import with_source
from ulvet.core.recipe.reading import UnreadableRecipe
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.union import step_adapter
from ulvet.core.recipe.variants import with_change
from ulvet.store.blobs import write_whole
from ulvet.store.folder import read_note
from ulvet.store.models import Figure, Source
from ulvet.work.editions import first_edition
from ulvet.work.memory import bring_in_memory
from ulvet.work.refusals import NotThere
from ulvet.work.studio import Studio
from ulvet.work.supervisor import Job

__all__ = ["add_figure", "begin_with_form", "bring_in", "renew_source", "resume_uploads"]


def bring_in(
    studio: Studio,
    path: Path,
    file_name: str,
    name: str,
    renews: int | None = None,
    own: bool = False,
    edition: str = "",
) -> Job:
    """Read an uploaded file and, when it can be read, put a new figure on the shelf and check it.

    With ``renews`` it becomes the source of that figure instead, and the rest of its recipe stays. ``own`` says that it
    is the studio's own work, ``edition`` which was looked at when a source is renewed. A note beside the upload has
    it taken up again should the server end before that.
    """
    note = path.with_suffix(".json")
    said = {"file": path.name, "file_name": file_name, "name": name, "renews": renews, "own": own, "edition": edition}
    write_whole(note, json.dumps(said).encode())

    def keep(result: dict[str, Any]) -> dict[str, Any]:
        if own:
            credit = Credit(source=result["mesh_hash"], file=file_name, terms="own-work")
            result = {**result, "more": [*result.get("more", []), credit.model_dump(mode="json")]}
        if renews is None:
            number = add_figure(studio, name, file_name, result, path.stem)
        else:
            number = renew_source(studio, renews, file_name, result, path.stem, edition)
        studio.want_build(number, edition if renews is not None else "")
        return {"figure": number}

    def forget(job: Job) -> None:
        path.unlink(missing_ok=True)
        note.unlink(missing_ok=True)

    size = path.stat().st_size
    return studio.supervisor.submit(
        "bring-in",
        path.name,
        {"path": str(path), "name": file_name, "like": None if renews is None else _like(studio, renews, file_name)},
        f"Bringing in {file_name}",
        2 + size * 2e-8,
        renews,
        memory=bring_in_memory(size),
        then=keep,
        after=forget,
    )


def begin_with_form(studio: Studio, name: str, form: Form, wide: float, deep: float, tall: float) -> Job:
    """Put a figure on the shelf that begins as a first form (mm), which is the studio's own work.

    It comes in as a file like any other, so that it can be taken out, renewed and released like any other.

    Raises UnusableForm.
    """
    path = studio.folder.uploads / f"{secrets.token_hex(12)}.3mf"
    path.write_bytes(threemf_bytes([(form, form_mesh(form, wide, deep, tall))]))
    return bring_in(studio, path, f"{form}.3mf", name, own=True)


def resume_uploads(studio: Studio) -> None:
    """Take up the whole uploads that were under way when the server last ended."""
    uploads = studio.folder.uploads
    notes = {path: read_note(path) for path in sorted(uploads.glob("*.json"))}
    for path in list(uploads.iterdir()):
        if path not in notes and path.with_suffix(".json") not in notes:
            path.unlink()  # cut off half-way, so its sender was never told that it had come
    for note, said in notes.items():
        path = uploads / said.get("file", note.name)
        try:
            if said and path.is_file():
                bring_in(
                    studio,
                    path,
                    said["file_name"],
                    said["name"],
                    said.get("renews"),
                    said.get("own", False),
                    said.get("edition", ""),
                )
                continue
        except (NotThere, UnreadableRecipe):
            path.unlink()  # the figure it was to renew is gone, or cannot be used
        note.unlink()


def add_figure(studio: Studio, name: str, file_name: str, brought: dict[str, Any], upload: str | None = None) -> int:
    """Put a figure on the shelf from the result of a ``bring-in`` job; its number. Twice for one upload is once."""
    recipe = Recipe(steps=tuple(map(step_adapter().validate_python, [brought["step"], *brought.get("more", [])])))
    with studio.sessions.begin() as session:
        known = _figure_of(session, upload)
        if known is not None:
            return known
        figure = Figure(name=name)
        figure.sources.append(_source(file_name, brought, upload))
        session.add(figure)
        session.flush()
        studio.revise(session, figure, recipe, first_edition(studio.bench.value), f"brought in {file_name}")
        return figure.id


def renew_source(
    studio: Studio, number: int, file_name: str, brought: dict[str, Any], upload: str, edition: str = ""
) -> int:
    """Make the result of a ``bring-in`` job the source of a figure, as a new revision; the figure's number.

    It goes on top of whatever the head is by then, since it changes nothing but the source, of the variant of the
    edition that was looked at.

    Raises NotThere.
    """
    with studio.sessions.begin() as session:
        if _figure_of(session, upload) is not None:
            return number
        figure, head = studio.at(session, number)
        editions = studio.editions(head)
        shown = studio.edition(head, edition).made.variant if edition_of(editions, edition) else ""
        recipe = studio.recipe(head).in_variant(shown)
        figure.sources.append(_source(file_name, brought, upload))
        renewed = with_change(recipe, with_source(recipe.made, step_adapter().validate_python(brought["step"])))
        studio.revise(session, figure, renewed.in_variant(""), editions, f"new sculpt {file_name}")
        return number


def _like(studio: Studio, number: int, file_name: str) -> dict[str, str] | None:
    """How the source that a file replaces is read; None where that is a file of another kind."""
    _, head, _, _ = studio.figure(number)
    first = studio.asked(head)[0].steps[0]
    if not isinstance(first, BringIn):
        raise NotThere("The recipe does not begin with a source.")
    same = Path(first.name).suffix.lower() == Path(file_name).suffix.lower()
    return {"unit": first.unit, "up": first.up} if same else None


def _figure_of(session: Session, upload: str | None) -> int | None:
    return session.scalar(select(Source.figure_id).where(Source.upload == upload)) if upload else None


def _source(file_name: str, brought: dict[str, Any], upload: str | None) -> Source:
    return Source(
        file_name=file_name,
        file_hash=brought["file_hash"],
        file_bytes=brought["file_bytes"],
        mesh_hash=brought["mesh_hash"],
        upload=upload,
        look=brought.get("look"),
    )
