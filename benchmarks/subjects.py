"""What is measured: the same work by Ulvet and by a general library."""

from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
import trimesh

from benchmarks.measured import clock
from ulvet.core.bench import Edition, holding_for, setup_for
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.gauge.steps import Thicken
from ulvet.core.io import read_mesh
from ulvet.core.layers import find_islands, raster_layers
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.mend.steps import CloseHoles, DropFaces, OrientFaces
from ulvet.core.mesh import Mesh, bounds, moved
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.changing import with_steps_added
from ulvet.core.recipe.runner import Recipe, run_recipe
from ulvet.core.recipe.step import Context
from ulvet.core.stand import hold_figure, orient_figure
from ulvet.core.stand.screening import directions_for, screen_directions
from ulvet.store.folder import DataFolder
from ulvet.store.results import DiskMemory

__all__ = [
    "choose_ours",
    "hold_ours",
    "layers_ours",
    "layers_theirs",
    "read_ours",
    "read_theirs",
    "replay_ours",
    "screen_ours",
    "step_ours",
]


def read_ours(path: str) -> int:
    return len(read_mesh(path).vertices)


def read_theirs(path: str) -> int:
    return len(trimesh.load_mesh(path, file_type="stl").vertices)


def layers_ours(path: str) -> int:
    mesh = read_mesh(path)
    with clock():
        stack = raster_layers(mesh, 0.05, 0.034)
        find_islands(stack, 0.034, 0.02)
    return stack.count


def layers_theirs(path: str) -> int:
    mesh = trimesh.load_mesh(path, file_type="stl")
    heights = (np.arange(600) + 0.5) * 0.05
    with clock():
        cuts = mesh.section_multiplane(mesh.bounds[0], [0, 0, 1], heights)
    return sum(cut is not None for cut in cuts)


def screen_ours(path: str) -> int:
    mesh = read_mesh(path)
    ways = directions_for(mesh)
    with clock():
        screen_directions(mesh, ways, holding_for("resin").flattest, None, 0.05)
    return len(ways)


def choose_ours(path: str) -> int:
    mesh = read_mesh(path)
    with clock():
        ways = orient_figure(mesh, setup_for("lantern-6"), None)
    return len(ways.best)


def hold_ours(path: str) -> int:
    mesh = read_mesh(path)
    resting = moved(mesh, -bounds(mesh)[0] * [0, 0, 1])
    with clock():
        held = hold_figure(resting, setup_for("lantern-6"))
    return len(held.contacts)


def step_ours(path: str) -> int:
    """The last step of a recipe alone."""
    mesh = read_mesh(path)
    part = run_recipe(_mended(mesh), {mesh.hash: mesh}, Edition()).parts[0]
    context = Context({"factor": 1.0}, ("factor",))
    with clock():
        changed, _ = _thicker(0.9, part.mesh).change(part, context)
    return len(changed.mesh.faces)


def replay_ours(path: str) -> int:
    """The whole recipe again, with another last step and everything before it remembered on disk."""
    mesh = read_mesh(path)
    recipe = _mended(mesh)
    placed = run_recipe(recipe, {mesh.hash: mesh}, Edition()).parts[0].mesh
    with TemporaryDirectory() as folder:
        memory = DiskMemory(DataFolder(Path(folder)))
        run_recipe(with_steps_added(recipe, (_thicker(0.8, placed),)), {mesh.hash: mesh}, Edition(), memory)
        with clock():
            run = run_recipe(with_steps_added(recipe, (_thicker(0.9, placed),)), {mesh.hash: mesh}, Edition(), memory)
    return len(run.parts[0].mesh.faces)


def _mended(mesh: Mesh) -> Recipe:
    return Recipe(steps=(BringIn(source=mesh.hash, name="figure.stl"), DropFaces(), OrientFaces(), CloseHoles()))


def _thicker(wall: float, mesh: Mesh) -> Thicken:
    middle = bounds(mesh).mean(axis=0)
    nearest = mesh.vertices[np.linalg.norm(mesh.vertices - middle, axis=1).argmin()]
    return Thicken(wall=PrintMM(wall), places=(Anchor.at(nearest, None, ""),), reach=FigureMM(60))
