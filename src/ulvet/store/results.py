"""Step results on disk, so that no step runs twice on the same things."""

import hashlib
import json
from pathlib import Path

from ulvet.core.geometry.mesh import Mesh
from ulvet.core.recipe.anchors import frame_of
from ulvet.core.recipe.openings import Opening
from ulvet.core.recipe.receipt import Receipt
from ulvet.core.recipe.runner import plain_value
from ulvet.core.recipe.seams import MadeKey, Seam
from ulvet.core.recipe.stance import Stance
from ulvet.core.recipe.step import Part, StepResult
from ulvet.store.blobs import Blobs, MissingBlob, write_whole
from ulvet.store.folder import DataFolder

__all__ = ["DiskMemory"]


class DiskMemory:
    """Step results by key: a small file that names mesh blobs. A file that cannot be read counts as absent."""

    def __init__(self, folder: DataFolder) -> None:
        self._folder = folder.results
        self._blobs = Blobs(folder.blobs)

    def recall(self, key: str, receipt: type[Receipt]) -> StepResult | None:
        """The result kept under this key with its ``receipt``, or None."""
        try:
            kept = self._folder / f"{key}.json"
            said = json.loads(kept.read_text("utf-8"))
            kept.touch()  # what was not used for the longest goes first
            parts = tuple(self._part(**part) for part in said["parts"])
            return StepResult(parts, receipt.model_validate(said["receipt"]))
        except (FileNotFoundError, MissingBlob, ValueError, KeyError, TypeError):
            return None

    def keep(self, key: str, result: StepResult) -> None:
        """Keep a result; blobs first, so that a file never names what is not there."""
        blobs: list[str] = []

        def put(mesh: Mesh | None) -> str | None:
            blobs.extend([] if mesh is None else [self._blobs.put_mesh(mesh)])
            return None if mesh is None else mesh.hash

        parts = [
            {
                "name": part.name,
                "mesh": put(part.mesh),
                "stance": part.stance.model_dump(mode="json"),
                "supports": put(part.supports),
                "source": part.source,
                "captured": put(part.captured),
                "overlaps_left": part.overlaps_left,
                "frame": part.frame,
                "openings": plain_value(part.openings),
                "seams": plain_value(part.seams),
                "keys": plain_value(part.keys),
                "title": part.title,
            }
            for part in result.parts
        ]
        said = {"blobs": blobs, "parts": parts, "receipt": result.receipt.model_dump(mode="json")}
        write_whole(self._folder / f"{key}.json", json.dumps(said).encode(), lasting=False)

    @staticmethod
    def blobs_of(path: Path) -> set[str]:
        """The blobs that the file of a result names."""
        try:
            return set(json.loads(path.read_text("utf-8")).get("blobs", ()))
        except ValueError:
            return set()

    def recall_measured(self, key: str) -> bytes | None:
        """What a check measured, or None."""
        try:
            kept = self._folder / f"{key}.measured"
            data = kept.read_bytes()
            kept.touch()
        except FileNotFoundError:
            return None
        # The first bytes are a digest of the rest, so that a damaged file counts as absent.
        return data[32:] if hashlib.sha256(data[32:]).digest() == data[:32] else None

    def holds_measured(self, key: str) -> bool:
        """Whether what a check measured is kept."""
        return (self._folder / f"{key}.measured").exists()

    def keep_measured(self, key: str, measured: bytes) -> None:
        """Keep what a check measured."""
        write_whole(self._folder / f"{key}.measured", hashlib.sha256(measured).digest() + measured, lasting=False)

    def _part(
        self, name: str, mesh: str, stance: dict[str, object], supports: str | None, source: str, captured: str | None,
        overlaps_left: bool, frame: list[list[float]] | None, openings: list[dict[str, object]],
        seams: list[dict[str, object]], keys: list[dict[str, object]], title: str,
    ) -> Part:  # fmt: skip
        held, seen = (None if kept is None else self._blobs.mesh(kept) for kept in (supports, captured))
        lies, stands = Stance.model_validate(stance), None if frame is None else frame_of(frame)
        return Part(
            name,
            self._blobs.mesh(mesh),
            lies,
            held,
            source,
            seen,
            overlaps_left,
            stands,
            openings=tuple(Opening.model_validate(one) for one in openings),
            seams=tuple(Seam.model_validate(one) for one in seams),
            keys=tuple(MadeKey.model_validate(one) for one in keys),
            title=title,
        )
