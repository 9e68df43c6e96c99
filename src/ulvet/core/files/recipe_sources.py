"""What a recipe file brings in, from files that lie beside it."""

import hashlib
from pathlib import Path

from ulvet.core.bits.steps import AddBit
from ulvet.core.formats.read import read_file
from ulvet.core.recipe.runner import Source
from ulvet.core.release.recipe_file import RecipeFile, UnusableRecipe
from ulvet.core.sources.picture import picture_of
from ulvet.core.stamp.steps import Stamp

__all__ = ["sources_beside"]


def sources_beside(asked: RecipeFile, folder: Path) -> dict[str, Source]:
    """What a recipe brings in, read from files of the same names.

    Raises UnreadableFile, UnusableRecipe and UnusablePicture.
    """
    bits = [step.name for step in asked.recipe.steps if isinstance(step, AddBit)]
    if bits:
        raise UnusableRecipe(
            f"This recipe uses {bits[0]} from the studio's shelf of bits, which lies in no file: release it there."
        )
    meshes: dict[str, Source] = {}
    for step in asked.sources:
        there = read_file(folder / Path(step.name).name).held
        if not set(step.meshes) <= set(there):
            raise UnusableRecipe(
                f"{step.name} in {folder} is not the file this recipe was made for: bring the right one, unchanged."
            )
        meshes.update(there)
    pictures = {step.picture: step.name for step in asked.recipe.steps if isinstance(step, Stamp) and step.picture}
    files = [path for path in folder.iterdir() if path.is_file()] if pictures else []
    beside = {hashlib.sha256(path.read_bytes()).hexdigest(): path for path in files}
    for picture, name in pictures.items():
        if picture not in beside:
            raise UnusableRecipe(f"The picture of {name} is not in {folder}: put it there unchanged, under any name.")
        meshes[picture] = picture_of(beside[picture].read_bytes())
    return meshes
