"""What is measured of Layers' findings, of plates and of days."""

from datetime import datetime, timedelta

import numpy as np

from benchmarks.measured import clock
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.days.plan import HandsHours, Machine, Plan, Task
from ulvet.core.days.scheduling import plan_days
from ulvet.core.formats.read import read_mesh
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.layers.fine_findings import fine_layers_of
from ulvet.core.layers.force_findings import force_findings
from ulvet.core.layers.raster import raster_layers
from ulvet.core.plates.packing import Room, pack
from ulvet.core.plates.shadow import Shadow
from ulvet.core.recipe.step import Part
from ulvet.core.stand.plate import plate_findings

__all__ = ["days_ours", "layer_findings_ours", "pack_ours"]

_SHAPES, _COPIES = 20, 3
_PRINTS = 80


def layer_findings_ours(path: str) -> int:
    """Jumps, pull, the plate's hold, lines and gaps of a figure's layers; how many layers."""
    setup = DEFAULT_BENCH.setup(printer_id="lantern-6")
    part = Part("figure", read_mesh(path))
    stack = raster_layers(part.stance.in_print(part.mesh, 1.0), setup.layer, setup.pixel)
    with clock():
        force_findings(part, stack, 1.0, setup)
        plate_findings(part, stack, 1.0, setup)
        fine_layers_of(part, 1.0, setup)
    return stack.count


def pack_ours(path: str) -> int:
    """Sixty parts of twenty shapes, slices of a figure's shadow, on plates of Lantern 6; how many plates."""
    mesh = read_mesh(path)
    rng = np.random.default_rng(1)
    shapes = [_shadow(mesh, rng) for _ in range(_SHAPES)]
    with clock():
        plates, unfit = pack(shapes * _COPIES, Room(wide=130, deep=72, tall=165, margin=2.0))
    if unfit:
        raise ValueError("a part found no plate")
    return len(plates)


def days_ours(path: str) -> int:
    """Eighty prints on four printers, each washed, cured and cleaned up; minutes over the bound, in percent of it."""
    rng = np.random.default_rng(2)
    printers = [f"printer {k}" for k in range(4)]
    tasks: list[Task] = []
    for k in range(_PRINTS):
        tasks += [
            Task(id=f"print {k}", machines=tuple(printers), minutes=float(rng.integers(120, 900)), hands_before=10,
                 hands_after=12),
            Task(id=f"wash {k}", machines=("tub",), minutes=4, hands_before=6, after=(f"print {k}",)),
            Task(id=f"cure {k}", machines=("lamp",), minutes=6, after=(f"wash {k}",), wait=30),
            Task(id=f"clean {k}", hands_before=float(rng.integers(5, 40)), after=(f"cure {k}",)),
        ]  # fmt: skip
    hours = tuple(HandsHours(weekday=day, begin=9, end=18) for day in range(6))
    machines = tuple(Machine(id=one) for one in (*printers, "tub", "lamp"))
    plan = Plan(begins=datetime(2026, 12, 7, 8), machines=machines, hours=hours, tasks=tuple(tasks))
    with clock():
        schedule = plan_days(plan)
    return round(100 * schedule.minutes_over_bound * timedelta(minutes=1) / (schedule.bound - plan.begins))


def _shadow(mesh: Mesh, rng: np.random.Generator) -> Shadow:
    """The shadow of a figure turned some way and made as large as parts of a kit are."""
    way = rng.normal(size=3)
    turned = mesh.vertices - mesh.vertices.mean(axis=0)
    across = np.cross(way, [0.3, 0.5, 0.7])
    axes = np.stack([across / np.linalg.norm(across), np.cross(way, across) / np.linalg.norm(np.cross(way, across))])
    flat = turned @ axes.T
    flat *= rng.uniform(18, 45) / np.ptp(flat, axis=0).max()
    cells = np.floor((flat - flat.min(axis=0)) / 0.1).astype(int)
    solid = np.zeros(cells.max(axis=0)[::-1] + 1, bool)
    solid[cells[:, 1], cells[:, 0]] = True
    return Shadow(solid, 0.1, np.zeros(2), float(rng.uniform(10, 70)))
