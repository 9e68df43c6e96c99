"""The shelf, and bringing figures in."""

from datetime import datetime
from pathlib import PurePath

from anyio import to_thread
from fastapi import APIRouter, Request
from pydantic import BaseModel, Field

from ulvet.api.asked import AtStudio, IfMatch, RowNumber
from ulvet.api.uploads import A_FILE, FileName, received, when_read
from ulvet.api.views import JobView, ShelfFigure, shelf_figure
from ulvet.core.first_forms.shapes import Form, UnusableForm
from ulvet.work.disk_budget import disk_use, set_budget
from ulvet.work.importing import begin_with_form
from ulvet.work.importing import bring_in as bring_in_file
from ulvet.work.refusals import Refused
from ulvet.work.shelf import (
    KEPT_FOR,
    copy_figure,
    delete_figure,
    deleted_figures,
    put_back,
    put_in_collection,
    rename_collection,
    rename_figure,
    shelf_of,
)
from ulvet.work.studio_profile import StudioProfile, profile_of, set_profile

__all__ = ["router"]

router = APIRouter(tags=["shelf"])


@router.get("/shelf")
def shelf(studio: AtStudio) -> list[ShelfFigure]:
    """Every figure, the one worked on last first."""
    return list(map(shelf_figure, shelf_of(studio)))


class DeletedFigure(BaseModel):
    """A figure that was deleted and can be put back."""

    id: int
    name: str
    files: list[str] = Field(description="Names of the files it is, and was, made from.")
    deleted: datetime
    gone: datetime = Field(description="When it can be put back no longer.")


class DiskUseView(BaseModel):
    """What all figures and their results take of the disk, and may take, GB."""

    taken_gb: float
    budget_gb: float


class Budget(BaseModel):
    """What all figures and their results may take of the disk, GB."""

    budget_gb: float = Field(allow_inf_nan=False)


class Named(BaseModel):
    """The name of a figure."""

    name: str = Field(min_length=1, max_length=120)


class InCollection(BaseModel):
    """The collection a figure is to stand in; empty for none."""

    collection: str = Field(max_length=80)


class RenameCollection(BaseModel):
    """Another name for a collection."""

    name: str = Field(min_length=1, max_length=80)
    to: str = Field(min_length=1, max_length=80)


@router.put("/figures/{number}/name")
def rename(number: RowNumber, asked: Named, studio: AtStudio) -> list[ShelfFigure]:
    """Give a figure another name."""
    rename_figure(studio, number, asked.name)
    return shelf(studio)


@router.put("/figures/{number}/collection")
def collect(number: RowNumber, asked: InCollection, studio: AtStudio) -> list[ShelfFigure]:
    """Put a figure into a collection, or out of its own."""
    put_in_collection(studio, number, asked.collection)
    return shelf(studio)


@router.put("/shelf/collections")
def name_collection(asked: RenameCollection, studio: AtStudio) -> list[ShelfFigure]:
    """Give a collection another name."""
    rename_collection(studio, asked.name, asked.to)
    return shelf(studio)


@router.post("/figures/{number}/copies", status_code=201)
def copy(number: RowNumber, studio: AtStudio) -> list[ShelfFigure]:
    """Put a copy of a figure on the shelf, as it stands now."""
    copy_figure(studio, number)
    return shelf(studio)


@router.get("/studio")
def profile(studio: AtStudio) -> StudioProfile:
    """The studio's name, money and order of dates."""
    return profile_of(studio)


@router.put("/studio")
def say_profile(asked: StudioProfile, studio: AtStudio) -> StudioProfile:
    """Say them."""
    set_profile(studio, asked)
    return profile_of(studio)


@router.get("/shelf/deleted")
def deleted(studio: AtStudio) -> list[DeletedFigure]:
    """Figures that were deleted and can be put back, the last deleted first."""
    return [
        DeletedFigure(
            id=figure.id,
            name=figure.name,
            files=[source.file_name for source in figure.sources],
            deleted=figure.deleted,
            gone=figure.deleted + KEPT_FOR,
        )
        for figure in deleted_figures(studio)
        if figure.deleted
    ]


@router.delete("/figures/{number}")
def delete(number: RowNumber, studio: AtStudio) -> list[DeletedFigure]:
    """Delete a figure with its versions and releases; it can be put back for a while."""
    delete_figure(studio, number)
    return deleted(studio)


@router.post("/figures/{number}/put-back")
def put_back_figure(number: RowNumber, studio: AtStudio) -> list[DeletedFigure]:
    """Put a deleted figure back on the shelf, as it was."""
    put_back(studio, number)
    return deleted(studio)


@router.get("/disk")
def disk(studio: AtStudio) -> DiskUseView:
    """What figures and their results take of the disk, and may take."""
    use = disk_use(studio)
    return DiskUseView(taken_gb=use.taken / 1e9, budget_gb=use.budget / 1e9)


@router.put("/disk")
def set_disk(asked: Budget, studio: AtStudio) -> DiskUseView:
    """Set what they may take; 422 outside of what makes sense."""
    set_budget(studio, asked.budget_gb)
    return disk(studio)


@router.post("/figures", status_code=202, openapi_extra=A_FILE)
async def bring_in(request: Request, studio: AtStudio, file_name: FileName) -> JobView:
    """Bring in a file, sent as the body: read in a process of its own, then put on the shelf.

    Answers when it is read, or after twenty seconds with the job still under way. 422 with a sentence when the file
    cannot be used or is too large; nothing is kept of it then.
    """
    path, clean = await received(request, studio, file_name)
    name = PurePath(clean).stem.replace("_", " ").replace("-", " ").strip().capitalize() or "Figure"
    return await when_read(bring_in_file(studio, path, clean, name[:120]))


class FirstForm(BaseModel):
    """A first form to begin a figure with, mm."""

    name: str = Field(min_length=1, max_length=120)
    form: Form
    wide: float = Field(gt=0, le=10_000)
    deep: float = Field(default=10.0, gt=0, le=10_000)
    tall: float = Field(default=10.0, gt=0, le=10_000)


@router.post("/figures/forms", status_code=202)
async def begin(asked: FirstForm, studio: AtStudio) -> JobView:
    """Begin a figure with a first form on the ground. Answers like bringing in a file; 422 where it makes no solid."""
    try:
        job = await to_thread.run_sync(
            begin_with_form, studio, asked.name, asked.form, asked.wide, asked.deep, asked.tall
        )
    except UnusableForm as refusal:
        raise Refused(str(refusal)) from refusal
    return await when_read(job)


@router.put("/figures/{number}/source", status_code=202, openapi_extra=A_FILE)
async def renew(number: RowNumber, request: Request, studio: AtStudio, seen: IfMatch, file_name: FileName) -> JobView:
    """Bring in a new sculpt of a figure, sent as the body; the rest of its recipe stays as it is.

    Answers like bringing in a figure. 412 when the figure was changed since the given revision.
    """
    with studio.sessions() as session:
        name = studio.at(session, number, seen)[0].name
    path, clean = await received(request, studio, file_name)
    return await when_read(bring_in_file(studio, path, clean, name, renews=number, edition=seen.edition))
