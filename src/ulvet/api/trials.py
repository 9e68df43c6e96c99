"""Changes looked at before they are made."""

from typing import Annotated, Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field, JsonValue

from ulvet.api.asked import AtStudio, LookedEdition, RowNumber
from ulvet.api.figure import ApplyRemedy, StepFields, added
from ulvet.api.views import JobView, job_view
from ulvet.work import edits as editing
from ulvet.work import remedies
from ulvet.work import trials as trying
from ulvet.work.studio import Change
from ulvet.work.trial_record import Trial

__all__ = ["router"]

router = APIRouter(tags=["trials"])


class TryAdding(BaseModel):
    """A step to add."""

    does: Literal["add"]
    step: dict[str, JsonValue] = Field(max_length=30)

    def change(self) -> tuple[Change, str]:
        """The change, and the kind of step that says what it does."""
        return editing.steps_added([added(self.step)]), str(self.step.get("kind"))


class TrySetting(BaseModel):
    """Fields of the last step of each kind to set."""

    does: Literal["set"]
    steps: list[StepFields] = Field(min_length=1, max_length=10)

    def change(self) -> tuple[Change, str]:
        """The change, and the kind of step that says what it does."""
        return editing.steps_set([(step.kind, step.values) for step in self.steps]), self.steps[-1].kind


class TryFields(BaseModel):
    """Fields of one step to set."""

    does: Literal["fields"]
    step: int
    values: dict[str, JsonValue] = Field(min_length=1, max_length=30)

    def change(self) -> tuple[Change, str]:
        """The change; a step that stands in the record already says nothing new."""
        return editing.fields_set(self.step, self.values), ""


class TryChange(BaseModel):
    """A change to try on the build with the key ``build``."""

    build: str
    change: Annotated[TryAdding | TrySetting | TryFields, Field(discriminator="does")]


@router.post("/figures/{number}/previews", status_code=202)
def preview(number: RowNumber, remedy: ApplyRemedy, edition: LookedEdition, studio: AtStudio) -> JobView:
    """Make the parts as they would be after a remedy, without keeping the change."""
    return job_view(
        remedies.preview(studio, remedy.build, remedy.finding, remedy.remedy, number, remedy.place, edition)
    )


@router.post("/figures/{number}/trials", status_code=202)
def try_change(number: RowNumber, asked: TryChange, edition: LookedEdition, studio: AtStudio) -> JobView:
    """Make the parts as they would be after a change, without keeping it; the job names what came of it."""
    change, kind = asked.change.change()
    return job_view(trying.try_change(studio, number, asked.build, change, kind, edition))


@router.get("/tried/{name}")
def tried(name: str, studio: AtStudio) -> Trial:
    """What came of a trial."""
    return trying.tried_change(studio, name)
