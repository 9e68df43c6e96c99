"""One piece of work, as it is asked for and as it stands."""

import threading
import time
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

__all__ = ["ENDED", "Job", "JobState"]


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
    figures: set[int] = field(default_factory=set)
    """Figures that want it; two that are made alike want the same."""
    memory: int = 0
    """Bytes it takes at its peak, as far as can be said before it starts."""
    limit: float = float("inf")
    """Seconds after which it is ended."""
    waited_for: bool = False
    """Whether somebody looks on, so that it goes before what is merely to be checked."""
    askers: int = 1
    """How often it was asked for and not left again."""
    state: JobState = JobState.QUEUED
    share: float = 0.0
    doing: str = "waiting"
    error: str = ""
    seen: dict[str, dict[str, Any]] = field(default_factory=dict)
    """By station what a check has seen so far."""
    result: dict[str, Any] = field(default_factory=dict)
    began: float | None = None
    heard: float | None = None
    """When its share was last told."""
    unwanted: bool = False
    """Whether it was ended because nobody needs it any more."""
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

    def is_over_time(self) -> bool:
        """Whether it has been at work for longer than it may."""
        return self.began is not None and time.monotonic() - self.began > self.limit
