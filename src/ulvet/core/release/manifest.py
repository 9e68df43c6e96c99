"""The manifest of a pack: every file with its SHA-256, and what it is of."""

import datetime
from typing import Literal

from pydantic import BaseModel, ConfigDict

from ulvet.core.findings.finding import Severity
from ulvet.core.proof.state import StateKind

__all__ = ["MANIFEST", "FileEntry", "ItemEntry", "Manifest", "OpenEntry", "PartEntry"]

MANIFEST = "manifest.json"
"""Name of the file in a pack."""


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class FileEntry(_Value):
    """A file of a pack."""

    name: str
    bytes: int
    sha256: str
    item: str = ""
    """Name of the item it is of; empty for what is of all."""
    part: str = ""
    """Name of the part it is of; empty for what is of the whole item."""
    watertight: bool | None = None
    """Of a mesh, whether it still closes as it was written."""


class PartEntry(_Value):
    """A part of an item: the number that is sunk into its joints, its lineage, what it is called, and what it is made
    of, by hash: its mesh, its size, how it stands and what holds it."""

    number: int
    part: str
    called: str
    size_mm: tuple[float, float, float]
    triangles: int
    volume_ml: float
    seconds: float | None
    material_ml: float | None
    form_sha256: str


class OpenEntry(_Value):
    """An open finding, and what buyers are told of it."""

    code: str
    severity: Severity
    part: str
    title: str
    says: str


class ItemEntry(_Value):
    """An edition as it goes out in a pack."""

    name: str
    figure: int
    figure_name: str
    edition: str
    edition_name: str
    mirrored: bool
    factor: float
    """Print mm for one figure mm."""
    size_mm: tuple[float, float, float]
    printer: str
    material: str
    setting: str
    layer_mm: float
    proofed: StateKind
    proofed_says: str
    recipe_sha256: str
    parts: tuple[PartEntry, ...]
    open: tuple[OpenEntry, ...] = ()
    not_looked_at: tuple[str, ...] = ()

    @property
    def key(self) -> tuple[int, str, bool]:
        """What it is told from others by, in every issue."""
        return self.figure, self.edition, self.mirrored


class Manifest(_Value):
    """What a pack holds: ``files`` are all but this one."""

    manifest: Literal["release-pack/1"] = "release-pack/1"
    made_with: str
    name: str
    number: int
    date: datetime.date
    """The day that was said, not the clock's."""
    tier: str
    unit: Literal["mm"] = "mm"
    up: Literal["z"] = "z"
    changed: tuple[str, ...] = ()
    """What is otherwise than in the issue before, and who needs it."""
    terms: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    items: tuple[ItemEntry, ...]
    files: tuple[FileEntry, ...]

    def to_bytes(self) -> bytes:
        """As it is written."""
        return (self.model_dump_json(indent=1) + "\n").encode()
