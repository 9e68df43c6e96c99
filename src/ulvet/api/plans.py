"""Plates and days over HTTP."""

from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Header, Response
from pydantic import BaseModel, Field

from ulvet.api.asked import AtStudio, RowNumber
from ulvet.api.views import JobView, job_view
from ulvet.core.days.plan import Plan
from ulvet.core.files.days import calendar_bytes
from ulvet.core.plates.conflicts import Conflicts
from ulvet.core.plates.wanted import OnPlate, Placed, WantedPart, WantedPlan
from ulvet.work import plan_hand, plans, plate_files
from ulvet.work.plan_record import PlanTold, WonTold
from ulvet.work.proofs import ProofNow
from ulvet.work.refusals import NotThere
from ulvet.work.studio import Studio

__all__ = ["router"]

router = APIRouter(tags=["plan"])

SeenPlan = Annotated[int, Header(alias="If-Match", description="Number of the plan's revision that was seen.")]


class BegunView(BaseModel):
    """A plate that was begun for the plan, as a proof."""

    proof: int
    figure: int
    edition: str
    says: str = Field(description="What was printed.")
    began: datetime
    ended: bool
    failed: int = Field(description="Copies that failed, which are printed again.")


class PlanView(BaseModel):
    """What is planned, as it stands."""

    revision: int
    can_undo: bool
    can_redo: bool
    plan: WantedPlan
    begun: list[BegunView]


class ChangePlan(BaseModel):
    """What is wanted, whole; ``says`` names the change."""

    plan: WantedPlan
    says: str = Field(min_length=1, max_length=200)


class BeginPlate(BaseModel):
    """What lies on a plate that is begun, and what was ticked before."""

    parts: list[WantedPart] = Field(min_length=1, max_length=200)
    ready: list[Annotated[str, Field(max_length=400)]] = Field(default=[], max_length=40)
    lying: list[Placed] = Field(default=[], max_length=500, description="Where its parts lie, as they are planned.")


class PlacedByHand(BaseModel):
    """Where the parts of a plate lie, in their order: x, y and turn of each."""

    lying: list[tuple[OnPlate, OnPlate, OnPlate]] = Field(max_length=500)


class OtherPart(BaseModel):
    """A part of another plate, by its place there."""

    plate: int = Field(ge=1, le=10_000)
    part: int = Field(ge=0, le=10_000)


class RoomFound(BaseModel):
    """Where it finds room: x, y and turn; None where it does not."""

    at: tuple[float, float, float] | None


@router.get("/plan")
def wanted(studio: AtStudio) -> PlanView:
    """What is to be printed."""
    return _view(studio)


@router.put("/plan")
def change(asked: ChangePlan, seen: SeenPlan, studio: AtStudio) -> PlanView:
    """Say what is to be printed, from when on and until when, what lies where, and what was moved and done."""
    plans.change_plan(studio, seen, asked.plan, asked.says)
    return _view(studio)


@router.post("/plan/undo")
def undo(seen: SeenPlan, studio: AtStudio) -> PlanView:
    """Take the last change back."""
    studio.plans.undo(studio.plans.now().number, seen)
    return _view(studio)


@router.post("/plan/redo")
def redo(seen: SeenPlan, studio: AtStudio) -> PlanView:
    """Make the change again that was taken back last."""
    studio.plans.redo(studio.plans.now().number, seen)
    return _view(studio)


@router.post("/plan/begun", status_code=201)
def begin(asked: BeginPlate, studio: AtStudio) -> PlanView:
    """Begin a plate as a proof: what comes out of it sound is wanted no more."""
    plans.begin_plate(studio, asked.parts, asked.ready, asked.lying)
    return _view(studio)


@router.post("/plan/made", status_code=202)
def plan_it(studio: AtStudio) -> JobView:
    """Pack what is wanted on plates and plan its days; the job names what came of it."""
    return job_view(plans.make_plan(studio))


@router.post("/plan/won", status_code=202)
def try_to_win(studio: AtStudio) -> JobView:
    """Try what would win time; the job names what came of it."""
    return job_view(plans.win_time(studio))


@router.get("/plans/{name}")
def planned(name: str, studio: AtStudio) -> PlanTold:
    """Plates, sums and days."""
    return plans.plan_of(studio, name)


@router.get("/plans/{name}/won")
def won(name: str, studio: AtStudio) -> WonTold:
    """What each change would win."""
    return plans.won_of(studio, name)


@router.post("/plans/{name}/plates/{plate}/checked")
def check(name: str, plate: RowNumber, asked: PlacedByHand, studio: AtStudio) -> Conflicts:
    """What is wrong with a plate's parts where the hand would place them."""
    return plate_files.checked_by_hand(plate_files.plate_in(plans.plan_of(studio, name), plate), asked.lying)


@router.post("/plans/{name}/plates/{plate}/room")
def room(name: str, plate: RowNumber, asked: OtherPart, studio: AtStudio) -> RoomFound:
    """Where a part of another plate finds room on this one."""
    told = plans.plan_of(studio, name)
    other = plate_files.plate_in(told, asked.plate).lying
    if asked.part >= len(other):
        raise NotThere("There is no such part on that plate: look at it again.")
    found = plate_files.room_beside(studio, plate_files.plate_in(told, plate), other[asked.part])
    return RoomFound(at=None if found is None else (found.x, found.y, found.turn))


@router.post("/plans/{name}/plates/{plate}/parts/{part}/more")
def put_one_more(name: str, plate: RowNumber, part: RowNumber, seen: SeenPlan, studio: AtStudio) -> PlanView:
    """Print one more of a part, on the plate that it lies on."""
    told = plans.plan_of(studio, name)
    plan_hand.put_one_more(studio, seen, told, plate_files.plate_in(told, plate), part)
    return _view(studio)


@router.post("/plans/{name}/plates/{plate}/parts/{part}/less")
def take_off(name: str, plate: RowNumber, part: RowNumber, seen: SeenPlan, studio: AtStudio) -> PlanView:
    """Print one less of a part, that which lies at a place of a plate."""
    told = plans.plan_of(studio, name)
    plan_hand.take_off(studio, seen, told, plate_files.plate_in(told, plate), part)
    return _view(studio)


@router.get("/plans/{name}/plates/{plate}/plate.{kind}", response_class=Response)
def plate_file(name: str, plate: RowNumber, kind: Literal["stl", "3mf", "pdf"], studio: AtStudio) -> Response:
    """A plate: placed as STL or 3MF, or drawn as PDF with the card of its setting."""
    held = plate_files.plate_in(plans.plan_of(studio, name), plate)
    headers = {"Content-Disposition": f'attachment; filename="plate-{plate}.{kind}"'}
    if kind == "pdf":
        return Response(plate_files.planned_sheet(held), media_type="application/pdf", headers=headers)
    data = plate_files.planned_stl(studio, held) if kind == "stl" else plate_files.planned_threemf(studio, held)
    return Response(data, media_type=f"model/{kind}", headers=headers)


@router.get("/plans/{name}/days.ics", response_class=Response)
def calendar(name: str, studio: AtStudio) -> Response:
    """The days as a calendar."""
    told = plans.plan_of(studio, name)
    if told.schedule is None:
        raise NotThere("There are no days yet: plan again.")
    begins = min((one.begin for one in told.schedule.booked), default=told.schedule.ready)
    asked = Plan(begins=begins, machines=tuple(told.machines), tasks=tuple(told.tasks))
    headers = {"Content-Disposition": 'attachment; filename="days.ics"'}
    return Response(calendar_bytes(asked, told.schedule), media_type="text/calendar", headers=headers)


def _view(studio: Studio) -> PlanView:
    now = studio.plans.now()
    return PlanView(
        revision=now.revision, can_undo=now.can_undo, can_redo=now.can_redo, plan=now.value,
        begun=[_begun(one) for one in studio.proofs.all() if one.number in now.value.begun],
    )  # fmt: skip


def _begun(one: ProofNow) -> BegunView:
    proof = one.value
    first = proof.parts[0]
    says = ", ".join(dict.fromkeys(f"{part.figure_name}, {part.called}" for part in proof.parts))
    return BegunView(
        proof=one.number, figure=first.figure, edition=first.edition, says=says, began=proof.began,
        ended=proof.came.ended is not None,
        failed=sum(copy.outcome in ("failed", "spare") for copy in proof.came.copies),
    )  # fmt: skip
