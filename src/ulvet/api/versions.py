"""Versions of a figure: frozen, listed, and set against each other."""

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from ulvet.api.asked import AtStudio, IfMatch, LookedEdition, RowNumber
from ulvet.api.views import JobView, Marks, job_view, marks_of
from ulvet.store.models import Version
from ulvet.work import versions
from ulvet.work.record import BuildRecord
from ulvet.work.trial_record import Comparison

__all__ = ["router"]

router = APIRouter(tags=["versions"])


class Freeze(BaseModel):
    """What is to be remembered of a version."""

    says: str = Field(default="", max_length=400)


class VersionView(BaseModel):
    """A frozen version; without marks and size where its build can no longer be read."""

    number: int
    says: str
    frozen: datetime
    size_mm: tuple[float, float, float] | None
    marks: Marks | None
    editions: list[str] = Field(description="Names of the editions that were frozen with their builds.")
    not_built: list[str] = Field(description="Names of those that were not built then.")


@router.post("/figures/{number}/versions", status_code=201)
def freeze(number: RowNumber, asked: Freeze, seen: IfMatch, studio: AtStudio) -> VersionView:
    """Freeze the figure as it is under the next number. 412 when it was changed since the given revision."""
    return _view(versions.freeze(studio, number, seen, asked.says), studio.figure(number, seen.edition)[2])


@router.get("/figures/{number}/versions")
def list_versions(number: RowNumber, edition: LookedEdition, studio: AtStudio) -> list[VersionView]:
    """Versions of a figure, the newest first."""
    return [_view(version, record) for version, record in versions.versions_of(studio, number, edition)]


@router.post("/figures/{number}/comparisons", status_code=202)
def compare(
    number: RowNumber,
    edition: LookedEdition,
    studio: AtStudio,
    before: Annotated[int, Query(ge=1)],
    after: Annotated[int | None, Query(ge=1, description="The figure as it is now when left out.")] = None,
) -> JobView:
    """Set a version against a later one; the job names the comparison when it is done."""
    return job_view(versions.compare(studio, number, before, after, edition))


@router.get("/comparisons/{name}")
def comparison(name: str, studio: AtStudio) -> Comparison:
    """A finished comparison."""
    return versions.comparison(studio, name)


def _view(version: Version, record: BuildRecord | None) -> VersionView:
    return VersionView(
        number=version.number,
        says=version.says,
        frozen=version.created,
        size_mm=record.size_mm if record else None,
        marks=marks_of(record.findings) if record else None,
        editions=[one.name for one in version.editions if one.build_key],
        not_built=[one.name for one in version.editions if not one.build_key],
    )
