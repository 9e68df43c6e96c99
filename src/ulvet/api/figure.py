"""The figure page: looking, changing, undoing."""

from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Query, Response
from pydantic import BaseModel, Field, JsonValue

from ulvet.api.asked import AtStudio, IfMatch, LookedEdition, RowNumber, look_at
from ulvet.api.views import FigurePage, figure_page
from ulvet.core.bench.edition import Edition
from ulvet.core.bench.editions import edition_of
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.gauge.walls.tints import walls_zip_bytes
from ulvet.core.geometry.placement import placement_of
from ulvet.core.lengths import FigureMM
from ulvet.core.release.names import safe_name
from ulvet.core.release.recipe_file import RecipeFile
from ulvet.work import edits as editing
from ulvet.work import remedies
from ulvet.work.bits import terms_of_stamp
from ulvet.work.display import display_from
from ulvet.work.refusals import NotThere, Refused
from ulvet.work.studio import Seen, Studio
from ulvet.work.trials import record_at

__all__ = ["ApplyRemedy", "StepFields", "added", "changed_page", "router"]

router = APIRouter(prefix="/figures/{number}", tags=["figure"], dependencies=[Depends(look_at)])


class ApplyRemedy(BaseModel):
    """A remedy by its number in a finding of a build; ``place`` is the one looked at of those that finding gathers."""

    build: str
    finding: int = Field(ge=0)
    remedy: int = Field(ge=0)
    place: int = Field(default=0, ge=0)
    only_here: bool = Field(default=False, description="Whether its steps hold in the edition that is looked at alone.")


class EditNumber(BaseModel):
    """A new value for a number in a sentence of the record."""

    step: int = Field(ge=1)
    field: str = Field(max_length=40)
    value: float = Field(allow_inf_nan=False)


class SwitchStep(BaseModel):
    """Whether a step is to do its work."""

    on: bool


class SwitchGroup(BaseModel):
    """Whether the steps of a group are to do their work."""

    group: str = Field(min_length=1, max_length=80)
    on: bool


class MoveGroup(BaseModel):
    """How far the steps of a group are to be moved, figure mm: across, deep, up."""

    group: str = Field(min_length=1, max_length=80)
    by: tuple[FigureMM, FigureMM, FigureMM]


class SetFields(BaseModel):
    """Fields of one step to set in one change; ``says`` names the change."""

    values: dict[str, JsonValue] = Field(min_length=1, max_length=30)
    says: str = Field(min_length=1, max_length=200)


class MoveStep(BaseModel):
    """The step in front of which a step is to stand in the record; null is the end."""

    before: int | None


class AddStep(BaseModel):
    """A step to add, as the recipe file writes it; ``says`` names the change."""

    step: dict[str, JsonValue] = Field(max_length=30)
    says: str = Field(min_length=1, max_length=200)


class StepFields(BaseModel):
    """Fields of the last step of a kind."""

    kind: Literal["show-side", "orient", "support", "hollow", "drain"]
    values: dict[str, JsonValue] = Field(max_length=10)


class SetSteps(BaseModel):
    """Steps to set in one change; ``says`` names the change."""

    steps: list[StepFields] = Field(min_length=1, max_length=10)
    says: str = Field(max_length=200)


@router.get("")
def look(number: RowNumber, edition: LookedEdition, studio: AtStudio) -> FigurePage:
    """The figure at its head, with the build of the edition that is looked at or the job that makes it; the first
    edition where that one is gone."""
    return _page(studio, number, edition)


@router.get("/recipe.json", response_class=Response)
def recipe(number: RowNumber, edition: LookedEdition, studio: AtStudio) -> Response:
    """The recipe at the figure's head as the file that ``ulvet build`` follows, with the source beside it."""
    figure, head, _, _ = studio.figure(number, edition)
    said = RecipeFile.of(figure.name, *studio.asked(head, edition)).to_bytes()
    return _attachment(said, "application/json", f"{safe_name(figure.name)}_recipe.json")


@router.get("/walls.zip", response_class=Response)
def walls(number: RowNumber, edition: LookedEdition, studio: AtStudio) -> Response:
    """The figure as it is drawn, in the tints of its walls, where it lies in its file: OBJ, MTL and texture, packed."""
    figure, head, record, _ = studio.figure(number, edition)
    recipe, made = studio.asked(head, edition)
    first = recipe.steps[0]
    if record is None or not isinstance(first, BringIn):
        raise NotThere("The figure is still being checked: its walls are not known yet.")
    placement = placement_of(studio.blobs.mesh(first.source), first.unit, first.up)
    limits = studio.bench.value.setup(made.setting).walls
    parts = [(part.facts.part, *display_from(studio.blobs.read(part.display))) for part in record.parts]
    packed = walls_zip_bytes(parts, placement, limits, record.parts[0].facts.factor)
    return _attachment(packed, "application/zip", f"{safe_name(figure.name)}_walls.zip")


@router.post("/builds")
def check_again(number: RowNumber, edition: LookedEdition, studio: AtStudio) -> FigurePage:
    """Start a check anew that failed or was stopped."""
    studio.want_build(number, edition, again=True)
    return _page(studio, number, edition)


@router.post("/remedies")
def apply(number: RowNumber, remedy: ApplyRemedy, seen: IfMatch, studio: AtStudio) -> FigurePage:
    """Apply a remedy. 412 when the figure was changed since the given revision."""
    record = record_at(studio, number, remedy.build, seen.edition)
    offered = remedies.remedy_of(record, remedy.finding, remedy.remedy, remedy.place)
    remedies.apply(studio, number, seen, offered, remedy.only_here)
    return changed_page(studio, number, seen)


@router.put("/record")
def edit(number: RowNumber, edit: EditNumber, seen: IfMatch, studio: AtStudio) -> FigurePage:
    """Change a number in the record."""
    editing.edit_step(studio, number, seen, edit.step, edit.field, edit.value)
    return changed_page(studio, number, seen)


@router.post("/record")
def add_step(number: RowNumber, asked: AddStep, seen: IfMatch, studio: AtStudio) -> FigurePage:
    """Add a step to the record, behind the last that belongs before it."""
    editing.add_steps(studio, number, seen, [added(asked.step), *terms_of_stamp(studio, asked.step)], asked.says)
    return changed_page(studio, number, seen)


def added(step: dict[str, JsonValue]) -> dict[str, JsonValue]:
    """A step that may be added as it is written.

    Raises Refused.
    """
    if step.get("kind") in ("bring-in", "add-bit", "fuse-passes"):
        raise Refused("Sources come in as files, scans or bits of the shelf.")
    return step


@router.delete("/record/{step}")
def remove_step(number: RowNumber, step: int, seen: IfMatch, studio: AtStudio) -> FigurePage:
    """Take a step out of the record."""
    editing.remove_step(studio, number, seen, step)
    return changed_page(studio, number, seen)


@router.put("/record/{step}/switch")
def switch(number: RowNumber, step: int, switched: SwitchStep, seen: IfMatch, studio: AtStudio) -> FigurePage:
    """Switch a step of the record on or off."""
    editing.switch_step(studio, number, seen, step, switched.on)
    return changed_page(studio, number, seen)


@router.put("/record/{step}/fields")
def set_fields(number: RowNumber, step: int, asked: SetFields, seen: IfMatch, studio: AtStudio) -> FigurePage:
    """Set several fields of a step of the record in one change."""
    editing.set_fields(studio, number, seen, step, asked.values, asked.says)
    return changed_page(studio, number, seen)


@router.put("/groups")
def switch_group(number: RowNumber, switched: SwitchGroup, seen: IfMatch, studio: AtStudio) -> FigurePage:
    """Switch every step of a group on or off."""
    editing.switch_group(studio, number, seen, switched.group, switched.on)
    return changed_page(studio, number, seen)


@router.put("/groups/place")
def move_group(number: RowNumber, moved: MoveGroup, seen: IfMatch, studio: AtStudio) -> FigurePage:
    """Move every bit and form of a group."""
    editing.move_group(studio, number, seen, moved.group, moved.by)
    return changed_page(studio, number, seen)


@router.put("/record/{step}/place")
def move(number: RowNumber, step: int, moved: MoveStep, seen: IfMatch, studio: AtStudio) -> FigurePage:
    """Move a step of the record; 422 where the recipe could not be run in that order."""
    editing.move_step(studio, number, seen, step, moved.before)
    return changed_page(studio, number, seen)


@router.put("/steps")
def set_steps(number: RowNumber, asked: SetSteps, seen: IfMatch, studio: AtStudio) -> FigurePage:
    """Set fields of the last step of each kind; a step is added where there is none."""
    editing.set_steps(studio, number, seen, [(step.kind, step.values) for step in asked.steps], asked.says)
    return changed_page(studio, number, seen)


@router.put("/edition")
def set_edition(
    number: RowNumber,
    edition: Edition,
    seen: IfMatch,
    studio: AtStudio,
    sized_by: Annotated[str, Query(max_length=120, description="Which length its size means, if not the height.")] = "",
) -> FigurePage:
    """Make the edition that is looked at another: of another size, setting, form or use."""
    editing.set_edition(studio, number, seen, edition, sized_by)
    return changed_page(studio, number, seen)


@router.post("/undo")
def undo(number: RowNumber, seen: IfMatch, studio: AtStudio) -> FigurePage:
    """Take the last change back."""
    studio.undo(number, seen)
    return changed_page(studio, number, seen)


@router.post("/redo")
def redo(number: RowNumber, seen: IfMatch, studio: AtStudio) -> FigurePage:
    """Make the change again that was taken back last."""
    studio.redo(number, seen)
    return changed_page(studio, number, seen)


def changed_page(studio: Studio, number: RowNumber, seen: Seen) -> FigurePage:
    """The figure after a change, which is being checked in the edition that is looked at."""
    return _page(studio, number, seen.edition, want=True)


def _page(studio: Studio, number: RowNumber, wanted: str, want: bool = False) -> FigurePage:
    editions = studio.editions(studio.figure_and_head(number)[1])
    looked = edition_of(editions, wanted) or editions[0]
    now = studio.figure(number, looked.id)
    if want or (now.record is None and studio.build_job(now.head, looked.id) is None):
        studio.want_build(number, looked.id)
        now = studio.figure(number, looked.id)
    job = None if now.record else studio.build_job(now.head, looked.id)
    if job:
        studio.supervisor.wait_for(job)
    return figure_page(studio, now, looked, job)


def _attachment(data: bytes, kind: str, name: str) -> Response:
    # The name holds only letters, digits, dots and hyphens, so that it needs no escaping.
    return Response(data, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})
