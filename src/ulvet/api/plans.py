"""Plates and days over HTTP."""

from fastapi import APIRouter, Response

from ulvet.api.views import AtStudio, JobView, job_view
from ulvet.core.days.plan import Plan
from ulvet.core.files.days import calendar_bytes
from ulvet.work.plan_record import PlanTold, WantedPlan
from ulvet.work.plans import make_plan, plan_of, set_wanted, wanted_of
from ulvet.work.refusals import NotThere

__all__ = ["router"]

router = APIRouter(tags=["plan"])


@router.get("/plan")
def wanted(studio: AtStudio) -> WantedPlan:
    """What is to be printed."""
    return wanted_of(studio)


@router.put("/plan")
def set_plan(asked: WantedPlan, studio: AtStudio) -> WantedPlan:
    """Say what is to be printed, from when on and until when."""
    set_wanted(studio, asked)
    return wanted_of(studio)


@router.post("/plan/made", status_code=202)
def plan_it(studio: AtStudio) -> JobView:
    """Pack what is wanted on plates and plan its days; the job names what came of it."""
    return job_view(make_plan(studio))


@router.get("/plans/{name}")
def planned(name: str, studio: AtStudio) -> PlanTold:
    """Plates, sums and days."""
    return plan_of(studio, name)


@router.get("/plans/{name}/days.ics", response_class=Response)
def calendar(name: str, studio: AtStudio) -> Response:
    """The days as a calendar."""
    told = plan_of(studio, name)
    if told.schedule is None:
        raise NotThere("There are no days yet: plan again.")
    begins = min((one.begin for one in told.schedule.booked), default=told.schedule.ready)
    asked = Plan(begins=begins, machines=tuple(told.machines), tasks=tuple(told.tasks))
    headers = {"Content-Disposition": 'attachment; filename="days.ics"'}
    return Response(calendar_bytes(asked, told.schedule), media_type="text/calendar", headers=headers)
