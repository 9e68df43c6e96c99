"""The recipe of a figure as a file: with its source beside it, it makes the same release again."""

import json

from pydantic import BaseModel, ConfigDict

from ulvet.core.bench.edition import Edition
from ulvet.core.bench.edition import brought_forward as edition_brought_forward
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.recipe.reading import UnreadableRecipe, brought_forward
from ulvet.core.recipe.runner import Recipe, recipe_hash, stored_recipe_hash

__all__ = ["RecipeFile", "UnusableRecipe"]


class UnusableRecipe(ValueError):
    """A recipe file that cannot be used; its text is for the user."""


class RecipeFile(BaseModel):
    """What a release's recipe file holds. Sources are named by file and by the hash of their mesh."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    figure: str
    recipe: Recipe
    edition: Edition
    recipe_sha256: str

    @classmethod
    def of(cls, figure: str, recipe: Recipe, edition: Edition) -> "RecipeFile":
        """The file of a figure's recipe in an edition."""
        return cls(figure=figure, recipe=recipe, edition=edition, recipe_sha256=recipe_hash(recipe))

    @classmethod
    def read(cls, data: bytes, name: str) -> "RecipeFile":
        """The file in some bytes.

        Raises UnusableRecipe for what is no recipe, or one whose hash says that it was changed.
        """
        try:
            held = json.loads(data)
            as_written = stored_recipe_hash(held["recipe"])
            recipe, edition = brought_forward(held["recipe"]), edition_brought_forward(held["edition"])
            read = cls.model_validate({**held, "recipe": recipe, "edition": edition})
        except UnreadableRecipe as error:
            raise UnusableRecipe(f"{name}: {error}") from error
        except (ValueError, TypeError, KeyError, AttributeError, RecursionError) as error:
            raise UnusableRecipe(
                f"{name} is no recipe that this Ulvet can follow: take the recipe file out of a release, unchanged."
            ) from error
        if not read.sources:
            raise UnusableRecipe(f"{name} brings nothing in: a recipe begins with a source.")
        if read.recipe_sha256 != as_written:
            raise UnusableRecipe(
                f"{name} was changed since it was written, its hash does not fit: take it out of the release again."
            )
        return read

    @property
    def sources(self) -> tuple[BringIn, ...]:
        """The steps that bring something in."""
        return tuple(step for step in self.recipe.steps if isinstance(step, BringIn))

    def to_bytes(self) -> bytes:
        """Sorted, indented JSON; equal recipes give equal bytes."""
        said = json.dumps(self.model_dump(mode="json"), indent=2, sort_keys=True, ensure_ascii=False)
        return (said + "\n").encode()
