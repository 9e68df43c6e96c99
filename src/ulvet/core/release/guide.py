"""The guide that goes with a pack: what it says, whether it is printed or opened in a browser."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

__all__ = ["Block", "Guide", "Picture", "Rows", "Section", "Sentence", "sentences"]


@dataclass(frozen=True)
class Sentence:
    """A sentence; ``soft`` is said in passing, ``warns`` must be read."""

    text: str
    tone: Literal["plain", "soft", "warns"] = "plain"


@dataclass(frozen=True)
class Rows:
    """A table: its head, which may be empty, and its rows."""

    head: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class Picture:
    """A picture (PNG), its caption, and how wide it is printed at most, mm."""

    png: bytes
    says: str
    wide_mm: float = 80.0


Block = Sentence | Rows | tuple[Picture, ...]
"""Pictures stand beside each other."""


@dataclass(frozen=True)
class Section:
    """A heading with what stands under it; ``level`` 2 is of one item."""

    title: str
    blocks: tuple[Block, ...]
    level: Literal[1, 2] = 1


@dataclass(frozen=True)
class Guide:
    """A guide: its title, what it is of in a line, and its sections."""

    title: str
    lead: str
    sections: tuple[Section, ...]


def sentences(texts: Sequence[str], tone: Literal["plain", "soft", "warns"] = "plain") -> tuple[Sentence, ...]:
    """A block a sentence."""
    return tuple(Sentence(text, tone) for text in texts)
