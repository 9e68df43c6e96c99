"""A simulated printer's own account of a print: what holds, what is lost, what breaks when supports come off.

It shares the raster of layers with the checks and nothing else: what is lost is decided by pull against held area layer
by layer, over columns of pixels, and what breaks by push times lever against the section modulus of slices.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from ulvet.core.geometry.mesh import Mesh, bounds, concatenated
from ulvet.core.layers.raster import LayerStack, raster_layers
from ulvet.core.progress import Progress, no_progress
from ulvet.standins.growth import PITCH, Event, Flags, Growth
from ulvet.standins.limbs import broken_limbs
from ulvet.standins.truths import Truths

__all__ = ["Outcome", "is_left", "print_of"]


@dataclass(frozen=True)
class Outcome:
    """What came out: events in their order, what is left as cells (up, deep, across) with ``sides`` in mm, from
    ``origin`` on, and how much material went."""

    events: tuple[Event, ...]
    layers: int
    left: Flags
    origin: tuple[float, float, float]
    sides: tuple[float, float, float]
    ml: float


def is_left(outcome: Outcome, at: tuple[float, float, float]) -> bool:
    """Whether something is left of a print at a place, mm on its plate."""
    up, deep, across = np.floor(np.subtract(at, outcome.origin)[::-1] / outcome.sides).astype(int)
    inside = all(0 <= k < n for k, n in zip((up, deep, across), outcome.left.shape, strict=True))
    return inside and bool(outcome.left[up, deep, across])


def print_of(
    parts: Mesh, supports: Mesh | None, layer: float, pixel: float, truths: Truths, seed: int,
    progress: Progress = no_progress,
) -> Outcome:  # fmt: skip
    """Print parts that stand on a plate, with their supports, both in mm on one plate.

    Raises TooManyLayers.
    """
    whole = parts if supports is None else concatenated(parts, supports)
    stack = raster_layers(whole, layer, pixel)
    progress(0.2, "layers drawn")
    growth = Growth(stack, truths, float(bounds(whole)[0, 2]))
    for number, solid in enumerate(_cells(stack)):
        growth.add(number, solid)
        if number % 100 == 0:
            progress(0.2 + 0.6 * number / max(stack.count, 1), f"layer {number + 1} of {stack.count}")
    left, events = growth.left(), list(growth.events)
    if stack.count and np.random.default_rng(seed).random() < truths.shifts:
        at = int(np.random.default_rng(seed + 1).integers(stack.count))
        events.append(Event(kind="layer-shift", layer=at, at=growth.place(at, 0.0, 0.0)))
    progress(0.85, "supports come off")
    events.sort(key=lambda event: event.layer)
    bare = left if supports is None else left & _occupied(parts, growth)
    broken = broken_limbs(bare, growth, truths)
    ml = float(stack.areas.sum() * layer) / 1000 * truths.material_factor
    return Outcome((*events, *broken), stack.count, bare, growth.corner, growth.voxel, ml)


def _cells(stack: LayerStack) -> Iterator[Flags]:
    """Layers as cells of about 0.1 mm: those whose middle is solid."""
    step = max(round(PITCH / stack.pixel), 1)
    rows, columns = -(-stack.shape[0] // step), -(-stack.shape[1] // step)
    for k in range(stack.count):
        runs = slice(stack.starts[k], stack.starts[k + 1])
        row, begin, end = stack.row[runs], stack.begin[runs], stack.end[runs]
        met = row % step == step // 2
        edges = np.zeros((rows, columns + 1), np.int32)
        np.add.at(edges, (row[met] // step, (begin[met] + step - 1 - step // 2) // step), 1)
        np.add.at(edges, (row[met] // step, (end[met] + step - 1 - step // 2) // step), -1)
        yield np.cumsum(edges[:, :-1], axis=1) > 0


def _occupied(parts: Mesh, growth: Growth) -> Flags:
    """Cells that the parts without their supports fill."""
    stack = raster_layers(parts, growth.stack.layer, growth.stack.pixel)
    up = round((float(bounds(parts)[0, 2]) - growth.foot) / stack.layer)
    down, aside = (round((stack.origin[k] - growth.stack.origin[k]) / growth.cell) for k in (1, 0))
    filled = np.zeros_like(growth.left())
    half, step, rise = growth.bundle // 2, growth.bundle, growth.rise
    whole = np.zeros(growth.dims, bool)
    for number, solid in enumerate(_cells(stack), up):
        if number % rise == rise // 2 and number // rise < len(filled):
            whole[:] = False
            rows, columns = (min(solid.shape[k], whole.shape[k] - (down, aside)[k]) for k in (0, 1))
            whole[down : down + rows, aside : aside + columns] = solid[:rows, :columns]
            filled[number // rise] = whole[half::step, half::step]
    return filled
