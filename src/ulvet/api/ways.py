"""Ways to stand over HTTP."""

from fastapi import APIRouter
from pydantic import BaseModel, Field

from ulvet.api.asked import AtStudio, LookedEdition, RowNumber
from ulvet.api.views import JobView, job_view
from ulvet.work.trial_record import WaysTold
from ulvet.work.ways import ways_of, weigh_ways

__all__ = ["router"]

router = APIRouter(tags=["ways"])


class WeighWays(BaseModel):
    """A part to weigh ways to stand for, on the build with the key ``build``."""

    build: str
    part: str = Field(max_length=400)


@router.post("/figures/{number}/ways", status_code=202)
def weigh(number: RowNumber, asked: WeighWays, edition: LookedEdition, studio: AtStudio) -> JobView:
    """Weigh a few really different ways to stand a part; the job names what came of it."""
    return job_view(weigh_ways(studio, number, asked.build, asked.part, edition))


@router.get("/ways/{name}")
def ways(name: str, studio: AtStudio) -> WaysTold:
    """Ways to stand, beside each other."""
    return ways_of(studio, name)
