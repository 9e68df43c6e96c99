"""Cleaning a scan up from end to end, as its steps do it one by one."""

from ulvet.core.bench.edition import Edition
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.lengths import FigureMM
from ulvet.core.mend.steps import CloseHoles, DropFaces, OrientFaces
from ulvet.core.progress import Progress, no_progress
from ulvet.core.recipe.runner import Recipe, Run, run_recipe
from ulvet.core.recipe.step import Step
from ulvet.core.scan.cleanup_steps import DropSpecks, Remesh, SmoothRims
from ulvet.core.scan.steps import TakeOffMount, scan_steps
from ulvet.core.sources.scan import Scan

__all__ = ["clean_scan"]


def clean_scan(
    source: Mesh, scan: Scan, mount: float | None = None, keep_mount: bool = False, progress: Progress = no_progress
) -> tuple[Recipe, Run]:
    """Every step a scan takes to a closed, even mesh in figure mm, and what they made.

    ``mount`` is the height (mm) to take it off at, found where it is not given.
    """
    off: tuple[Step, ...] = () if keep_mount else (TakeOffMount(height=None if mount is None else FigureMM(mount)),)
    recipe = Recipe(
        steps=(
            BringIn(source=source.hash, name="scan"),
            *scan_steps(scan, source),
            *off,
            DropSpecks(),
            SmoothRims(),
            CloseHoles(),
            DropFaces(),
            OrientFaces(),
            Remesh(),
        )
    )
    return recipe, run_recipe(recipe, {source.hash: source, scan.hash: scan}, Edition(), progress=progress)
