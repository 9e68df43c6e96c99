"""Time and peak memory of a function in a process of its own."""

import multiprocessing
import re
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

__all__ = ["Measured", "clock", "measured"]

_clocked: list[float] = []


@dataclass(frozen=True)
class Measured:
    """Seconds, peak resident memory (MB, libraries included) and what the function returned."""

    seconds: float
    peak_mb: float
    result: Any


@contextmanager
def clock() -> Iterator[None]:
    """Measure only this part of the function."""
    began = time.perf_counter()
    yield
    _clocked.append(time.perf_counter() - began)


def measured(function: Callable[[str], Any], path: Path, runs: int = 2) -> Measured:
    """The best of some runs, each in a fresh process; imports are not timed."""
    taken = [_one_run(function, path) for _ in range(runs)]
    return min(taken, key=lambda run: run.seconds)


def _one_run(function: Callable[[str], Any], path: Path) -> Measured:
    spawn = multiprocessing.get_context("spawn")
    ours, theirs = spawn.Pipe()
    process = spawn.Process(target=_child, args=(theirs, function, str(path)))
    process.start()
    theirs.close()
    run: Measured = ours.recv()
    process.join()
    return run


def _peak_mb() -> float:
    # Of this process alone: getrusage would count what the parent held when it started it.
    status = Path("/proc/self/status").read_text()
    return int(re.search(r"VmHWM:\s+(\d+)", status)[1]) / 1024  # type: ignore[index]


def _child(pipe: Connection, function: Callable[[str], int], path: str) -> None:
    # Both libraries were loaded to find the function, so that neither pays for it alone.
    began = time.perf_counter()
    result = function(path)
    whole = time.perf_counter() - began
    pipe.send(Measured(_clocked[-1] if _clocked else whole, _peak_mb(), result))
