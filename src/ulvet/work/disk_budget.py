"""How much of the disk results may take: a budget, and what goes first when it is reached."""

import time
from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from threading import Event, Thread

import structlog
from sqlalchemy import delete, select

from ulvet.store.models import BuildRow, StudioValue
from ulvet.store.results import DiskMemory
from ulvet.work.folder_check import all_rows, blobs_of_row
from ulvet.work.refusals import Refused
from ulvet.work.shelf import needed_builds, purge_deleted
from ulvet.work.studio import Studio

__all__ = ["BUDGET_GB", "SPARED_SECONDS", "DiskUse", "Keeper", "disk_use", "keep_within_budget", "set_budget"]

BUDGET_GB = 20.0
"""Of the data folder (bench default: some hundred figures with their trials)."""
_LEAST_GB, _MOST_GB = 1.0, 100_000.0
"""What a budget may be (bench default: room for a few figures, and more than any disk has)."""
_NAME = "disk-budget-gb"
SPARED_SECONDS = 3600.0
"""What was written in the last hour stays: somebody may be about to use it."""
_DOWN_TO = 0.9
"""Share of the budget that is left after making room, so that it is not made for every step."""
_BETWEEN_SECONDS = 60.0
"""Between two looks at how much is taken (bench default)."""
log = structlog.get_logger()


@dataclass(frozen=True)
class DiskUse:
    """What the data folder takes, and may take, bytes."""

    taken: int
    budget: int


def disk_use(studio: Studio) -> DiskUse:
    """What figures and their results take of the disk now."""
    return DiskUse(sum(path.stat().st_size for path in _files(studio)), int(_budget(studio) * 1e9))


def set_budget(studio: Studio, gigabytes: float) -> None:
    """Set the budget (GB); room is made when the next job is over.

    Raises Refused outside of what makes sense.
    """
    if not _LEAST_GB <= gigabytes <= _MOST_GB:
        raise Refused(f"The disk budget is between {_LEAST_GB:g} and {_MOST_GB:,.0f} GB; nothing was changed.")
    with studio.sessions.begin() as session:
        session.merge(StudioValue(name=_NAME, value=gigabytes))


class Keeper(Thread):
    """Keeps the folder within its budget beside the server: at its start, and when it is woken, at most once a minute
    and only while no job is at work."""

    def __init__(self, studio: Studio) -> None:
        super().__init__(name="keeper", daemon=True)
        self._studio = studio
        self._woken = Event()
        self._closed = Event()

    def run(self) -> None:
        while not self._closed.is_set():
            try:
                keep_within_budget(self._studio)
            except Exception:
                log.exception("room could not be made")
            self._closed.wait(_BETWEEN_SECONDS)
            self._woken.wait()
            self._woken.clear()

    def wake(self) -> None:
        """A job is over, and may have taken the folder beyond its budget."""
        self._woken.set()

    def close(self) -> None:
        """End it when what it does is done."""
        self._closed.set()
        self._woken.set()
        self.join()


def keep_within_budget(studio: Studio) -> int:
    """Remove, the oldest first, results of steps and builds that no head, version or release needs, until the folder is
    within its budget; figures deleted long ago go whatever it takes. The bytes that were freed.

    Nothing is done while a job is at work or waits, for what it has written may not be referred to yet.
    """
    with studio.supervisor.while_idle() as idle:
        if not idle:
            return 0
        purged = purge_deleted(studio)
        use = disk_use(studio)
        if use.taken <= use.budget and not purged:
            return 0
        freed = _make_room(studio, use.taken - int(use.budget * _DOWN_TO) if use.taken > use.budget else 0)
        log.info("made room", freed=freed, taken=use.taken, budget=use.budget)
        return freed


def _budget(studio: Studio) -> float:
    with studio.sessions() as session:
        held = session.get(StudioValue, _NAME)
    return float(held.value) if held else BUDGET_GB


def _files(studio: Studio) -> list[Path]:
    folders = (studio.folder.blobs, studio.folder.results)
    return [path for folder in folders for path in folder.rglob("*") if path.is_file()]


@dataclass(frozen=True)
class _Removable:
    """Something that can be made again: when it was last used, the blobs it names, and how it is removed."""

    used: float
    blobs: frozenset[str]
    remove: Callable[[], int]
    """Gives the bytes freed besides blobs."""


def _make_room(studio: Studio, wanted: int) -> int:
    """Remove loose blobs, then what can be made again, the longest unused first, until so many bytes are freed."""
    now = time.time()
    removable = sorted([*_results(studio), *_builds(studio)], key=lambda one: one.used)
    named = Counter(name for one in removable for name in one.blobs)
    pinned = _pinned(studio)
    there = set(studio.blobs.names())

    def freed_with(names: Iterable[str]) -> int:
        loose = [name for name in names if name in there and not named[name] and name not in pinned]
        old = [name for name in loose if now - studio.blobs.path(name).stat().st_mtime > SPARED_SECONDS]
        there.difference_update(old)
        return sum(map(studio.blobs.remove, old))

    freed = freed_with(sorted(there))
    for one in removable:
        if freed >= wanted or now - one.used < SPARED_SECONDS:
            break
        named.subtract(one.blobs)
        freed += one.remove() + freed_with(sorted(one.blobs))
    return freed


def _results(studio: Studio) -> Iterator[_Removable]:
    """Results of steps and measures of checks."""

    def remove(path: Path) -> int:
        size = path.stat().st_size
        path.unlink()
        return size

    for path in studio.folder.results.iterdir():
        named = frozenset(DiskMemory.blobs_of(path)) if path.suffix == ".json" else frozenset()
        yield _Removable(path.stat().st_mtime, named, partial(remove, path))


def _builds(studio: Studio) -> Iterator[_Removable]:
    """Builds that no head and no version needs."""

    def remove(key: str) -> int:
        with studio.sessions.begin() as session:
            session.execute(delete(BuildRow).where(BuildRow.key == key))
        return 0

    with studio.sessions() as session:
        needed = needed_builds(studio, session)
        for row in session.scalars(select(BuildRow)):
            if row.key not in needed:
                yield _Removable(row.finished.timestamp(), frozenset(blobs_of_row(row)), partial(remove, row.key))


def _pinned(studio: Studio) -> set[str]:
    """Blobs that rows name, but for builds that can go."""
    with studio.sessions() as session:
        needed = needed_builds(studio, session)
        rows = [row for row in all_rows(session) if not (isinstance(row, BuildRow) and row.key not in needed)]
        return {name for row in rows for name in blobs_of_row(row)}
