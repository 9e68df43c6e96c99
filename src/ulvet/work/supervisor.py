"""Starting, watching and ending jobs."""

import itertools
import multiprocessing
import os
import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from enum import StrEnum
from multiprocessing import forkserver
from multiprocessing.connection import Connection
from pathlib import Path
from statistics import median
from typing import Any

import structlog

from ulvet.work.memory import memory_for_jobs
from ulvet.work.process import LOOKED_ON, THREAD_LIMITS, run_one_job

__all__ = ["Job", "JobState", "Supervisor"]

_AT_ONCE = 2
_WATCHED = 16
"""Jobs that are watched, or wait for their turn, each in a thread; more are queued behind them."""
_ATTEMPTS = 2
_PACES = 5
_KEPT = 50
_POLL = 0.05
_CRASHED = (
    "The work ended unexpectedly, perhaps for want of memory; everything saved is safe. "
    "Try again, or bring in a lighter mesh."
)
_STARTING = threading.Lock()
"""Starting a process looks at all others, none of which may be closed meanwhile."""
log = structlog.get_logger()


class JobState(StrEnum):
    """Where a job is on its way."""

    QUEUED = "queued"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"


ENDED = frozenset({JobState.DONE, JobState.FAILED, JobState.CANCELLED})


@dataclass
class Job:
    """One piece of work. ``key`` is the same for work that would do the same; it never runs twice at once."""

    id: int
    kind: str
    key: str
    says: str
    expected: float
    """Seconds it will take, as far as can be said before it starts."""
    figure: int | None = None
    memory: int = 0
    """Bytes it takes at its peak, as far as can be said before it starts."""
    state: JobState = JobState.QUEUED
    share: float = 0.0
    doing: str = "waiting"
    error: str = ""
    result: dict[str, Any] = field(default_factory=dict)
    began: float | None = None
    heard: float | None = None
    """When its share was last told."""
    cancelled: threading.Event = field(default_factory=threading.Event)
    ended: threading.Event = field(default_factory=threading.Event)

    def remaining(self) -> float | None:
        """Seconds still to go: what was expected, and the more is done the more what the share done says, less what
        has gone by since that was heard.

        None once it takes longer than either had led to expect, for then nobody knows.
        """
        if self.state in ENDED:
            return 0.0
        if self.began is None:
            return self.expected
        now = time.monotonic()
        heard = self.heard or self.began
        by_plan = (1 - self.share) * self.expected
        by_share = (heard - self.began) * (1 - self.share) / self.share if self.share > 0 else by_plan
        left = (1 - self.share) * by_plan + self.share * by_share - (now - heard)
        return left if left > 0 else None


Then = Callable[[dict[str, Any]], dict[str, Any] | None]
After = Callable[[Job], None]


class Supervisor:
    """Runs jobs, each in a process used once.

    These are copies of one that has loaded the libraries and done nothing else (multiprocessing's fork server): it has
    no threads, so a copy is sound, and a job begins in hundredths of a second instead of after three.
    """

    def __init__(self, data: Path, heard: Callable[[Job], None] = lambda job: None, memory: int | None = None) -> None:
        self._data = data
        self._memory = memory_for_jobs() if memory is None else memory
        self._heard = heard
        # Read by the libraries where they are loaded.
        os.environ.update(THREAD_LIMITS)
        self._context = multiprocessing.get_context("forkserver")
        self._context.set_forkserver_preload(["ulvet.work.jobs"])
        self._threads = ThreadPoolExecutor(_WATCHED, thread_name_prefix="job")
        # None that an earlier server gave, whose jobs a page that stayed open may still know.
        self._numbers = itertools.count(int(time.time() * 1000))
        self._lock = threading.Lock()
        self._jobs: dict[int, Job] = {}
        self._running: dict[int, Any] = {}
        self._room = threading.Condition()
        self._waiting: list[Job] = []
        self._admitted: list[Job] = []
        self._paces: dict[str, list[float]] = {}
        self._closing = False

    def start(self) -> None:
        """Have the libraries loaded before the first job is asked for."""
        forkserver.ensure_running()

    def submit(
        self,
        kind: str,
        key: str,
        values: dict[str, Any],
        says: str,
        expected: float = 5.0,
        figure: int | None = None,
        memory: int = 0,
        then: Then = lambda result: None,
        after: After = lambda job: None,
    ) -> Job:
        """Queue a job, or return the one under way with the same kind and key.

        Jobs begin in the order in which they come, at most two at once, and only when what they declare to take of
        ``memory`` finds room beside those at work; one that takes more than there is runs alone. Files brought in and
        remedies tried go first, and one of them beside the two. ``expected`` seconds
        are set right by how long jobs of the kind took before.

        ``then`` runs in the server when the job is done, before anybody hears of it; what it returns is the result.
        ``after`` runs in the server when the job is over, however it ended, but not when the server itself ends. A
        process that dies is replaced once, and the job begins again.
        """
        with self._lock:
            for job in self._jobs.values():
                if (job.kind, job.key) == (kind, key) and job.state not in ENDED:
                    return job
            job = Job(next(self._numbers), kind, key, says, expected * self._pace(kind), figure, memory)
            self._queue(job)
            self._jobs[job.id] = job
            for old in [j for j in self._jobs.values() if j.state in ENDED][:-_KEPT]:
                del self._jobs[old.id]
        self._heard(job)
        self._threads.submit(self._run, job, values, then, after)
        return job

    def jobs(self) -> list[Job]:
        """Jobs under way and the last that ended, oldest first."""
        with self._lock:
            return list(self._jobs.values())

    def latest(self, kind: str, key: str) -> Job | None:
        """The last job that would do the same, under way or ended, as far as it is remembered."""
        same = [job for job in self.jobs() if (job.kind, job.key) == (kind, key)]
        return same[-1] if same else None

    def job(self, number: int) -> Job | None:
        """The job with this number."""
        return self._jobs.get(number)

    def processes(self) -> list[Any]:
        """The processes of jobs at work."""
        return list(self._running.values())

    def cancel(self, number: int) -> Job | None:
        """End a job at once. What it had written whole stays, and is of no harm."""
        job = self._jobs.get(number)
        if job:
            job.cancelled.set()
        return job

    def close(self) -> None:
        """End all jobs and processes."""
        self._closing = True
        for job in self.jobs():
            job.cancelled.set()
        self._threads.shutdown(wait=True, cancel_futures=True)

    def _run(self, job: Job, values: dict[str, Any], then: Then, after: After) -> None:
        try:
            self._admit(job)
            for attempt in range(_ATTEMPTS):
                if job.cancelled.is_set():
                    job.state, job.doing = JobState.CANCELLED, "stopped"
                    break
                job.state, job.began, job.heard, job.share = JobState.RUNNING, time.monotonic(), None, 0.0
                job.doing = "starting again" if attempt else "starting"
                self._heard(job)
                if self._attempt(job, values, then):
                    break
            else:
                job.state, job.error = JobState.FAILED, _CRASHED
        except Exception:
            log.exception("job failed in the server", kind=job.kind, key=job.key)
            job.state, job.error = JobState.FAILED, _CRASHED
        finally:
            self._leave(job)
            try:
                if not self._closing:
                    after(job)
            finally:
                job.ended.set()
                self._heard(job)

    def _admit(self, job: Job) -> None:
        """Wait until it is the job's turn and there is room for it, or it is cancelled."""
        with self._room:
            while not (job.cancelled.is_set() or self._fits(job)):
                self._room.wait(_POLL)
            self._waiting.remove(job)
            self._admitted.append(job)

    def _queue(self, job: Job) -> None:
        """Behind those that wait; what somebody looks on at goes before what is merely to be checked."""
        with self._room:
            ahead = len(self._waiting)
            if job.kind in LOOKED_ON:
                ahead = sum(other.kind in LOOKED_ON for other in self._waiting)
            self._waiting.insert(ahead, job)

    def _fits(self, job: Job) -> bool:
        if self._waiting[0] is not job:
            return False
        taken = sum(other.memory for other in self._admitted)
        places = _AT_ONCE + (job.kind in LOOKED_ON)
        return not self._admitted or (len(self._admitted) < places and taken + job.memory <= self._memory)

    def _leave(self, job: Job) -> None:
        with self._room:
            if job in self._admitted:
                self._admitted.remove(job)
            self._room.notify_all()

    def _pace(self, kind: str) -> float:
        """How much longer than expected the last jobs of a kind took; 1 until one is done."""
        known = self._paces.get(kind)
        return median(known) if known else 1.0

    def _attempt(self, job: Job, values: dict[str, Any], then: Then) -> bool:
        """Run a job once in a process of its own; False when that died before it was done."""
        try:
            process, pipe = self._started(job.kind, values)
        except (EOFError, ConnectionError):
            # The process it is copied from has just died; the next attempt starts that again.
            log.exception("job process did not start", kind=job.kind)
            return False
        self._running[job.id] = process
        try:
            return self._watch(job, process, pipe, then)
        finally:
            self._running.pop(job.id)
            self._end(process, pipe)

    def _watch(self, job: Job, process: Any, pipe: Connection, then: Then) -> bool:
        while True:
            if job.cancelled.is_set():
                job.state, job.doing = JobState.CANCELLED, "stopped"
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
            match message:
                case ("told", share, says):
                    job.share, job.doing, job.heard = share, says, time.monotonic()
                    self._heard(job)
                case ("refused", sentence):
                    job.state, job.error = JobState.FAILED, sentence
                    return True
                case ("failed", trace):
                    log.error("job failed", kind=job.kind, key=job.key, trace=trace)
                    job.state = JobState.FAILED
                    job.error = (
                        "Ulvet made a mistake in this work; everything saved is safe. "
                        "The server's log says where; undo the last change to go on."
                    )
                    return True
                case ("done", result):
                    if job.began is not None and job.expected > 0:
                        took = (time.monotonic() - job.began) / (job.expected / self._pace(job.kind))
                        self._paces[job.kind] = [*self._paces.get(job.kind, []), took][-_PACES:]
                    job.result = then(result) or result
                    job.share, job.state, job.doing = 1.0, JobState.DONE, "done"
                    return True

    def _started(self, kind: str, values: dict[str, Any]) -> tuple[Any, Connection]:
        ours, theirs = self._context.Pipe()
        process = self._context.Process(target=run_one_job, args=(theirs, str(self._data), kind, values), daemon=True)
        with _STARTING:
            process.start()
        theirs.close()
        return process, ours

    @staticmethod
    def _end(process: Any, pipe: Connection) -> None:
        pipe.close()
        process.join(0.2)
        if process.is_alive():
            process.kill()
            process.join()
        with _STARTING:
            process.close()
