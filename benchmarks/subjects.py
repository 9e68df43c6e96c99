"""What is measured: the same work by Ulvet and by a general library."""

import time
from datetime import date
from io import BytesIO
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np
import trimesh
from PIL import Image, ImageDraw

from benchmarks.measured import clock
from ulvet.core.bench.bench import DEFAULT_BENCH, Bench
from ulvet.core.bench.bench_edits import with_value
from ulvet.core.bench.edition import Edition
from ulvet.core.bring_in.simplify import simplify_to_count, simplify_within
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.formats.read import read_mesh
from ulvet.core.gauge.balance.balance import balance_of
from ulvet.core.gauge.limbs.handling import weakest_first
from ulvet.core.gauge.record_steps import Accept
from ulvet.core.gauge.steps import Thicken
from ulvet.core.gauge.walls.thickness import measure_near, measure_thickness
from ulvet.core.geometry.crossing import crossing_faces
from ulvet.core.geometry.face_orientation import orient_faces
from ulvet.core.geometry.holes import close_holes
from ulvet.core.geometry.mesh import Mesh, bounds, scaled, translated, vertex_normals
from ulvet.core.join.joining import join_meshes
from ulvet.core.layers.islands import find_islands
from ulvet.core.layers.raster import raster_layers
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.mend.diagnosis import diagnose
from ulvet.core.mend.mend_mesh import mend_mesh
from ulvet.core.mend.steps import CloseHoles, DropFaces, OrientFaces
from ulvet.core.mend.voxel_remesh import voxel_remesh, voxel_remesh_open
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.changes import with_steps_added
from ulvet.core.recipe.runner import Recipe, run_recipe
from ulvet.core.recipe.step import Context, Part, Step
from ulvet.core.scan.fusion import fuse_points, pitch_for, without_outliers
from ulvet.core.scan.registration import register_passes
from ulvet.core.size.scales import SizeScale
from ulvet.core.sources.picture import picture_of, softened
from ulvet.core.sources.scan import Pass, Scan
from ulvet.core.stamp.pressing import StampPlacement, press_picture
from ulvet.core.stand.orientation import orient_figure
from ulvet.core.stand.screening import directions_for, screen_directions
from ulvet.core.stand.supports import support_figure
from ulvet.core.strokes.brush import Brush, StrokedMesh
from ulvet.core.strokes.steps import Stroke
from ulvet.standins.scanner import scan_object
from ulvet.store.blobs import Blobs
from ulvet.store.folder import DataFolder
from ulvet.store.results import DiskMemory
from ulvet.work.job_progress import JobProgress
from ulvet.work.jobs import JOBS

__all__ = [
    "choose_ours",
    "cross_ours",
    "diagnose_ours",
    "fuse_ours",
    "hold_ours",
    "join_ours",
    "layers_ours",
    "layers_theirs",
    "mend_ours",
    "read_ours",
    "read_theirs",
    "remake_open_ours",
    "remake_ours",
    "replay_ours",
    "screen_ours",
    "sizes_ours",
    "stamp_ours",
    "step_ours",
    "stroke_ours",
    "thin_ours",
    "walls_ours",
]

_HOLE = 0.6  # mm


def cross_ours(path: str) -> int:
    mesh = read_mesh(path)
    with clock():
        return len(crossing_faces(mesh).pairs)


def diagnose_ours(path: str) -> int:
    mesh = read_mesh(path)
    with clock():
        return sum(diagnose(mesh, 1e-6).counts.values())


def mend_ours(path: str) -> int:
    """Some two hundred holes, 1.2 mm across."""
    broken = _torn(read_mesh(path), 200, _HOLE)
    with clock():
        return mend_mesh(broken, "exact").holes_closed


def _torn(mesh: Mesh, holes: int, reach: float) -> Mesh:
    """A mesh without the faces within ``reach`` mm of some of its faces."""
    middles = mesh.vertices[mesh.faces].mean(axis=1)
    kept = np.ones(len(middles), bool)
    for spot in np.random.default_rng(1).choice(len(middles), holes, replace=False):
        kept[np.linalg.norm(middles - middles[spot], axis=1) < reach] = False
    return Mesh(mesh.vertices, mesh.faces[kept])


def remake_ours(path: str) -> int:
    mesh, _ = close_holes(orient_faces(read_mesh(path))[0])
    with clock():
        return len(voxel_remesh(mesh, 0.1).faces)


def remake_open_ours(path: str) -> int:
    """With five holes torn into it, some 2.4 mm across."""
    torn = _torn(orient_faces(read_mesh(path))[0], 5, 2 * _HOLE)
    with clock():
        return len(voxel_remesh_open(torn, 0.1).faces)


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
        screen_directions(mesh, ways, DEFAULT_BENCH.setup().supports.flattest, None, 0.05)
    return len(ways)


def choose_ours(path: str) -> int:
    mesh = read_mesh(path)
    with clock():
        ways = orient_figure(mesh, DEFAULT_BENCH.setup(printer_id="lantern-6"), None)
    return len(ways.best)


def hold_ours(path: str) -> int:
    mesh = read_mesh(path)
    resting = translated(mesh, -bounds(mesh)[0] * [0, 0, 1])
    with clock():
        held = support_figure(resting, DEFAULT_BENCH.setup(printer_id="lantern-6"))
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


def thin_ours(path: str) -> int:
    """A mesh thinned out to 100,000 triangles, its deviation measured both ways."""
    mesh = read_mesh(path)
    with clock():
        thinned = simplify_to_count(mesh, 100_000)
    if not thinned.deviation.greatest > 0:
        raise ValueError("the thinned mesh was not measured")
    return len(thinned.mesh.faces)


def thin_within_ours(path: str) -> int:
    """A mesh thinned out to where nothing moves more than 0.02 mm, measured both ways; its triangles then."""
    mesh = read_mesh(path)
    with clock():
        thinned = simplify_within(mesh, 0.02)
    if not 0 < thinned.deviation.greatest <= 0.02:
        raise ValueError("the thinned mesh lies farther off than it may")
    return len(thinned.mesh.faces)


def changes_ours(path: str) -> dict[str, float]:
    """Seconds that a figure takes to be built from nothing, and again after each sort of change, by name."""
    mesh = read_mesh(path)
    tall = PrintMM(60)
    with TemporaryDirectory() as root:
        folder = DataFolder(Path(root))
        Blobs(folder.blobs).put_mesh(mesh)

        silent = JobProgress(lambda said: None)

        def plain(bench: Bench) -> dict[str, Any]:
            return {"bench": bench.model_dump(mode="json")}

        def seconds(edition: Edition, *steps: Step, bench: Bench = DEFAULT_BENCH) -> float:
            recipe = Recipe(steps=(BringIn(source=mesh.hash, name="figure.stl"), *steps))
            asked = {
                **plain(bench),
                "recipe": recipe.model_dump(mode="json"),
                "edition": edition.model_dump(mode="json"),
            }
            began = time.perf_counter()
            JOBS["build"](folder, asked, silent)
            return time.perf_counter() - began

        first = Edition(height=tall)
        # The step of the local change is done before its build is measured, as when its remedy was tried.
        top = float(np.ptp(mesh.vertices[:, 2]))
        place = Anchor(point=(FigureMM(0.0), FigureMM(0.0), FigureMM(top)))
        local = Stroke(tool="raise", places=(place,), radius=PrintMM(2), amount=PrintMM(0.1))

        def local_seconds() -> float:
            recipe = Recipe(steps=(BringIn(source=mesh.hash, name="figure.stl"), local))
            made = {"recipe": recipe.model_dump(mode="json"), "edition": first.model_dump(mode="json"), "kind": ""}
            asked = {**made, **plain(DEFAULT_BENCH), "before": {"ml": 0.0, "triangles": 0}}
            JOBS["preview"](folder, asked, silent)
            return seconds(first, local)

        return {
            "everything from nothing": seconds(first),
            "a finding accepted": seconds(first, Accept(finding="snap-risk", reason="may bend")),
            "undo": seconds(first),
            "another material on the same printer": seconds(Edition(height=tall, setting="lantern-6-bending-clear")),
            "another height": seconds(Edition(height=PrintMM(75))),
            "another edition, of its own size and setting": seconds(
                Edition(height=PrintMM(48), setting="lantern-10-plain-ivory")
            ),
            "a value of the bench": seconds(first, bench=_dearer(DEFAULT_BENCH)),
            "a local change, after its step": local_seconds(),
        }


def _dearer(bench: Bench) -> Bench:
    """The bench with another price of the first material."""
    return with_value(bench, "materials", bench.materials[0].id, "price_per_litre", 99.0, date(2026, 1, 1))


def sizes_ours(path: str) -> int:
    """Thin places of a figure at forty sizes, once its walls are known."""
    mesh = read_mesh(path)
    walls, height = measure_thickness(mesh), FigureMM(np.ptp(bounds(mesh)[:, 2]))
    with clock():
        scale = SizeScale([(mesh, walls)], height, DEFAULT_BENCH.setup(printer_id="lantern-6"), PrintMM(height * 0.5))
        found = [scale.at(PrintMM(height * ratio)) for ratio in np.geomspace(0.5, 2, 40)]
    return sum(at.thin for at in found)


def join_ours(path: str) -> int:
    """Two bits of 300,000 triangles joined with a round of 1 mm; counts triangles."""
    mesh = read_mesh(path)
    bit = translated(scaled(mesh, 0.7), np.array([12.0, 1, 2]))
    with clock():
        done = join_meshes(mesh, bit, 1.0)
    return len(done.mesh.faces)


def stamp_ours(path: str) -> int:
    """A picture of 512 x 512 pressed into a figure; counts triangles."""
    mesh = read_mesh(path)
    image = Image.new("L", (512, 512), 255)
    pen = ImageDraw.Draw(image)
    pen.ellipse((100, 100, 400, 400), fill=0)
    pen.ellipse((180, 180, 320, 320), fill=255)
    pen.line((20, 20, 490, 60), fill=0, width=14)
    data = BytesIO()
    image.save(data, "PNG")
    top = mesh.vertices[mesh.vertices[:, 2].argmax()]
    with clock():
        picture, _ = softened(picture_of(data.getvalue()), 2.0)
        done = press_picture(mesh, picture, StampPlacement(top, np.array([0.0, 0, 1]), 12.0, 0.5))
    return len(done.mesh.faces)


def stroke_ours(path: str) -> int:
    """A hundred samples of a brush on a figure, its tree made; the vertices of one, as a rule."""
    mesh = read_mesh(path)
    normals, worked = vertex_normals(mesh), StrokedMesh(mesh)
    size = float(np.ptp(bounds(mesh), axis=0).max())
    brush = Brush("raise", size * 0.105, size * 1e-4)
    dice = np.random.default_rng(0)
    places = dice.integers(0, len(mesh.vertices), 100)
    with clock():
        touched = [len(worked.sample(brush, worked.points[place].copy(), normals[place]).vertices) for place in places]
    return int(np.median(touched))


def fuse_ours(path: str) -> int:
    """Twenty-four passes of 60,000 points brought together and fused."""
    mesh = read_mesh(path)
    scan, _ = scan_object(mesh)
    dice = np.random.default_rng(0)
    # The stand-in sees fewer points a pass: others are drawn near them, as noisy as they are.
    passes = []
    for one in scan.passes:
        more = dice.integers(0, len(one.points), 60_000)
        points = one.points[more] + dice.normal(0, scan.noise, (60_000, 3))
        passes.append(Pass(points, one.normals[more], one.angle, one.tilt))
    dense = Scan(tuple(passes), scan.table, scan.axis, scan.noise, scan.device)
    with clock():
        brought = register_passes(dense)
        pitch = pitch_for(brought.points)
        points, normals, _ = without_outliers(brought.points, brought.normals, pitch)
        fused = fuse_points(points, normals, pitch)
    return len(fused.faces)


def walls_ours(path: Path) -> int:
    """Walls at every vertex and in coarse faces; the number of samples."""
    mesh = read_mesh(path)
    with clock():
        return len(measure_thickness(mesh).walls)


def spheres_theirs(path: Path) -> int:
    """The same by the general library's spheres, at ten vertices; how many."""
    mesh = read_mesh(path)
    theirs = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)
    at = np.linspace(0, len(mesh.vertices) - 1, 10).astype(int)
    points, normals = mesh.vertices[at], theirs.vertex_normals[at]
    with clock():
        walls = trimesh.proximity.thickness(theirs, points, exterior=False, normals=normals, method="max_sphere")
    return int(np.isfinite(walls).sum())


def walls_near_ours(path: Path) -> int:
    """Walls measured again after a place was thickened, where they may have changed; the number of samples."""
    mesh = read_mesh(path)
    place = mesh.vertices[len(mesh.vertices) // 3]
    part = Part("figure", mesh)
    step = Thicken(wall=PrintMM(1.0), places=(Anchor.at(place, None, ""),), reach=FigureMM(2))
    changed = step.change(part, Context({"factor": 1.0}, ("factor",)))[0].mesh
    with clock():
        near = np.linalg.norm(changed.vertices - place, axis=1) <= 2 + step.fade
        local = measure_near(changed, near[changed.faces].any(axis=1), 2 * step.wall)
    return int(np.isfinite(local.thickness.walls).sum())


def handling_ours(path: Path) -> int:
    """What breaks first, and how a figure stands; the number of limbs."""
    mesh = read_mesh(path)
    material = DEFAULT_BENCH.setup(printer_id="lantern-6").material
    with clock():
        limbs, balance = weakest_first(mesh, material), balance_of(mesh, material.density)
    if balance is None:
        raise ValueError("the figure has no balance")
    return len(limbs)
