"""A release set: what goes out, to whom, in which shops, and what came back."""

import datetime
from enum import StrEnum
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from ulvet.core.lengths import FigureMM
from ulvet.core.proof.proof import Cause
from ulvet.core.release.names import safe_name

__all__ = [
    "Ending", "FileKind", "GuideSentence", "Item", "Listing", "PictureSize", "ReleaseSet", "Report", "Supported",
    "Tier", "Word",
]  # fmt: skip

_MOST = 200
"""Items, tiers, words, listings or sentences of a set (bench default)."""
_MOST_REPORTS = 5_000
"""Reports on a set that are kept (bench default)."""
Text = Annotated[str, Field(max_length=400)]
LongText = Annotated[str, Field(max_length=4_000)]
Name = Annotated[str, Field(min_length=1, max_length=80)]


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class FileKind(StrEnum):
    """What an item's files are written as."""

    STL = "stl"
    THREEMF = "3mf"


class Supported(StrEnum):
    """Whether an item's files hold the supports it was checked with."""

    WITHOUT = "without"
    WITH = "with"
    BOTH = "both"


class Item(_Value):
    """An edition of a figure as it goes out."""

    figure: int = Field(ge=0)
    """Number of the figure on the shelf; 0 of one that lies in a file."""
    edition: Annotated[str, Field(max_length=40)]
    supported: Supported = Supported.BOTH
    mirrored: bool = False
    """Mirrored from how the edition is made."""
    kinds: Annotated[tuple[FileKind, ...], Field(min_length=1)] = (FileKind.STL, FileKind.THREEMF)

    @property
    def key(self) -> tuple[int, str, bool]:
        """What it is told from others by."""
        return self.figure, self.edition, self.mirrored


class Tier(_Value):
    """A pack of its own for those who have it for nothing, buy it, or are members: the items in it by their places in
    the set."""

    name: Name
    says: Text = ""
    """For whom it is."""
    items: Annotated[tuple[Annotated[int, Field(ge=0)], ...], Field(max_length=_MOST)] = ()


class Word(_Value):
    """What buyers are told of an open finding, in place of its title."""

    code: Annotated[str, Field(max_length=60)]
    says: Annotated[str, Field(min_length=1, max_length=400)]


class GuideSentence(_Value):
    """A sentence that somebody put into the guide, with the report it answers."""

    says: Annotated[str, Field(min_length=1, max_length=400)]
    report: Annotated[str, Field(max_length=80)] = ""


class PictureSize(_Value):
    """Pixels of the pictures that a shop wants."""

    wide: int = Field(ge=40, le=8_000)
    high: int = Field(ge=40, le=8_000)


class Listing(_Value):
    """A tier in a shop: what is filled in there, and what of it is in place."""

    shop: Name
    address: Annotated[str, Field(max_length=200)] = ""
    """Of a shop that speaks the shop protocol; empty of one that is filled by hand."""
    tier: Name
    title: Annotated[str, Field(max_length=200)] = ""
    text: LongText = ""
    price: float = Field(default=0.0, ge=0, le=1e6, allow_inf_nan=False)
    """In the bench's money."""
    tags: Annotated[tuple[Annotated[str, Field(max_length=40)], ...], Field(max_length=40)] = ()
    pictures: Annotated[tuple[PictureSize, ...], Field(max_length=12)] = (PictureSize(wide=1_200, high=1_200),)
    ticked: dict[str, str] = Field(default={}, max_length=20)
    """By what is filled in, the digest of what it was when it was ticked."""
    holds: int | None = None
    """Number of the issue that the shop has."""
    buyers: int = Field(default=0, ge=0)
    """That the shop told of last."""

    @property
    def offer(self) -> str:
        """What it is called where it is offered: the same for every issue, so that it is replaced and never doubled."""
        return f"{safe_name(self.shop)}.{safe_name(self.tier)}"


class Ending(_Value):
    """How a report ended: answered, in a correction, or with a sentence in the guide."""

    kind: Literal["answer", "correction", "guide"]
    says: Annotated[str, Field(min_length=1, max_length=400)]
    issue: int | None = None
    """The first issue that is corrected."""


class Report(_Value):
    """What a buyer says went wrong: with what, where on it, why as far as anybody knows, in which setting."""

    id: Annotated[str, Field(min_length=1, max_length=80)]
    came: datetime.date
    shop: Annotated[str, Field(max_length=80)] = ""
    """Where it came in; empty where it was typed."""
    issue: int = Field(ge=1)
    item: int | None
    """Its place in the set; None of one that was never in it."""
    part: Annotated[str, Field(max_length=400)] = ""
    """By its lineage; empty for the whole."""
    point: tuple[FigureMM, FigureMM, FigureMM] | None = None
    cause: Cause = Cause.UNKNOWN
    setting: Text = ""
    says: Text = ""
    ending: Ending | None = None


class ReleaseSet(_Value):
    """A named set of items that goes out together, again and again."""

    name: Name
    items: Annotated[tuple[Item, ...], Field(max_length=_MOST)] = ()
    tiers: Annotated[tuple[Tier, ...], Field(max_length=20)] = (Tier(name="bought"),)
    words: Annotated[tuple[Word, ...], Field(max_length=_MOST)] = ()
    guide: Annotated[tuple[GuideSentence, ...], Field(max_length=_MOST)] = ()
    listings: Annotated[tuple[Listing, ...], Field(max_length=_MOST)] = ()
    reports: Annotated[tuple[Report, ...], Field(max_length=_MOST_REPORTS)] = ()

    @model_validator(mode="after")
    def _agrees(self) -> "ReleaseSet":
        if len({item.key for item in self.items}) < len(self.items):
            raise ValueError("an edition is in the set twice in the same form")
        names = [safe_name(tier.name) for tier in self.tiers]
        if len(set(names)) < len(names):
            raise ValueError("two tiers have names that no file system tells apart")
        if any(at >= len(self.items) for tier in self.tiers for at in tier.items):
            raise ValueError("a tier holds an item that is not in the set")
        if any(one.item is not None and not 0 <= one.item < len(self.items) for one in self.reports):
            raise ValueError("a report is on an item that is not in the set")
        offers = [one.offer for one in self.listings]
        if len(set(offers)) < len(offers):
            raise ValueError("a tier is listed twice in the same shop")
        if not {one.tier for one in self.listings} <= {tier.name for tier in self.tiers}:
            raise ValueError("a shop lists a tier that is not there")
        return self

    def tier(self, name: str) -> Tier:
        """A tier by its name.

        Raises KeyError.
        """
        return {tier.name: tier for tier in self.tiers}[name]

    def word_on(self, code: str) -> str | None:
        """What buyers are told of findings with this code, if somebody said."""
        return next((word.says for word in self.words if word.code == code), None)
