"""Jobs under way: a list, a way to stop them, and a stream of their progress."""

import asyncio
from collections.abc import AsyncIterator

from fastapi import APIRouter, Request
from sse_starlette import EventSourceResponse, ServerSentEvent

from ulvet.api.views import AtStudio, JobView, job_view
from ulvet.work.studio import NotThere
from ulvet.work.supervisor import Job

__all__ = ["Newsroom", "router"]

router = APIRouter(tags=["jobs"])


class Newsroom:
    """Passes word of jobs from the supervisor's threads to every open event stream."""

    def __init__(self) -> None:
        self._loop: asyncio.AbstractEventLoop | None = None
        self._queues: set[asyncio.Queue[JobView | None]] = set()

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
            loop.call_soon_threadsafe(self._deliver, job_view(job))

    def _deliver(self, view: JobView) -> None:
        for queue in self._queues:
            queue.put_nowait(view)

    async def listen(self) -> AsyncIterator[ServerSentEvent]:
        """Everything told from now on."""
        queue: asyncio.Queue[JobView | None] = asyncio.Queue()
        self._queues.add(queue)
        try:
            yield ServerSentEvent(event="hello", data="")
            while (view := await queue.get()) is not None:
                yield ServerSentEvent(event="job", data=view.model_dump_json())
        finally:
            self._queues.discard(queue)


@router.get("/jobs")
def jobs(studio: AtStudio) -> list[JobView]:
    """Jobs under way and the last that ended."""
    return [job_view(job) for job in studio.supervisor.jobs()]


@router.get("/jobs/{number}")
def one_job(number: int, studio: AtStudio) -> JobView:
    """One job as it stands."""
    job = studio.supervisor.job(number)
    if job is None:
        raise NotThere("That job is over and forgotten.")
    return job_view(job)


@router.delete("/jobs/{number}")
def stop(number: int, studio: AtStudio) -> JobView:
    """End a job at once; nothing that was saved is lost."""
    job = studio.supervisor.cancel(number)
    if job is None:
        raise NotThere("That job is over and forgotten.")
    return job_view(job)


@router.get("/events", response_class=EventSourceResponse)
async def events(request: Request) -> EventSourceResponse:
    """Progress of every job, as it happens."""
    newsroom: Newsroom = request.app.state.newsroom
    return EventSourceResponse(newsroom.listen())
