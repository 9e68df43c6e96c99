"""Jobs under way: a list, a way to stop them, and a stream of their progress."""

import asyncio
import itertools
import json
import secrets
from collections import deque
from collections.abc import AsyncIterator
from typing import Annotated

from fastapi import APIRouter, Header, Request
from sse_starlette import EventSourceResponse, ServerSentEvent

from ulvet.api.asked import AtStudio, RowNumber
from ulvet.api.views import JobView, job_view
from ulvet.core.findings.check_run import StationFindings
from ulvet.store.database import Changed
from ulvet.work.refusals import NotThere
from ulvet.work.supervisor import Job

__all__ = ["Newsroom", "router"]

router = APIRouter(tags=["jobs"])

_KEPT = 500
"""Events kept for a page that reconnects; some minutes of work (bench default)."""


class Newsroom:
    """Passes word of jobs and of changes from other threads to every open stream, and keeps the last for latecomers."""

    def __init__(self) -> None:
        self._loop: asyncio.AbstractEventLoop | None = None
        self._queues: set[asyncio.Queue[ServerSentEvent | None]] = set()
        self._kept: deque[ServerSentEvent] = deque(maxlen=_KEPT)
        # Numbers begin anew with every server: an event of an earlier one is never taken for one of this.
        self._edition = secrets.token_hex(4)
        self._numbers = itertools.count(1)

    def open(self) -> None:
        """Deliver on the running loop from now on."""
        self._loop = asyncio.get_running_loop()

    def close(self) -> None:
        """End every stream, so that the server can stop."""
        self._loop = None
        for queue in self._queues:
            queue.put_nowait(None)

    def tell(self, job: Job) -> None:
        """Word of a job, from any thread."""
        loop = self._loop
        if loop is not None and not loop.is_closed():
            loop.call_soon_threadsafe(self._deliver, "job", job_view(job).model_dump_json())

    def tell_change(self, changed: Changed) -> None:
        """Word of what was changed, from any thread."""
        loop = self._loop
        if loop is not None and not loop.is_closed():
            loop.call_soon_threadsafe(self._deliver, "changed", json.dumps(changed._asdict()))

    def _deliver(self, kind: str, data: str) -> None:
        number = f"{self._edition}-{next(self._numbers)}"
        event = ServerSentEvent(event=kind, id=number, data=data)
        self._kept.append(event)
        for queue in self._queues:
            queue.put_nowait(event)

    def _since(self, last: str | None) -> list[ServerSentEvent] | None:
        """What was told after the event ``last``; None when that is not known any more."""
        kept = list(self._kept)
        place = next((k for k, event in enumerate(kept) if event.id == last), None)
        return None if place is None else kept[place + 1 :]

    async def listen(self, last: str | None) -> AsyncIterator[ServerSentEvent]:
        """What was told after the event ``last``, then everything told from now on.

        Greets first, and says in the greeting whether words may have been missed.
        """
        queue: asyncio.Queue[ServerSentEvent | None] = asyncio.Queue()
        missed = self._since(last)
        self._queues.add(queue)
        try:
            yield ServerSentEvent(event="hello", data="anew" if missed is None else "again")
            for event in missed or []:
                yield event
            while (heard := await queue.get()) is not None:
                yield heard
        finally:
            self._queues.discard(queue)


@router.get("/jobs")
def jobs(studio: AtStudio) -> list[JobView]:
    """Jobs under way and the last that ended."""
    return [job_view(job) for job in studio.supervisor.jobs()]


@router.get("/jobs/{number}")
def one_job(number: RowNumber, studio: AtStudio) -> JobView:
    """One job as it stands."""
    job = studio.supervisor.job(number)
    if job is None:
        raise NotThere("That job is over and forgotten.")
    return job_view(job)


@router.get("/jobs/{number}/seen")
def seen(number: RowNumber, studio: AtStudio) -> list[StationFindings]:
    """What a check has seen so far, station by station."""
    job = studio.supervisor.job(number)
    if job is None:
        raise NotThere("That job is over and forgotten.")
    return [StationFindings.model_validate(said) for said in job.seen.values()]


@router.delete("/jobs/{number}")
def stop(number: RowNumber, studio: AtStudio) -> JobView:
    """End a job at once; nothing that was saved is lost."""
    job = studio.supervisor.cancel(number)
    if job is None:
        raise NotThere("That job is over and forgotten.")
    return job_view(job)


@router.post("/jobs/{number}/leave")
def leave(number: RowNumber, studio: AtStudio) -> JobView:
    """Look at a job no more that was asked for; it is ended when nobody else looks at it."""
    job = studio.supervisor.leave(number)
    if job is None:
        raise NotThere("That job is over and forgotten.")
    return job_view(job)


@router.get("/events", response_class=EventSourceResponse)
async def events(
    request: Request,
    last: Annotated[str | None, Header(alias="Last-Event-ID", description="The last event that was heard.")] = None,
) -> EventSourceResponse:
    """Progress of every job and what was changed, as it happens; taken up after ``Last-Event-ID`` where that is still
    known."""
    newsroom: Newsroom = request.app.state.newsroom
    return EventSourceResponse(newsroom.listen(last))
