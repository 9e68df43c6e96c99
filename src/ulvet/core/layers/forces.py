"""How hard layers are torn off the film, or dragged at by the nozzle, and whether the plate holds against it."""

from dataclasses import dataclass

import numpy as np

from ulvet.core.bench.support_limits import SupportLimits
from ulvet.core.geometry.mesh import Floats
from ulvet.core.layers.raster import LayerStack

__all__ = ["Footprint", "Jump", "footprint_of", "jumps_of", "layer_middles", "strain_on_plate"]

_LEAST_JUMP = 60.0
"""Mm² by which a layer is larger than the one before from which on it is a jump (bench default)."""
_JUMPS_BY = 0.4
"""Share of the layer before it that a jump adds at least (bench default)."""


@dataclass(frozen=True)
class Jump:
    """A layer that is much larger than the one before it, and by how much, mm²."""

    layer: int
    by: float


@dataclass(frozen=True)
class Footprint:
    """What lies on the plate: area (mm²), middle (2,), its second moments about that (2, 2) mm⁴, and how far it
    reaches from there along each axis, (2,) mm."""

    area: float
    middle: Floats
    moments: Floats
    reach: Floats


def jumps_of(stack: LayerStack) -> list[Jump]:
    """Layers that are at once much larger than the one before them, the largest jump first. The first layer is none."""
    areas = stack.areas
    by = np.diff(areas)
    found = np.flatnonzero((by >= _LEAST_JUMP) & (by >= _JUMPS_BY * areas[:-1]))
    return [Jump(int(k) + 1, float(by[k])) for k in found[np.argsort(-by[found], kind="stable")]]


def layer_middles(stack: LayerStack) -> Floats:
    """The middle of the solid of every layer, (layers, 2) mm; 0 where there is none."""
    length = (stack.end - stack.begin).astype(float)
    layer = np.repeat(np.arange(stack.count), np.diff(stack.starts))
    x = stack.origin[0] + (stack.begin + stack.end) / 2 * stack.pixel
    y = stack.origin[1] + (stack.row + 0.5) * stack.pixel
    whole = np.maximum(np.bincount(layer, length, minlength=stack.count), 1e-9)
    sums = [np.bincount(layer, length * value, minlength=stack.count) / whole for value in (x, y)]
    return np.stack(sums, axis=1)


def footprint_of(stack: LayerStack) -> Footprint | None:
    """The first layer as what holds a print to its plate; None where it is empty."""
    runs = slice(int(stack.starts[0]), int(stack.starts[1])) if stack.count else slice(0, 0)
    begin, end, row = stack.begin[runs], stack.end[runs], stack.row[runs]
    if not len(row):
        return None
    pixel = stack.pixel
    length = (end - begin) * pixel
    area = float(length.sum() * pixel)
    x = stack.origin[0] + (begin + end) / 2 * pixel
    y = stack.origin[1] + (row + 0.5) * pixel
    middle = np.array([(length * x).sum(), (length * y).sum()]) * pixel / area
    dx, dy = x - middle[0], y - middle[1]
    xx = float((length * pixel * (dx**2 + length**2 / 12)).sum())
    yy = float((length * pixel * (dy**2 + pixel**2 / 12)).sum())
    xy = float((length * pixel * dx * dy).sum())
    reach = np.array([(np.abs(dx) + length / 2).max(), np.abs(dy).max() + pixel / 2])
    return Footprint(area, middle, np.array([[xx, xy], [xy, yy]]), reach)


def strain_on_plate(stack: LayerStack, foot: Footprint, holding: SupportLimits, resin: bool) -> Floats:
    """Greatest pull on the footprint while each layer is made, (layers,) N/mm².

    In resin a layer is torn off straight up at its middle: its pull over the footprint's area, and what its lever about
    the footprint's middle adds at the rim. In filament the nozzle drags sideways at the layer's height, whichever way
    the footprint is weakest. Both by the beam on its section, as for a stiff figure.
    """
    pulls = stack.areas * holding.pull
    if not resin:
        height = (np.arange(stack.count) + 0.5) * stack.layer
        weakest = float((np.diag(foot.moments) / foot.reach).min())
        return np.asarray(pulls * height / max(weakest, 1e-9))
    lever = layer_middles(stack) - foot.middle
    bending = np.abs(lever) * foot.reach / np.maximum(np.diag(foot.moments), 1e-9)
    return np.asarray(pulls * (1 / foot.area + bending.sum(axis=1)))
