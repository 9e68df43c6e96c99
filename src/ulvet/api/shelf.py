"""The shelf, and bringing figures in."""

import secrets
from pathlib import PurePath
from typing import Annotated

from anyio import open_file, to_thread
from fastapi import APIRouter, Query, Request

from ulvet.api.views import AtStudio, JobView, ShelfFigure, job_view, shelf_figure
from ulvet.core.io import FORMATS, MOST_BYTES, PACKED
from ulvet.work.studio import Refused
from ulvet.work.supervisor import JobState

__all__ = ["router"]

router = APIRouter(tags=["shelf"])

_PATIENCE = 20.0


@router.get("/shelf")
def shelf(studio: AtStudio) -> list[ShelfFigure]:
    """Every figure, in the order they came."""
    return [
        shelf_figure(figure, head, record, None if record else studio.want_build(figure.id))
        for figure, head, record in studio.shelf()
    ]


@router.post(
    "/figures",
    status_code=202,
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
        }
    },
)
async def bring_in(
    request: Request,
    studio: AtStudio,
    file_name: Annotated[str, Query(min_length=1, max_length=255)],
) -> JobView:
    """Bring in a file, sent as the body: read in a process of its own, then put on the shelf.

    Answers when it is read, or after twenty seconds with the job still under way. 422 with a sentence when the file
    cannot be used or is too large; nothing is kept of it then.
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
    name = PurePath(clean).stem.replace("_", " ").replace("-", " ").strip().capitalize() or "Figure"
    job = studio.bring_in(path, clean, name[:120])
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
