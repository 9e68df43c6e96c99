"""Receiving a file."""

import secrets
from pathlib import Path, PurePath
from typing import Annotated, Any

from anyio import open_file, to_thread
from fastapi import Query, Request

from ulvet.api.views import JobView, job_view
from ulvet.core.formats.read import FORMATS, MOST_BYTES, PACKED
from ulvet.work.refusals import Refused
from ulvet.work.studio import Studio
from ulvet.work.supervisor import Job, JobState

__all__ = ["A_FILE", "FileName", "received", "when_read"]

FileName = Annotated[str, Query(min_length=1, max_length=255)]

A_FILE: dict[str, Any] = {
    "requestBody": {
        "required": True,
        "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
    }
}
"""What the contract says of a route whose body is a file."""

_PATIENCE = 20.0
"""Seconds after which a file that is still being read is answered by its job."""


async def received(request: Request, studio: Studio, file_name: str) -> tuple[Path, str]:
    """The body of a request as an upload, and the file's name without anything that could harm.

    Raises Refused for a kind of file that is not read, one too large or empty; nothing is kept of it then.
    """
    clean = PurePath(file_name.replace("\\", "/")).name
    clean = "".join(letter for letter in clean if letter.isprintable()) or "figure"
    ending = PurePath(clean).suffix.lower()
    if ending not in (*FORMATS, PACKED):
        raise Refused(
            f"{clean} is neither STL, OBJ, PLY, 3MF, GLB nor a ZIP with one of them: "
            "export the figure as one of these and bring that in."
        )
    _check_size(int(request.headers.get("content-length") or 0))
    path = studio.folder.uploads / f"{secrets.token_hex(12)}{ending}"
    got = 0
    try:
        async with await open_file(path, "wb") as file:
            async for chunk in request.stream():
                got += len(chunk)
                _check_size(got)
                await file.write(chunk)
        if not got:
            raise Refused(f"{clean} is empty: export it again.")
    except BaseException:
        path.unlink(missing_ok=True)
        raise
    return path, clean


async def when_read(job: Job) -> JobView:
    """The job that reads a file when it has ended, or after twenty seconds still under way.

    Raises Refused where it could not be read.
    """
    await to_thread.run_sync(job.ended.wait, _PATIENCE)
    if job.state is JobState.FAILED:
        raise Refused(job.error)
    return job_view(job)


def _check_size(size: int) -> None:
    if size > MOST_BYTES:
        raise Refused(
            f"The file is larger than {MOST_BYTES / 1e9:.1f} GB: thin out its triangles, "
            "which print finer than they need to be, and bring it in again."
        )
