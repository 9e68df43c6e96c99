"""A release set from a file: items that lie beside it, built and packed without a studio."""

import datetime
import json
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ulvet.core.bench.bench import Bench
from ulvet.core.bench.edition import Edition, Form
from ulvet.core.build.figure_build import Build, build_figure
from ulvet.core.files.inspection import bring_in_step
from ulvet.core.files.recipe_sources import sources_beside
from ulvet.core.formats.read import read_file
from ulvet.core.recipe.in_edition import in_edition
from ulvet.core.recipe.runner import Recipe, Source
from ulvet.core.release.checked_figure import CheckedFigure
from ulvet.core.release.issue import Hold, ReadyItem, holds_of
from ulvet.core.release.recipe_file import RecipeFile
from ulvet.core.release.release_set import FileKind, Item, ReleaseSet, Supported, Tier, Word

__all__ = ["ItemInFile", "SetFile", "UnusableSet", "read_set", "ready_items"]


class UnusableSet(ValueError):
    """A file of a set that cannot be used; its text is for the user."""


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class ItemInFile(_Value):
    """An item: a recipe file of a release with its sources beside it, or a figure's file as it lies; its size, setting
    and form where they are to be others; and the tiers that hold it, all where none is named."""

    recipe: str | None = None
    file: str | None = None
    name: Annotated[str | None, Field(max_length=80)] = None
    height: Annotated[float | None, Field(gt=0, le=10_000)] = None
    setting: str | None = None
    supported: Supported = Supported.BOTH
    solid: bool = False
    """Not hollowed, whatever the recipe says; so with the next two."""
    whole: bool = False
    closed: bool = False
    """Without pockets for magnets and other bought parts."""
    mirrored: bool = False
    kinds: Annotated[tuple[FileKind, ...], Field(min_length=1)] = (FileKind.STL, FileKind.THREEMF)
    tiers: tuple[str, ...] = ()

    def form_of(self, form: Form) -> Form:
        """A form with what the item leaves out besides."""
        return form.model_copy(
            update={
                "hollow": form.hollow and not self.solid,
                "parted": form.parted and not self.whole,
                "pockets": form.pockets and not self.closed,
            }
        )


class SetFile(_Value):
    """SET.json: what goes out, as which issue, dated when. ``words`` are by the code of a finding."""

    name: Annotated[str, Field(min_length=1, max_length=80)]
    number: int = Field(default=1, ge=1)
    date: datetime.date
    tiers: Annotated[tuple[str, ...], Field(min_length=1, max_length=20)] = ("all",)
    items: Annotated[tuple[ItemInFile, ...], Field(min_length=1, max_length=200)]
    words: dict[str, Annotated[str, Field(min_length=1, max_length=400)]] = {}

    def release(self, editions: Sequence[str]) -> ReleaseSet:
        """The set it means, its items' editions being called so.

        Raises UnusableSet.
        """
        unknown = sorted({tier for item in self.items for tier in item.tiers} - set(self.tiers))
        if unknown:
            raise UnusableSet(
                f"There is no tier {unknown[0]!r} in the set: name it among its tiers; nothing was written."
            )
        items = tuple(
            Item(figure=0, edition=edition, supported=one.supported, mirrored=one.mirrored, kinds=one.kinds)
            for one, edition in zip(self.items, editions, strict=True)
        )
        tiers = tuple(
            Tier(name=name, items=tuple(at for at, one in enumerate(self.items) if not one.tiers or name in one.tiers))
            for name in self.tiers
        )
        words = tuple(Word(code=code, says=says) for code, says in self.words.items())
        try:
            return ReleaseSet(name=self.name, items=items, tiers=tiers, words=words)
        except ValidationError as error:
            said = error.errors()[0]["msg"].removeprefix("Value error, ")
            raise UnusableSet(f"The set contradicts itself: {said}; nothing was written.") from error


def read_set(path: Path) -> SetFile:
    """The set in a file.

    Raises UnusableSet.
    """
    try:
        return SetFile.model_validate_json(path.read_bytes())
    except OSError as error:
        raise UnusableSet(f"{path} could not be read ({error.strerror}): give a file that is there.") from error
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(map(str, first["loc"])) or "the file"
        raise UnusableSet(f"{path.name} is no set: {where}: {first['msg']}. Nothing was written.") from error


def ready_items(
    asked: SetFile,
    folder: Path,
    bench: Bench,
    built: Callable[[str], None],
) -> tuple[ReleaseSet, tuple[ReadyItem, ...], tuple[Hold, ...]]:
    """The set, its items built and checked, and what keeps them from going out. ``built`` hears of each item.

    Raises UnusableSet, UnusableRecipe, UnusablePicture, UnreadableFile, UnknownOnBench.
    """
    builds: dict[str, Build] = {}
    told: list[tuple[ItemInFile, str, str, Build]] = []
    for item in asked.items:
        name, recipe, edition, meshes = _named(item, folder)
        made = edition.model_copy(
            update={
                "setting": bench.setup(item.setting or edition.setting).setting.id,
                "form": item.form_of(edition.form),
                **({"height": item.height, "factor": None} if item.height else {}),
            }
        )
        recipe = in_edition(recipe, made, "")
        key = json.dumps([recipe.model_dump(mode="json"), made.model_dump(mode="json")])
        if key not in builds:
            builds[key] = build_figure(recipe, made, meshes, of_studio=item.recipe is not None, bench=bench)
        told.append((item, item.name or name, f"{list(builds).index(key) + 1}", builds[key]))
        built(name)
    release = asked.release([edition for _, _, edition, _ in told])
    ready = tuple(
        ReadyItem(one, name, edition, CheckedFigure.of(name, build))
        for one, (_, name, edition, build) in zip(release.items, told, strict=True)
    )
    holds = [
        hold for at, (*_, build) in enumerate(told) for hold in holds_of(release, at, build.findings, len(build.parts))
    ]
    return release, ready, tuple(holds)


def _named(item: ItemInFile, folder: Path) -> tuple[str, Recipe, Edition, Mapping[str, Source]]:
    if (item.recipe is None) == (item.file is None):
        raise UnusableSet("An item names a recipe or a file, one of both: nothing was written.")
    if item.recipe is not None:
        path = folder / item.recipe
        try:
            held = RecipeFile.read(path.read_bytes(), path.name)
        except OSError as error:
            raise UnusableSet(
                f"{item.recipe} is gone or cannot be read ({error.strerror}): nothing was written."
            ) from error
        return held.figure, held.recipe, held.edition, sources_beside(held, path.parent)
    path = folder / str(item.file)
    if not path.is_file():
        raise UnusableSet(f"{item.file} is not there: put it beside the set; nothing was written.")
    read = read_file(path)
    return path.stem, Recipe(steps=(bring_in_step(read, path.name),)), Edition(), read.meshes
