"""Which job begins when: a queue, and one thread that takes the next from it whenever there is room."""

import itertools
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from statistics import median
from typing import Any

import structlog

from ulvet.work.job import ENDED, Job, JobState
from ulvet.work.job_process import LOOKED_ON
from ulvet.work.job_processes import Processes
from ulvet.work.memory import memory_for_jobs

__all__ = ["Job", "JobState", "Supervisor"]

_AT_ONCE = 2
"""Jobs at work; one more where somebody waits for it (bench default: a core each, and a third for a short one)."""
_ATTEMPTS = 2
"""Times that a job is begun whose process dies."""
_PACES = 5
"""Last durations of a kind by which the next is foretold."""
_KEPT = 50
"""Jobs that ended and are still listed."""
_LIMIT_SECONDS = 900.0
"""Seconds that any job may take, beside times what is expected."""
_LIMIT_TIMES = 20.0
"""A job may take a quarter of an hour and twenty times what is expected of it (bench default: a busy machine of a
tenth of this one's speed), so that only what hangs is ended."""
_CRASHED = (
    "The work ended unexpectedly, perhaps for want of memory; everything saved is safe. "
    "Try again, or bring in a lighter mesh."
)
log = structlog.get_logger()

Then = Callable[[dict[str, Any]], dict[str, Any] | None]
After = Callable[[Job], None]


@dataclass(frozen=True)
class _Order:
    """A job with what it needs to run and what follows from it."""

    job: Job
    values: dict[str, Any]
    then: Then
    after: After


class Supervisor:
    """Runs jobs, each in a process used once (`Processes`).

    One thread, the dispatcher, takes jobs from the queue when there is room; each job at work has a thread that listens
    to it. A job that waits holds none, so that however many wait, whatever may begin does.
    """

    def __init__(self, data: Path, heard: Callable[[Job], None] = lambda job: None, memory: int | None = None) -> None:
        self._memory = memory_for_jobs() if memory is None else memory
        self._heard = heard
        self._processes = Processes(data, heard)
        # None that an earlier server gave, whose jobs a page that stayed open may still know.
        self._numbers = itertools.count(int(time.time() * 1000))
        self._changed = threading.Condition(threading.RLock())
        """Held whenever one of the following is looked at or changed."""
        self._jobs: dict[int, Job] = {}
        self._waiting: list[_Order] = []
        self._at_work: dict[int, threading.Thread] = {}
        self._paces: dict[str, list[float]] = {}
        self._held = False
        """Whether nothing may begin for now."""
        self._closing = False
        self._dispatcher = threading.Thread(target=self._dispatch, name="dispatcher", daemon=True)
        self._dispatcher.start()

    def start(self) -> None:
        """Have the libraries loaded before the first job is asked for."""
        self._processes.load()

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
        limit: float | None = None,
    ) -> Job:
        """Queue a job, or return the one under way with the same kind and key.

        Jobs begin in the order in which they come, what somebody waits for before all else: files brought in, remedies
        tried, and what ``wait_for`` names. At most two are at work at once, and one more that somebody waits for, and
        only when what they declare to take of ``memory`` finds room beside those at work; one that takes more than
        there is runs alone. ``expected`` seconds are set right by how long jobs of the kind took before; after
        ``limit`` seconds a job is ended, by default many times what is expected.

        ``then`` runs in the server when the job is done, before anybody hears of it; what it returns is the result.
        ``after`` runs in the server when the job is over, however it ended, but not when the server itself ends. A
        process that dies is replaced once, and the job begins again.
        """
        figures = set() if figure is None else {figure}
        with self._changed:
            for job in self._jobs.values():
                if (job.kind, job.key) == (kind, key) and job.state not in ENDED and not job.cancelled.is_set():
                    job.figures |= figures
                    job.askers += 1
                    return job
            job = Job(next(self._numbers), kind, key, says, expected * self._pace(kind), figures, memory)
            job.limit = _LIMIT_SECONDS + _LIMIT_TIMES * expected if limit is None else limit
            job.waited_for = kind in LOOKED_ON
            if self._closing:
                job.cancelled.set()
            self._jobs[job.id] = job
            self._waiting.append(_Order(job, values, then, after))
            over = [number for number, j in self._jobs.items() if j.state in ENDED and number not in self._at_work]
            for number in over[:-_KEPT]:
                del self._jobs[number]
            self._changed.notify_all()
        self._heard(job)
        return job

    def jobs(self) -> list[Job]:
        """Jobs under way and the last that ended, oldest first."""
        with self._changed:
            return list(self._jobs.values())

    def latest(self, kind: str, key: str) -> Job | None:
        """The last job that would do the same, under way or ended, as far as it is remembered; not one that was ended
        because nobody needed it then."""
        same = [job for job in self.jobs() if (job.kind, job.key) == (kind, key) and not job.unwanted]
        return same[-1] if same else None

    def job(self, number: int) -> Job | None:
        """The job with this number."""
        return self._jobs.get(number)

    def processes(self) -> list[Any]:
        """The processes of jobs at work."""
        return self._processes.at_work()

    def wait_for(self, job: Job) -> None:
        """Somebody waits for this job: it goes before those that nobody looks on at."""
        with self._changed:
            job.waited_for = True
            self._changed.notify_all()

    def cancel(self, number: int) -> Job | None:
        """End a job at once. What it had written whole stays, and is of no harm."""
        job = self._jobs.get(number)
        if job:
            job.cancelled.set()
            with self._changed:
                self._changed.notify_all()
        return job

    def leave(self, number: int) -> Job | None:
        """One that asked for a job looks at it no more; it is ended when that was the last."""
        with self._changed:
            job = self._jobs.get(number)
            if job:
                job.askers -= 1
                if job.askers <= 0:
                    self._end_unwanted(job)
            return job

    def drop(self, kind: str, figure: int, *wanted: str) -> None:
        """A figure wants no more jobs of a kind, but for those with the keys that are ``wanted``; those that no other
        figure wants are ended."""
        with self._changed:
            for job in self._jobs.values():
                if job.kind == kind and job.key not in wanted and figure in job.figures and job.state not in ENDED:
                    job.figures.remove(figure)
                    if not job.figures:
                        self._end_unwanted(job)

    def _end_unwanted(self, job: Job) -> None:
        job.unwanted = True
        self.cancel(job.id)

    @contextmanager
    def while_idle(self) -> Iterator[bool]:
        """Keep every job from beginning, if none is at work or waits: whether that is so."""
        with self._changed:
            idle = not (self._at_work or self._waiting or self._held)
            self._held |= idle
        try:
            yield idle
        finally:
            if idle:
                with self._changed:
                    self._held = False
                    self._changed.notify_all()

    def close(self) -> None:
        """End all jobs and processes."""
        with self._changed:
            self._closing = True
            for number in self._jobs:
                self.cancel(number)
            self._changed.notify_all()
        self._dispatcher.join()
        for thread in list(self._at_work.values()):
            thread.join()

    def _dispatch(self) -> None:
        while True:
            with self._changed:
                while (order := self._next()) is None:
                    if self._closing:
                        return
                    self._changed.wait()
                self._waiting.remove(order)
                thread = threading.Thread(target=self._run, args=(order,), name=f"job {order.job.id}", daemon=True)
                self._at_work[order.job.id] = thread
            thread.start()

    def _next(self) -> _Order | None:
        """What may begin now: the first in the queue, when there is room for it, or anything that was cancelled."""
        for order in self._waiting:
            if order.job.cancelled.is_set():
                return order
        first = min(self._waiting, key=_turn, default=None)
        return first if first and not self._held and self._fits(first.job) else None

    def _fits(self, job: Job) -> bool:
        beside = [self._jobs[number] for number in self._at_work]
        if any((other.kind, other.key) == (job.kind, job.key) for other in beside):
            return False
        places = _AT_ONCE + job.waited_for
        return not beside or (
            len(beside) < places and sum(other.memory for other in beside) + job.memory <= self._memory
        )

    def _run(self, order: _Order) -> None:
        job = order.job
        try:
            self._work(order)
        except Exception:
            log.exception("job failed in the server", kind=job.kind, key=job.key)
            job.state, job.error = JobState.FAILED, _CRASHED
        try:
            if not self._closing:
                order.after(job)
        except Exception:
            log.exception("what follows a job failed in the server", kind=job.kind, key=job.key)
        with self._changed:
            del self._at_work[job.id]
            self._changed.notify_all()
        job.ended.set()
        self._heard(job)

    def _work(self, order: _Order) -> None:
        job = order.job
        for attempt in range(_ATTEMPTS):
            if job.cancelled.is_set():
                job.state, job.doing = JobState.CANCELLED, "stopped"
                return
            job.state, job.began, job.heard, job.share = JobState.RUNNING, time.monotonic(), None, 0.0
            job.seen = {}
            job.doing = "starting again" if attempt else "starting"
            self._heard(job)
            if self._processes.attempt(job, order.values, lambda result: self._done(order, result)):
                return
        job.state, job.error = JobState.FAILED, _CRASHED

    def _done(self, order: _Order, result: dict[str, Any]) -> None:
        job = order.job
        if job.began is not None and job.expected > 0:
            took = (time.monotonic() - job.began) / (job.expected / self._pace(job.kind))
            self._paces[job.kind] = [*self._paces.get(job.kind, []), took][-_PACES:]
        job.result = order.then(result) or result

    def _pace(self, kind: str) -> float:
        """How much longer than expected the last jobs of a kind took; 1 until one is done."""
        known = self._paces.get(kind)
        return median(known) if known else 1.0


def _turn(order: _Order) -> tuple[bool, bool, int]:
    """Short jobs that somebody waits for come first, then long ones, then all else in the order they came."""
    return order.job.kind not in LOOKED_ON, not order.job.waited_for, order.job.id
