"""What is kept for a whole run of the tests: results by the key of what they were made from, as a studio keeps them.

A key holds the digest of the core and of its libraries, and the folder is made anew for every run.
"""

import os
import shutil
import tempfile
from contextlib import suppress
from pathlib import Path

from ulvet.core.build.figure_build import Build, build_figure
from ulvet.store.folder import DataFolder
from ulvet.store.results import DiskMemory

__all__ = ["begin_keeping", "build_kept", "end_keeping", "hand_back", "hand_out"]

_NAMED = "ULVET_TESTS_KEEP"


def begin_keeping() -> bool:
    """Make the folder of this run; whether it was not there, as it is for a worker of the run."""
    if _NAMED in os.environ:
        return False
    os.environ[_NAMED] = tempfile.mkdtemp(prefix="ulvet-tests-")
    return True


def end_keeping() -> None:
    """Remove the folder."""
    shutil.rmtree(os.environ.pop(_NAMED), ignore_errors=True)


def build_kept(recipe, edition, sources, **more) -> Build:
    """``build_figure``, but nothing is computed twice in a run."""
    return build_figure(recipe, edition, sources, DiskMemory(_folder()), **more)


def hand_out(data: DataFolder) -> None:
    """Link what is kept into a data folder."""
    _link(_folder(), data)


def hand_back(data: DataFolder) -> None:
    """Keep what came to be in a data folder."""
    _link(data, _folder())


def _folder() -> DataFolder:
    return DataFolder(Path(os.environ[_NAMED]))


def _link(source: DataFolder, target: DataFolder) -> None:
    # Blobs first: a result names them.
    for held, there in ((source.blobs, target.blobs), (source.results, target.results)):
        for path in held.rglob("*"):
            link = there / path.relative_to(held)
            if path.is_dir():
                link.mkdir(exist_ok=True)
            elif not link.exists():
                # Another worker may be first.
                with suppress(FileExistsError, FileNotFoundError):
                    link.hardlink_to(path)
