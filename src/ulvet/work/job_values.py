"""What jobs are given, read from plain values and from the folder."""

from typing import Any

from ulvet.core.bench.bench import Bench
from ulvet.core.bench.edition import Edition
from ulvet.core.bits.steps import AddBit
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.recipe.runner import Recipe, Source
from ulvet.core.scan.steps import FusePasses
from ulvet.core.sources.picture import picture_of
from ulvet.core.sources.scan import Scan
from ulvet.core.stamp.steps import Stamp
from ulvet.store.blobs import Blobs
from ulvet.store.folder import DataFolder

__all__ = ["Values", "asked", "sources_of"]

Values = dict[str, Any]


def asked(values: Values) -> tuple[Recipe, Edition, Bench]:
    """The recipe, the edition and the bench that a job was given."""
    recipe, edition = Recipe.model_validate(values["recipe"]), Edition.model_validate(values["edition"])
    return recipe, edition, Bench.model_validate(values["bench"])


def sources_of(folder: DataFolder, recipe: Recipe) -> dict[str, Source]:
    """What the steps of a recipe read, by its hash."""
    blobs = Blobs(folder.blobs)
    found: dict[str, Source] = {}
    for step in recipe.steps:
        if isinstance(step, BringIn):
            found.update({mesh: blobs.mesh(mesh) for mesh in step.meshes})
        elif isinstance(step, AddBit):
            found[step.source] = blobs.mesh(step.source)
        elif isinstance(step, FusePasses):
            found[step.scan] = Scan.from_bytes(blobs.read(step.scan))
        elif isinstance(step, Stamp) and step.picture is not None:
            found[step.picture] = picture_of(bytes(blobs.read(step.picture)))
    return found
