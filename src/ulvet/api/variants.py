"""Variants of a figure: what differs from it in sources or single steps."""

from typing import Annotated

from fastapi import APIRouter, Depends, Query
from pydantic import BaseModel, Field

from ulvet.api.asked import AtStudio, IfMatch, RowNumber, look_at
from ulvet.api.figure import changed_page
from ulvet.api.views import FigurePage
from ulvet.core.recipe.runner import VariantName
from ulvet.work.variants import add_variant, remove_variant, show_variant

__all__ = ["router"]

router = APIRouter(prefix="/figures/{number}/variants", tags=["figure"], dependencies=[Depends(look_at)])


class NewVariant(BaseModel):
    """A variant to add."""

    name: VariantName


class ShownVariant(BaseModel):
    """The variant to show; "" is the figure itself."""

    name: str = Field(max_length=60)


@router.post("")
def add(number: RowNumber, asked: NewVariant, seen: IfMatch, studio: AtStudio) -> FigurePage:
    """Add a variant and show it. What is changed while it is shown is of it alone."""
    add_variant(studio, number, seen, asked.name)
    return changed_page(studio, number, seen)


@router.put("")
def show(number: RowNumber, asked: ShownVariant, seen: IfMatch, studio: AtStudio) -> FigurePage:
    """Show another variant, or the figure itself."""
    show_variant(studio, number, seen, asked.name)
    return changed_page(studio, number, seen)


@router.delete("")
def remove(
    number: RowNumber, name: Annotated[str, Query(max_length=60)], seen: IfMatch, studio: AtStudio
) -> FigurePage:
    """Take a variant out, with what only it has."""
    remove_variant(studio, number, seen, name)
    return changed_page(studio, number, seen)
