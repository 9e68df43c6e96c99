"""What is filled in for a tier in a shop, and what of it is to be done."""

import hashlib
from collections.abc import Sequence

from pydantic import BaseModel, ConfigDict

from ulvet.core.release.manifest import ItemEntry
from ulvet.core.release.names import safe_name
from ulvet.core.release.release_set import Listing

__all__ = ["FILLED", "ListingRow", "PackTold", "listing_rows", "pack_name", "proposed_text"]

FILLED = ("file", "title", "text", "price", "pictures", "tags", "terms")
"""What is filled in, in the order in which shops ask for it."""


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class PackTold(_Value):
    """A pack of an issue as a shop is told of it."""

    issue: int
    file_name: str
    sha256: str
    bytes: int
    terms: tuple[str, ...]
    pictures: tuple[str, ...]
    """Hashes of the pictures that are cut to a shop's sizes."""
    proposed: str = ""
    """A text for whoever typed none."""


class ListingRow(_Value):
    """One thing to fill in: what it is now, its digest, and whether just that was ticked."""

    what: str
    value: str
    digest: str
    done: bool
    changed: bool
    """Whether something else was ticked before."""


def listing_rows(listing: Listing, pack: PackTold) -> tuple[ListingRow, ...]:
    """What is to be filled in for a pack, ticked where it was ticked as it is now: what an issue changes is to be done
    again, and nothing else is."""
    sizes = [f"{one.wide} × {one.high}" for one in listing.pictures]
    values = {
        "file": f"{pack.file_name}, issue {pack.issue}",
        "title": listing.title,
        "text": listing.text or pack.proposed,
        "price": f"{listing.price:.2f}",
        "pictures": ", ".join(sizes),
        "tags": ", ".join(listing.tags),
        "terms": " ".join(pack.terms),
    }
    behind = {"file": pack.sha256, "pictures": " ".join(pack.pictures)}
    rows = []
    for what in FILLED:
        digest = hashlib.sha256(f"{values[what]}\n{behind.get(what, '')}".encode()).hexdigest()
        before = listing.ticked.get(what)
        rows.append(
            ListingRow(
                what=what, value=values[what], digest=digest, done=before == digest,
                changed=before is not None and before != digest,
            )
        )  # fmt: skip
    return tuple(rows)


def proposed_text(name: str, items: Sequence[ItemEntry]) -> str:
    """A text to begin with: what is in a pack, item by item."""
    lines = [
        f"{one.figure_name}, {one.edition_name}: {one.size_mm[2]:.0f} mm tall, "
        f"{'one part' if len(one.parts) == 1 else f'{len(one.parts)} parts'}."
        for one in items
    ]
    return "\n".join(
        [f"{name}, files to print yourself.", *lines, "A guide with pictures, settings and cautions is inside."]
    )


def pack_name(name: str, number: int, tier: str) -> str:
    """The file name of a pack; issues sort.

    >>> pack_name("Fen folk", 2, "members")
    'fen-folk_02_members.zip'
    """
    return f"{safe_name(name)}_{number:02d}_{safe_name(tier)}.zip"
