"""The editions of a figure: adding, changing, moving and taking them out, and checking all of them."""

from typing import Annotated

from fastapi import APIRouter, Path
from pydantic import BaseModel, Field

from ulvet.api.asked import AtStudio, IfMatch, LookedEdition, RowNumber
from ulvet.api.figure import changed_page
from ulvet.api.views import FigurePage
from ulvet.core.bench.edition import Edition
from ulvet.core.bench.editions import EDITION_ID, EditionName, NamedEdition
from ulvet.work import editions
from ulvet.work.studio import Seen

__all__ = ["router"]

router = APIRouter(prefix="/figures/{number}/editions", tags=["editions"])

EditionId = Annotated[str, Path(pattern=EDITION_ID)]
SizedBy = Annotated[str, Field(max_length=120, description="Which length is meant; empty for the overall height.")]


class NewEdition(BaseModel):
    """An edition to add."""

    name: EditionName
    sized_by: SizedBy = ""
    made: Edition


class MoveEdition(BaseModel):
    """The edition in front of which one is to stand; null is the end."""

    before: str | None = Field(max_length=20)


@router.post("")
def add(number: RowNumber, asked: NewEdition, seen: IfMatch, studio: AtStudio) -> FigurePage:
    """Add an edition behind the one that is looked at, and look at it."""
    new = editions.add_edition(studio, number, seen, asked.name, asked.made, asked.sized_by)
    return changed_page(studio, number, Seen(seen.revision, new))


@router.post("/draft")
def add_draft(number: RowNumber, seen: IfMatch, studio: AtStudio) -> FigurePage:
    """Add a draft of the edition that is looked at, smaller and coarser, and look at it."""
    return changed_page(studio, number, Seen(seen.revision, editions.add_draft(studio, number, seen)))


@router.post("/smallest")
def add_smallest(number: RowNumber, seen: IfMatch, studio: AtStudio) -> FigurePage:
    """Add the edition that is looked at in the smallest size at which it prints, and look at it."""
    return changed_page(studio, number, Seen(seen.revision, editions.add_smallest(studio, number, seen)))


@router.put("/{wanted}")
def change(number: RowNumber, wanted: EditionId, asked: NewEdition, seen: IfMatch, studio: AtStudio) -> FigurePage:
    """Make an edition another: its name, its size, whatever it is made for."""
    changed = NamedEdition(id=wanted, name=asked.name, sized_by=asked.sized_by, made=asked.made)
    editions.change_edition(studio, number, seen, changed)
    return changed_page(studio, number, seen)


@router.put("/{wanted}/place")
def move(number: RowNumber, wanted: EditionId, asked: MoveEdition, seen: IfMatch, studio: AtStudio) -> FigurePage:
    """Move an edition in front of another, or to the end."""
    editions.move_edition(studio, number, seen, wanted, asked.before)
    return changed_page(studio, number, seen)


@router.delete("/{wanted}")
def remove(number: RowNumber, wanted: EditionId, seen: IfMatch, studio: AtStudio) -> FigurePage:
    """Take an edition out, with the steps that hold in no other."""
    editions.remove_edition(studio, number, seen, wanted)
    return changed_page(studio, number, seen)


@router.post("/checks", status_code=202)
def check_all(number: RowNumber, looked: LookedEdition, studio: AtStudio) -> FigurePage:
    """Check every edition that is not built; what somebody waits for comes first."""
    for one in studio.editions(studio.figure_and_head(number)[1]):
        studio.want_build(number, one.id)
    return changed_page(studio, number, Seen(0, looked))
