"""Release: print-ready files with everything a stranger needs to trust them."""

from ulvet.core.release.cautions import cautions_for
from ulvet.core.release.checked import Checked
from ulvet.core.release.package import ReleaseFile, release_files, safe_name, zip_bytes
from ulvet.core.release.recipe_file import RecipeFile, UnusableRecipe

__all__ = [
    "Checked",
    "RecipeFile",
    "ReleaseFile",
    "UnusableRecipe",
    "cautions_for",
    "release_files",
    "safe_name",
    "zip_bytes",
]
