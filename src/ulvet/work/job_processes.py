"""One attempt at a job: a process that is used once, and what it says on its pipe."""

import multiprocessing
import os
import threading
import time
from collections.abc import Callable
from multiprocessing import forkserver
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

import structlog

from ulvet.work.job import Job, JobState
from ulvet.work.job_process import THREAD_LIMITS, run_one_job

__all__ = ["MISTAKE", "Processes"]

MISTAKE = (
    "Ulvet made a mistake in this work; everything saved is safe. "
    "The server's log says where; undo the last change to go on."
)
"""What is said of a job that raised what nobody foresaw."""

_POLL = 0.05
"""Seconds between looks at a process that says nothing."""
_STARTING = threading.Lock()
"""Starting a process looks at all others, none of which may be closed meanwhile."""
log = structlog.get_logger()


class Processes:
    """Starts processes for jobs, one each, and listens to them.

    These are copies of one that has loaded the libraries and done nothing else (multiprocessing's fork server): it has
    no threads, so a copy is sound, and a job begins in hundredths of a second instead of after three.
    """

    def __init__(self, data: Path, heard: Callable[[Job], None]) -> None:
        self._data = data
        self._heard = heard
        # Read by the libraries where they are loaded.
        os.environ.update(THREAD_LIMITS)
        self._context = multiprocessing.get_context("forkserver")
        self._context.set_forkserver_preload(["ulvet.work.jobs"])
        self._running: dict[int, Any] = {}

    @staticmethod
    def load() -> None:
        """Have the libraries loaded before the first job is asked for."""
        forkserver.ensure_running()

    def at_work(self) -> list[Any]:
        """The processes of jobs at work."""
        return list(self._running.values())

    def attempt(self, job: Job, values: dict[str, Any], done: Callable[[dict[str, Any]], None]) -> bool:
        """Run a job once in a process of its own; False when that died before it was done.

        ``done`` hears what it made, before the job counts as done.
        """
        try:
            process, pipe = self._started(job, values)
        except (EOFError, ConnectionError):
            # The process it is copied from has just died; the next attempt starts that again.
            log.exception("job process did not start", kind=job.kind)
            return False
        self._running[job.id] = process
        try:
            return self._watch(job, process, pipe, done)
        finally:
            self._running.pop(job.id)
            _end(process, pipe)

    def _watch(self, job: Job, process: Any, pipe: Connection, done: Callable[[dict[str, Any]], None]) -> bool:
        while True:
            if job.cancelled.is_set():
                job.state, job.doing = JobState.CANCELLED, "stopped"
                return True
            if job.is_over_time():
                log.error("job over time", kind=job.kind, key=job.key, doing=job.doing, limit=job.limit)
                job.state = JobState.FAILED
                job.error = (
                    f"This was not done after {job.limit / 60:.0f} minutes and was ended at “{job.doing}”; everything "
                    "saved is safe. Undo the last change, or thin the figure out at Bring in and try again."
                )
                return True
            if not pipe.poll(_POLL):
                if process.is_alive() or pipe.poll():
                    continue
                log.error("job process died", kind=job.kind, code=process.exitcode)
                return False
            try:
                message = pipe.recv()
            except EOFError:
                process.join(1)
                log.error("job process died", kind=job.kind, code=process.exitcode)
                return False
            if self._is_over(job, message, done):
                return True

    def _is_over(self, job: Job, message: tuple[Any, ...], done: Callable[[dict[str, Any]], None]) -> bool:
        """Whether a job is over after what its process says."""
        match message:
            case ("progress", share, says):
                job.share, job.doing, job.heard = share, says, time.monotonic()
                self._heard(job)
                return False
            case ("seen", station, said):
                job.seen = {**job.seen, station: said}
                self._heard(job)
                return False
            case ("refused", sentence):
                job.state, job.error = JobState.FAILED, sentence
            case ("failed", trace):
                log.error("job failed", kind=job.kind, key=job.key, trace=trace)
                job.state, job.error = JobState.FAILED, MISTAKE
            case ("done", result):
                done(result)
                job.share, job.state, job.doing = 1.0, JobState.DONE, "done"
        return True

    def _started(self, job: Job, values: dict[str, Any]) -> tuple[Any, Connection]:
        ours, theirs = self._context.Pipe()
        asked = (theirs, str(self._data), job.kind, values, not job.waited_for)
        process = self._context.Process(target=run_one_job, args=asked, daemon=True)
        with _STARTING:
            process.start()
        theirs.close()
        return process, ours


def _end(process: Any, pipe: Connection) -> None:
    pipe.close()
    process.join(0.2)
    if process.is_alive():
        process.kill()
        process.join()
    with _STARTING:
        process.close()
