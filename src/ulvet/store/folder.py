"""Where everything of a studio lies on disk."""

import fcntl
import json
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from platformdirs import user_data_path

__all__ = ["DataFolder", "FolderInUse", "default_data_folder", "read_note"]


class FolderInUse(RuntimeError):
    """Another Ulvet works in the data folder; its text is for the user."""


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

    @property
    def wanted(self) -> Path:
        """Notes of work that is to be taken up again should the server end before it is done."""
        return self._made(self.root / "wanted")

    @contextmanager
    def lock(self) -> Iterator[None]:
        """Keep every other Ulvet off the folder. The system lets go of the lock when the process ends, however it does.

        Raises FolderInUse.
        """
        with (self._made(self.root) / "in-use").open("a") as file:
            try:
                fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except BlockingIOError as error:
                raise FolderInUse(
                    f"Another Ulvet works in {self.root}, and nothing was touched: stop that one, "
                    "or give this one another data folder."
                ) from error
            yield

    @staticmethod
    def _made(path: Path) -> Path:
        path.mkdir(parents=True, exist_ok=True)
        return path


def read_note(path: Path) -> dict[str, Any]:
    """What a note in the folder says; nothing where it is damaged."""
    try:
        said = json.loads(path.read_bytes())
    except ValueError:
        return {}
    return said if isinstance(said, dict) else {}


def default_data_folder() -> Path:
    """The user's own data folder for Ulvet."""
    return user_data_path("ulvet")
