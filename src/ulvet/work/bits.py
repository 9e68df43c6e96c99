"""The shelf of bits and stamps: parts put there, found again, and used in a figure with their terms."""

from collections.abc import Sequence
from datetime import UTC, datetime
from io import BytesIO
from typing import Any

import numpy as np
from PIL import Image
from sqlalchemy import select

from ulvet.core.bits.steps import AddBit
from ulvet.core.blob_hash import BlobHash
from ulvet.core.lengths import FigureMM
from ulvet.core.provenance.steps import Credit
from ulvet.core.recipe.changes import with_steps_added
from ulvet.core.recipe.step import Step
from ulvet.core.sources.picture import Picture, narrowest_stroke, picture_of
from ulvet.store.columns import StampTerms
from ulvet.store.models import Bit
from ulvet.work.refusals import NotThere, Refused
from ulvet.work.studio import Seen, Studio

__all__ = ["bits_like", "drop_bit", "put_bit_back", "shelve_part", "shelve_stamp", "terms_of_stamp", "use_bit"]

_MOST_TAGS = 20
"""Tags of a bit."""
_SHOWN = 240
"""Pixels of a stamp's picture."""


def shelve_part(studio: Studio, number: int, part: str, name: str, tags: Sequence[str], edition: str = "") -> Bit:
    """Put a part of a figure on the shelf of bits, as it is built now in an edition, in figure mm, with the terms of
    its source.

    Raises NotThere, Refused.
    """
    figure, head, record, _ = studio.figure(number, edition)
    if record is None:
        raise Refused("The figure is still being checked: put its parts on the shelf when that is done.")
    held = next((one for one in record.parts if one.facts.part == part), None)
    if held is None:
        raise NotThere(f"{figure.name} has no part {part}.")
    recipe, _ = studio.asked(head, edition)
    said = [step for step in recipe.steps if isinstance(step, Credit)]
    credit = next((step for step in said if step.source == held.source), None)
    with studio.sessions.begin() as session:
        bit = Bit(
            name=name,
            tags=_words(tags),
            mesh_hash=held.mesh,
            picture=held.picture,
            size=[side / held.facts.factor for side in held.facts.size_mm],
            credit=credit.model_dump(mode="json") if credit else None,
            figure=figure.name,
        )
        session.add(bit)
        session.flush()
        session.expunge(bit)
        return bit


def shelve_stamp(
    studio: Studio, picture: str, file_name: str, name: str, tags: Sequence[str], number: int | None
) -> Bit:
    """Put a picture that was kept for stamps on the shelf, with the terms a figure says of it, if one is given.

    Raises NotThere, UnusablePicture, MissingBlob.
    """
    drawn = picture_of(bytes(studio.blobs.read(picture)))
    credit = None
    if number is not None:
        recipe, _ = studio.asked(studio.figure(number)[1])
        said = [step for step in recipe.steps if isinstance(step, Credit)]
        credit = next((step for step in said if step.source == picture), None)
    with studio.sessions.begin() as session:
        bit = Bit(
            name=name,
            tags=_words(tags),
            picture=studio.blobs.put(_shown(drawn)),
            stamp=StampTerms(
                sha256=BlobHash(picture),
                file_name=file_name,
                ratio=drawn.ratio,
                narrowest=narrowest_stroke(drawn) / drawn.strength.shape[1],
            ),
            credit=credit.model_dump(mode="json") if credit else None,
            figure="",
        )
        session.add(bit)
        session.flush()
        session.expunge(bit)
        return bit


def terms_of_stamp(studio: Studio, step: dict[str, Any]) -> list[dict[str, Any]]:
    """The sentence that credits the picture of a stamp, where the shelf has it with its terms."""
    picture = step.get("picture") if step.get("kind") == "stamp" else None
    if not isinstance(picture, str):
        return []
    with studio.sessions() as session:
        bits = session.scalars(select(Bit).where(Bit.stamp.is_not(None)).order_by(Bit.id.desc())).all()
    known = next((bit for bit in bits if bit.credit and bit.stamp and bit.stamp.sha256 == picture), None)
    return [{**known.credit, "source": picture, "file": step.get("name", known.name)}] if known and known.credit else []


def _words(tags: Sequence[str]) -> list[str]:
    return sorted({tag.strip().lower()[:40] for tag in tags if tag.strip()})[:_MOST_TAGS]


def _shown(picture: Picture) -> bytes:
    """A stamp as a small PNG, its strokes in ink on paper."""
    image = Image.fromarray((255 * (1 - picture.strength)).astype(np.uint8), "L")
    image.thumbnail((_SHOWN, _SHOWN))
    data = BytesIO()
    image.save(data, "PNG")
    return data.getvalue()


def bits_like(studio: Studio, words: str) -> Sequence[Bit]:
    """Bits whose name, tags or figure hold every one of some words, the newest first; all of them without any."""
    with studio.sessions() as session:
        bits = session.scalars(select(Bit).where(Bit.dropped.is_(None)).order_by(Bit.id.desc())).all()
    wanted = words.lower().split()
    return [bit for bit in bits if all(word in " ".join([bit.name, bit.figure, *bit.tags]).lower() for word in wanted)]


def drop_bit(studio: Studio, number: int) -> None:
    """Take a bit off the shelf; figures that use it keep it, and for a while it can be put back.

    Raises NotThere.
    """
    with studio.sessions.begin() as session:
        bit = session.get(Bit, number)
        if bit is None or bit.dropped is not None:
            raise NotThere("That bit is no longer on the shelf.")
        bit.dropped = datetime.now(UTC)


def put_bit_back(studio: Studio, number: int) -> None:
    """Put a bit back on the shelf, as it was.

    Raises NotThere.
    """
    with studio.sessions.begin() as session:
        bit = session.get(Bit, number)
        if bit is None:
            raise NotThere("That bit was taken off too long ago to be put back.")
        bit.dropped = None


def use_bit(studio: Studio, number: int, seen: Seen, bit_number: int, at: tuple[float, float, float]) -> None:
    """Add a bit to a figure as a part of its own, standing at a place (figure mm), and its terms with it.

    Raises NotThere, Conflict, Refused.
    """
    with studio.sessions() as session:
        bit = session.get(Bit, bit_number)
    if bit is None or bit.dropped is not None:
        raise NotThere("That bit is no longer on the shelf.")
    if bit.mesh_hash is None:
        raise Refused(f"{bit.name} is a stamp: press it at Bring in, where its place is picked.")
    x, y, z = (FigureMM(v) for v in at)
    steps: list[Step] = [AddBit(source=bit.mesh_hash, name=bit.name, x=x, y=y, z=z)]
    if bit.credit is not None:
        said: dict[str, Any] = {**bit.credit, "source": bit.mesh_hash, "file": bit.name}
        steps.append(Credit.model_validate(said))
    studio.change(
        number, seen, f"added {bit.name}", lambda recipe, edition: (with_steps_added(recipe, tuple(steps)), edition)
    )
