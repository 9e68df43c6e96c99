"""Step results on disk, so that no step runs twice on the same things."""

import json

from ulvet.core.recipe.step import Part, Receipt, StepResult
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
            parts = tuple(Part(name, self._blobs.mesh(mesh)) for name, mesh in said["parts"])
            return StepResult(parts, Receipt.model_validate(said["receipt"]))
        except (FileNotFoundError, MissingBlob, ValueError, KeyError):
            return None

    def keep(self, key: str, result: StepResult) -> None:
        """Keep a result; blobs first, so that a file never names what is not there."""
        parts = [[part.name, self._blobs.put_mesh(part.mesh)] for part in result.parts]
        said = {"parts": parts, "receipt": result.receipt.model_dump(mode="json")}
        write_whole(self._folder / f"{key}.json", json.dumps(said).encode())
