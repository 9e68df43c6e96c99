"""Step results on disk, so that no step runs twice on the same things."""

import hashlib
import json

from ulvet.core.recipe.anchors import frame_of
from ulvet.core.recipe.step import Part, Receipt, StepResult
from ulvet.core.stance import Stance
from ulvet.store.blobs import Blobs, MissingBlob, write_whole
from ulvet.store.folder import DataFolder

__all__ = ["DiskMemory"]


class DiskMemory:
    """Step results by key: a small file that names mesh blobs. A file that cannot be read counts as absent."""

    def __init__(self, folder: DataFolder) -> None:
        self._folder = folder.results
        self._blobs = Blobs(folder.blobs)

    def recall(self, key: str) -> StepResult | None:
        """The result kept under this key, or None."""
        try:
            said = json.loads((self._folder / f"{key}.json").read_text("utf-8"))
            parts = tuple(self._part(**part) for part in said["parts"])
            return StepResult(parts, Receipt.model_validate(said["receipt"]))
        except (FileNotFoundError, MissingBlob, ValueError, KeyError, TypeError):
            return None

    def keep(self, key: str, result: StepResult) -> None:
        """Keep a result; blobs first, so that a file never names what is not there."""
        parts = [
            {
                "name": part.name,
                "mesh": self._blobs.put_mesh(part.mesh),
                "stance": part.stance.model_dump(mode="json"),
                "supports": None if part.supports is None else self._blobs.put_mesh(part.supports),
                "source": part.source,
                "captured": None if part.captured is None else self._blobs.put_mesh(part.captured),
                "overlaps_left": part.overlaps_left,
                "frame": part.frame,
            }
            for part in result.parts
        ]
        said = {"parts": parts, "receipt": result.receipt.model_dump(mode="json")}
        write_whole(self._folder / f"{key}.json", json.dumps(said).encode())

    def recall_measured(self, key: str) -> bytes | None:
        """What a check measured, or None."""
        try:
            data = (self._folder / f"{key}.measured").read_bytes()
        except FileNotFoundError:
            return None
        # The first bytes are a digest of the rest, so that a damaged file counts as absent.
        return data[32:] if hashlib.sha256(data[32:]).digest() == data[:32] else None

    def keep_measured(self, key: str, measured: bytes) -> None:
        """Keep what a check measured."""
        write_whole(self._folder / f"{key}.measured", hashlib.sha256(measured).digest() + measured)

    def _part(
        self, name: str, mesh: str, stance: dict[str, object], supports: str | None, source: str, captured: str | None,
        overlaps_left: bool, frame: list[list[float]] | None,
    ) -> Part:  # fmt: skip
        held, seen = (None if kept is None else self._blobs.mesh(kept) for kept in (supports, captured))
        lies, stands = Stance.model_validate(stance), None if frame is None else frame_of(frame)
        return Part(name, self._blobs.mesh(mesh), lies, held, source, seen, overlaps_left, stands)
