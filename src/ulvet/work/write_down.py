"""What the steps of a build found, written down in the figures that asked for the build."""

from __future__ import annotations

from typing import TYPE_CHECKING

from sqlalchemy import select
from sqlalchemy.orm import Session, selectinload

from ulvet.core.recipe.reading import UnreadableRecipe
from ulvet.core.recipe.runner import Recipe
from ulvet.core.recipe.variants import with_change
from ulvet.store.models import Figure, Revision

if TYPE_CHECKING:
    from ulvet.work.studio import Studio

__all__ = ["write_down"]


def write_down(studio: Studio, session: Session, key: str, written: Recipe) -> None:
    """Put what was written down into every head that asks for the build with this key."""
    figures = select(Figure).where(Figure.deleted.is_(None), Figure.head_id.is_not(None))
    for figure in session.scalars(figures.options(selectinload(Figure.head))):
        if figure.head is not None:
            try:
                _write_down_in(studio, figure.head, key, written)
            except UnreadableRecipe:
                continue  # a figure that cannot be read asks for nothing


def _write_down_in(studio: Studio, head: Revision, key: str, written: Recipe) -> None:
    for one in studio.editions(head):
        if studio.key_of(head, one.id) == key:
            shown = studio.recipe(head).in_variant(one.made.variant)
            after = shown.made.with_steps(
                step.model_copy(update={"on": known.on, "editions": known.editions})
                for step, known in zip(written.steps, shown.made.steps, strict=True)
            )
            head.recipe = with_change(shown, after).in_variant("").model_dump(mode="json")
