"""Releases: making them and handing them out."""

from datetime import datetime

from fastapi import APIRouter
from fastapi.responses import FileResponse
from pydantic import BaseModel, Field

from ulvet.api.asked import AtStudio, LookedEdition, RowNumber
from ulvet.api.views import JobView, job_view
from ulvet.work import releasing

__all__ = ["router"]

router = APIRouter(tags=["release"])


class FileInRelease(BaseModel):
    """One file of a release."""

    name: str
    bytes: int
    sha256: str


class ReleaseView(BaseModel):
    """A release that was made."""

    id: int
    made: datetime
    edition: str = Field(description="Name of the edition it is of.")
    file_name: str
    zip_bytes: int
    zip_sha256: str
    files: list[FileInRelease]


@router.post("/figures/{number}/releases", status_code=202)
def make_release(number: RowNumber, edition: LookedEdition, studio: AtStudio) -> JobView:
    """Package the edition that is looked at. Open findings do not hold it back; they are named in it."""
    return job_view(releasing.make_release(studio, number, edition))


@router.get("/figures/{number}/releases")
def list_releases(number: RowNumber, studio: AtStudio) -> list[ReleaseView]:
    """Releases of a figure, the newest first."""
    return [
        ReleaseView(
            id=row.id,
            made=row.created,
            edition=row.edition_name,
            file_name=row.file_name,
            zip_bytes=row.zip_bytes,
            zip_sha256=row.zip_hash,
            files=[FileInRelease.model_validate(file) for file in row.files],
        )
        for row in releasing.releases_of(studio, number)
    ]


@router.get("/releases/{release}.zip", response_class=FileResponse)
def download(release: RowNumber, studio: AtStudio) -> FileResponse:
    """The ZIP of a release."""
    row = releasing.one_release(studio, release)
    return FileResponse(studio.blobs.path(row.zip_hash), media_type="application/zip", filename=row.file_name)
