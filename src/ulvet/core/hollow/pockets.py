"""Pockets for what goes inside: drilled to size, and how much wall they leave."""

from dataclasses import dataclass
from typing import Literal

import manifold3d
import numpy as np

from ulvet.core.geometry.mesh import Mesh, Points
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.rods import ROD_SIDES, rod_body, tangents_of
from ulvet.core.geometry.solids import Body, CannotJoin, mesh_of, solids_of

__all__ = ["CannotPocket", "PocketCut", "Pole", "cut_pocket"]

Pole = Literal["north", "south"]
_LOOKS = 6
"""Depths at which the wall beside a pocket is measured."""
_MARK_DEEP, _MARK_WIDE, _MARK_LONG = 0.3, 0.5, 0.7
"""Depth and width of a sunk mark, mm, and its length as a share of the pocket's width: seen by eye, lost under no paint
(bench defaults)."""


class CannotPocket(Exception):
    """A pocket that cannot be cut; the message says why and what to do."""


@dataclass(frozen=True)
class PocketCut:
    """A part with a pocket, mm, and the wall left beside and below it."""

    mesh: Mesh
    beside: float
    below: float


def cut_pocket(
    mesh: Mesh, point: Points, way: Points, diameter: float, depth: float, pole: Pole | None = None
) -> PocketCut:
    """A round pocket from a ``point`` (3,) of the skin inward against ``way`` (3,), print mm.

    ``pole`` sinks a mark into its floor: a cross where the north pole looks outward, a bar where the south pole does.
    Raises CannotPocket where it would break through.
    """
    try:
        (solid,) = solids_of(mesh)
    except CannotJoin as refusal:
        raise CannotPocket("The part does not close: mend it first") from refusal
    deepest = depth + (_MARK_DEEP if pole else 0.0)
    beside, below = _walls(Rays(mesh), point, way, diameter, deepest)
    if beside <= 0 or below <= 0:
        raise CannotPocket(
            f"A pocket {diameter:.1f} mm wide and {depth:.1f} mm deep would break through there: choose a thicker "
            "place, or something smaller"
        )
    tool = rod_body(point + way * diameter, -way, diameter / 2, diameter + depth)
    if pole:
        tool += _mark(point - way * depth, way, diameter, pole)
    return PocketCut(mesh_of(solid.body - tool)[0], beside, below)


def _walls(rays: Rays, point: Points, way: Points, diameter: float, depth: float) -> tuple[float, float]:
    """The least wall beside and below a pocket, mm; none where it begins outside."""
    u, v = (axis[0] for axis in tangents_of(way[None]))
    angle = np.arange(ROD_SIDES // 2) * 4 * np.pi / ROD_SIDES
    out = np.cos(angle)[:, None] * u + np.sin(angle)[:, None] * v
    least = np.inf
    # Near its mouth a pocket may lie beside a slope, which is no wall.
    for share in np.linspace(0.3, 1.0, _LOOKS):
        start = np.repeat((point - way * depth * share)[None], len(out), axis=0)
        least = min(least, float(rays.first(start, out)[0].min()) - diameter / 2)
    floor = point - way * depth + np.vstack([np.zeros(3), out * diameter / 2])
    inside = rays.first(point - way * rays.grain * 2 + np.zeros((1, 3)), -way[None])[0][0]
    below = float(rays.first(floor, np.broadcast_to(-way, floor.shape))[0].min())
    return (least, min(below, float(inside) - depth)) if np.isfinite(inside) else (0.0, 0.0)


def _mark(at: Points, way: Points, diameter: float, pole: Pole) -> Body:
    """Bars across the floor of a pocket, sunk into it."""
    u, v = (axis[0] for axis in tangents_of(way[None]))
    long = _MARK_LONG * diameter
    bars = []
    for across, along in ((u, v), (v, u))[: 2 if pole == "north" else 1]:
        third = np.cross(along, across)
        turn = np.stack([along, across, third], axis=1)
        box = manifold3d.Manifold.cube((long, _MARK_WIDE, 2 * _MARK_DEEP), center=True)
        bars.append(box.transform(np.hstack([turn, at[:, None]])))
    return manifold3d.Manifold.batch_boolean(bars, manifold3d.OpType.Add)
