"""Where everything of a studio lies on disk."""

from dataclasses import dataclass
from pathlib import Path

from platformdirs import user_data_path

__all__ = ["DataFolder", "default_data_folder"]


@dataclass(frozen=True)
class DataFolder:
    """The data folder and its rooms; made when first asked for."""

    root: Path

    @property
    def database(self) -> Path:
        return self._made(self.root) / "studio.sqlite"

    @property
    def blobs(self) -> Path:
        return self._made(self.root / "blobs")

    @property
    def results(self) -> Path:
        return self._made(self.root / "results")

    @property
    def uploads(self) -> Path:
        return self._made(self.root / "uploads")

    @staticmethod
    def _made(path: Path) -> Path:
        path.mkdir(parents=True, exist_ok=True)
        return path


def default_data_folder() -> Path:
    """The user's own data folder for Ulvet."""
    return user_data_path("ulvet")
