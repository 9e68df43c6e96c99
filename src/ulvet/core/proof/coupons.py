"""Coupons: small prints made by code, from which a setting's gaps, lengths and least walls are read. Print mm."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import manifold3d
import numpy as np

from ulvet.core.bench.setup import Setup
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.geometry.solids import Body, mesh_of
from ulvet.core.part.numbering import number_bars

__all__ = ["COUPONS", "Coupon", "CouponKind", "Feature", "coupon_of", "gaps_of"]

CouponKind = Literal["fit", "measure", "walls"]
_RESIN_GAPS, _FILAMENT_GAPS = (2, 24, 2), (5, 50, 5)
"""First and last gap of a ladder and their step, hundredths of a mm a side (bench defaults)."""
_SIZES = (3.0, 6.0)
"""Across a peg, mm (bench default: a small joint and a large one)."""
_BLOCK = 6.0
"""Height of a ladder's block, mm (bench default)."""
_PEG = 9.0
"""Length of a peg over its grip, mm (bench default: out of the block on the other side)."""
_GRIP = 4.0
"""Height of what a peg is held by, mm (bench default)."""
_GRIP_WIDER = 1.5
"""By which a grip is wider than its peg, mm a side (bench default)."""
_BESIDE = 3.0
"""Between features, mm (bench default)."""
_DIGIT = 2.0
"""Height of a sunk number, mm (bench default)."""
_SUNK = 0.4
"""Depth of a sunk number, mm (bench default)."""
_SIDES = 96
"""Of what is round, so that it is within a hundredth of a mm."""
_RESIN_WALLS, _FILAMENT_WALLS = (20, 160, 10), (40, 200, 20)
"""First and last wall and pin of a ladder and their step, hundredths of a mm (bench defaults)."""
_STANDS = 10.0
"""Height of walls and pins over their base, mm (bench default)."""


FeatureKind = Literal["round hole", "square hole", "round peg", "square peg", "length", "wall", "pin"]
_HOLES: dict[str, FeatureKind] = {"round": "round hole", "square": "square hole"}
_PEGS: dict[str, FeatureKind] = {"round": "round peg", "square": "square peg"}


@dataclass(frozen=True)
class Feature:
    """Something on a coupon that is looked at or measured: its name, as it is sunk or lettered, where its middle is
    (2,), its width, and for a hole the gap a side that it leaves its peg."""

    name: str
    kind: FeatureKind
    at: tuple[float, float]
    size: float
    gap: float = 0.0
    direction: tuple[float, float, float] = (1.0, 0.0, 0.0)
    """In which a length is measured."""
    over: Literal["outside", "inside", "step"] = "outside"


@dataclass(frozen=True)
class Coupon:
    """A coupon as it is printed, z up, and what is read from it."""

    kind: CouponKind
    mesh: Mesh
    features: tuple[Feature, ...]


def coupon_of(kind: CouponKind, setup: Setup) -> Coupon:
    """A coupon for a setting."""
    return COUPONS[kind](setup)


def gaps_of(setup: Setup) -> tuple[float, ...]:
    """Gaps of a ladder, mm a side."""
    first, last, step = _RESIN_GAPS if setup.process == "resin" else _FILAMENT_GAPS
    return tuple(hundredths / 100 for hundredths in range(first, last + 1, step))


def _fit(setup: Setup) -> Coupon:
    """A block with a hole for every gap, round and square in two sizes, and the four pegs that are tried in them."""
    gaps = gaps_of(setup)
    pitch = max(_SIZES) + 2 * max(gaps) + _BESIDE
    rows = [(shape, size) for size in _SIZES for shape in ("round", "square")]
    wide, deep = len(gaps) * pitch + _BESIDE, len(rows) * pitch + _BESIDE + _DIGIT + _BESIDE
    block = _box(wide, deep, _BLOCK)
    features: list[Feature] = []
    cut: list[Body] = []
    for column, gap in enumerate(gaps):
        x = _BESIDE + pitch * (column + 0.5) - _BESIDE / 2
        for row, (shape, size) in enumerate(rows):
            y = _BESIDE + pitch * (row + 0.5) - _BESIDE / 2
            hole = _bar(shape, size + 2 * gap, _BLOCK + 2).translate([x, y, -1])
            cut.append(hole)
            features.append(Feature(f"{round(gap * 100)}", _HOLES[shape], (x, y), size + 2 * gap, gap))
        cut += _number(round(gap * 100), (x, deep - _BESIDE - _DIGIT / 2), _BLOCK)
    whole = block - _together(cut)
    pegs = []
    for place, (shape, size) in enumerate(rows):
        at = (_BESIDE + pitch + place * 2 * pitch, deep + _BESIDE + size / 2 + _GRIP_WIDER)
        grip = _bar("square", size + 2 * _GRIP_WIDER, _GRIP).translate([*at, 0])
        pegs.append(grip + _bar(shape, size, _GRIP + _PEG).translate([*at, 0]))
        features.append(Feature(f"{shape} {size:g}", _PEGS[shape], at, size))
    return Coupon("fit", mesh_of(_together([whole, *pegs]))[0], tuple(features))


def _measure(setup: Setup) -> Coupon:
    """Stairs, holes, pins and walls on one base, lettered in the drawing that goes with them."""
    x_side, y_side, base = 60.0, 40.0, 4.0
    solid = [_box(x_side, y_side, base)]
    features = [
        Feature("A", "length", (x_side / 2, 0), x_side),
        Feature("B", "length", (x_side, y_side / 2), y_side, direction=(0, 1, 0)),
    ]
    for letter, (left, tall) in zip("CDE", ((0.0, 30.0), (8.0, 20.0), (16.0, 10.0)), strict=True):
        solid.append(_box(8.0, 12.0, tall).translate([left, 0, 0]))
        features.append(Feature(letter, "length", (left + 4, 6), tall, direction=(0, 0, 1)))
    features.append(Feature("F", "length", (12, 12), 24.0))
    features.append(Feature("G", "length", (8, 12), 8.0, over="step"))
    holes = []
    for letter, (x, size) in zip("HJ", ((34.0, 5.0), (48.0, 10.0)), strict=True):
        holes.append(_bar("round", size, base + 2).translate([x, 10, -1]))
        features.append(Feature(letter, "length", (x, 10), size, over="inside"))
    for letter, (x, size) in zip("KL", ((34.0, 3.0), (48.0, 6.0)), strict=True):
        solid.append(_bar("round", size, 12.0).translate([x, 24, 0]))
        features.append(Feature(letter, "length", (x, 24), size))
    for letter, (x, size) in zip("MNP", ((6.0, 1.0), (16.0, 2.0), (26.0, 3.0)), strict=True):
        solid.append(_box(6.0, size, 12.0).translate([x - 3, 30, 0]))
        features.append(Feature(letter, "length", (x, 30), size, direction=(0, 1, 0)))
    # A slot across, so that a length inside is had along the other axis too.
    holes.append(_box(4.0, 8.0, base + 2).translate([54, 28, -1]))
    features.append(Feature("R", "length", (56, 32), 8.0, direction=(0, 1, 0), over="inside"))
    return Coupon("measure", mesh_of(_together(solid) - _together(holes))[0], tuple(features))


def _walls(setup: Setup) -> Coupon:
    """Free-standing walls and pins, each thinner than the one before it, their widths sunk before them."""
    first, last, step = _RESIN_WALLS if setup.process == "resin" else _FILAMENT_WALLS
    widths = range(first, last + 1, step)
    pitch, base = 8.0, 2.0
    wide, deep = len(widths) * pitch + _BESIDE, 24.0
    solid, cut, features = [_box(wide, deep, base)], [], []
    for column, hundredths in enumerate(widths):
        x, size = _BESIDE / 2 + pitch * (column + 0.5), hundredths / 100
        solid.append(_box(size, 8.0, base + _STANDS).translate([x - size / 2, 14, 0]))
        solid.append(_bar("round", size, base + _STANDS).translate([x, 9, 0]))
        features += [
            Feature(f"{hundredths}", "wall", (x, 18), size),
            Feature(f"{hundredths}", "pin", (x, 9), size),
        ]
        cut += _number(hundredths, (x, 3.5), base)
    return Coupon("walls", mesh_of(_together(solid) - _together(cut))[0], tuple(features))


COUPONS: dict[CouponKind, Callable[[Setup], Coupon]] = {"fit": _fit, "measure": _measure, "walls": _walls}


def _box(x: float, y: float, z: float) -> Body:
    return manifold3d.Manifold.cube([x, y, z])


def _bar(shape: str, size: float, tall: float) -> Body:
    """An upright bar about the origin; what is round is as wide across its flats as across its corners on the mean."""
    if shape == "square":
        return _box(size, size, tall).translate([-size / 2, -size / 2, 0])
    around = size / 2 / np.sqrt(np.cos(np.pi / _SIDES))
    return manifold3d.Manifold.cylinder(tall, around, around, _SIDES)


def _number(number: int, at: tuple[float, float], top: float) -> list[Body]:
    """A number sunk into a face at a height, bar by bar."""
    bars = []
    for bar in number_bars(number, np.array(at), _DIGIT):
        outline = manifold3d.CrossSection([np.asarray(bar.rings[0])], manifold3d.FillRule.NonZero)
        bars.append(outline.extrude(_SUNK + 1).translate([0, 0, top - _SUNK]))
    return bars


def _together(bodies: Sequence[Body]) -> Body:
    return manifold3d.Manifold.batch_boolean(list(bodies), manifold3d.OpType.Add)
