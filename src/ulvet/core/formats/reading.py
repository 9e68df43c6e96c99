"""What a file holds, and what it says of itself."""

import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass

from ulvet.core.geometry.mesh import Mesh
from ulvet.core.sources.scan import Scan
from ulvet.core.units import Axis, Unit

__all__ = ["MOST_PIECES", "MOST_TRIANGLES", "Piece", "Reading", "named_pieces"]

MOST_TRIANGLES = 20_000_000
"""More than this no reader unfolds from a file that repeats its parts (bench default)."""
MOST_PIECES = 60
"""A file of more pieces is taken as one figure: nobody prints so many parts one by one (bench default)."""
_LONGEST_NAME = 60
"""Letters of a part's name."""


@dataclass(frozen=True)
class Piece:
    """One of several things in a file, in the file's units and axes."""

    name: str
    mesh: Mesh


@dataclass(frozen=True)
class Reading:
    """The mesh of a file in its own units and axes; ``unit`` and ``up`` are None where the file does not say them.

    ``pieces`` are the things it is made of, where the file names several to be printed apart.
    """

    mesh: Mesh
    unit: Unit | None = None
    up: Axis | None = None
    pieces: tuple[Piece, ...] = ()
    scan: Scan | None = None
    """The passes the mesh was fused from, where it is a scan's."""

    @property
    def held(self) -> "dict[str, Mesh | Scan]":
        """Every mesh, and the scan, by hash."""
        return {**self.meshes, **({self.scan.hash: self.scan} if self.scan else {})}

    @property
    def meshes(self) -> dict[str, Mesh]:
        """The whole and every piece, by hash."""
        return {mesh.hash: mesh for mesh in (self.mesh, *(piece.mesh for piece in self.pieces))}


def named_pieces(found: Sequence[tuple[str, Mesh]]) -> tuple[Piece, ...]:
    """Pieces with names that are there, differ and can be printed; none where there is but one, or far too many."""
    found = [(name, mesh) for name, mesh in found if len(mesh.faces)]
    if not 1 < len(found) <= MOST_PIECES:
        return ()
    pieces: list[Piece] = []
    taken: set[str] = set()
    for number, (raw, mesh) in enumerate(found):
        plain = "".join(" " if unicodedata.category(sign)[0] in "CZ" else sign for sign in raw)
        stem = " ".join(plain.split())[:_LONGEST_NAME] or f"part {number + 1}"
        name, again = stem, 1
        while name.lower() in taken:
            again += 1
            name = f"{stem} {again}"
        taken.add(name.lower())
        pieces.append(Piece(name, mesh))
    return tuple(pieces)
