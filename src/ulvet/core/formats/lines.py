"""Text formats in bulk: blocks of whole lines, sorted by their first word, numbers parsed together."""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.geometry.mesh import Floats

__all__ = ["Block", "line_blocks", "numbers_of", "starts_with"]

_BLOCK_BYTES = 16 << 20
"""Bytes of text parsed together."""
_LONGEST_LINE = 1 << 20
"""Bytes of a line; a longer one is not the text of a mesh."""
_INDENT = re.compile(rb"(?m)^[ \t\v\f]+|\r")

Mask = NDArray[np.bool_]


@dataclass(frozen=True)
class Block:
    """Whole lines of a file without indentation; ``starts`` (lines,) is where each begins in ``text``."""

    text: bytes
    starts: NDArray[np.int64]
    first_line: int

    def lines(self, chosen: Mask) -> bytes:
        """The chosen lines, each with its line end."""
        lengths = np.diff(self.starts, append=len(self.text))
        return np.frombuffer(self.text, np.uint8)[np.repeat(chosen, lengths)].tobytes()

    def line_number(self, where: Mask) -> int:
        """Number in the file of the first line for which ``where`` holds."""
        return self.first_line + int(np.argmax(where))


def line_blocks(path: Path) -> Iterator[Block]:
    """The file in blocks of about 16 MB.

    Raises UnreadableFile for zero bytes or a line of more than 1 MB, neither of which a text file has.
    """
    number = 1
    with path.open("rb") as file:
        while raw := file.read(_BLOCK_BYTES):
            raw += file.readline(_LONGEST_LINE)
            if b"\0" in raw or (len(raw) > _BLOCK_BYTES + _LONGEST_LINE - 1 and raw[-1:] != b"\n"):
                raise UnreadableFile(
                    f"{path.name} should be text but holds other bytes after line {number:,}: "
                    "it is damaged or of another kind; export it again."
                )
            text = _INDENT.sub(b"", raw)
            if not text.endswith(b"\n"):
                text += b"\n"
            ends = np.flatnonzero(np.frombuffer(text, np.uint8) == 10)
            starts = np.concatenate([[0], ends[:-1] + 1])
            yield Block(text, starts, number)
            number += len(starts)


def starts_with(block: Block, word: bytes) -> Mask:
    """Which lines begin with ``word`` (lower case, any case in the file) as a whole word; (lines,)."""
    text = np.frombuffer(block.text, np.uint8)
    found = np.ones(len(block.starts), bool)
    for k, letter in enumerate(word):
        at = text[np.minimum(block.starts + k, len(text) - 1)]
        found &= (at | 0x20) == letter
    return found & (text[np.minimum(block.starts + len(word), len(text) - 1)] <= 32)


def numbers_of(lines: bytes) -> tuple[Floats, NDArray[np.int64], NDArray[np.int64]] | None:
    """All numbers of some lines in a row, the line of each and its place in the line; None if any is not a number."""
    if not lines.strip():
        empty = np.empty(0, np.int64)
        return np.empty(0), empty, empty
    text = np.frombuffer(lines, np.uint8)
    gap = text <= 32
    begins = np.flatnonzero(~gap & np.concatenate([[True], gap[:-1]]))
    line = np.searchsorted(np.flatnonzero(text == 10), begins)
    try:
        values = np.fromstring(lines, dtype=np.float64, sep=" ")
    except ValueError:
        return None
    if len(values) != len(line):
        return None
    return values, line, np.arange(len(line)) - np.searchsorted(line, line, side="left")
