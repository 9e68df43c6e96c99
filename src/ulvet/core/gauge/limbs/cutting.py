"""Cutting a limb off, drilling a hole for its replacement, and putting a figure on a base, all exactly."""

from dataclasses import dataclass

import numpy as np

from ulvet.core.gauge.limbs.limbs import Limb, limbs_of
from ulvet.core.geometry.mesh import Mesh, Points, bounds
from ulvet.core.geometry.plane_cut import cut_at_plane, hanging_together, vertex_free_level
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.rods import ROD_SIDES, rod_body, tangents_of
from ulvet.core.geometry.solids import Body, CannotJoin, mesh_of, solids_of
from ulvet.core.geometry.topology import edges_of, face_shells

__all__ = ["CannotCut", "Cut", "blunted", "drilled", "limb_near", "on_base", "without_limb"]

_WALL_ABOUT = 0.6
"""Print mm of wall left around a hole and below it (bench default)."""
_LOOKS = 8
"""Depths of a hole that are tried."""
_LEAST_DEPTH = 1.5
"""A hole is at least so many times as deep as it is wide, or a wire does not hold in it (bench default)."""
_CLEAR = 0.02
"""A cut may be moved by so much of a limb's thickness to pass between vertices (bench default)."""
_SUNK = 0.4
"""Print mm by which a base reaches into what stands on it, so that the two are one (bench default)."""


class CannotCut(Exception):
    """What cannot be cut, drilled or grown; the message says why and what to do."""


@dataclass(frozen=True)
class Cut:
    """A figure after a limb was taken off, mm: where (3,), the way it went on (3,), how long and how thick it was."""

    mesh: Mesh
    point: Points
    way: Points
    length: float
    thick: float


def limb_near(mesh: Mesh, point: Points) -> Limb:
    """The limb whose middle line passes nearest to a point (3,), print mm. Raises CannotCut where there is none."""
    limbs = limbs_of(mesh)
    if not limbs:
        raise CannotCut("Nothing sticks out there that could be taken off")
    away = [min(float(np.linalg.norm(one.middle - point)) - one.across / 2 for one in limb.sections) for limb in limbs]
    return limbs[int(np.argmin(away))]


def without_limb(mesh: Mesh, limb: Limb) -> Cut:
    """A closed figure without a limb, cut square where it is as thick as in its middle third and nearest to its root,
    print mm. Raises CannotCut."""
    thick = np.array([section.across for section in limb.sections])
    usual = float(np.median(thick))
    at = int(np.flatnonzero(thick <= 1.3 * usual)[0])
    return _cut_off(mesh, limb, at)


def blunted(mesh: Mesh, limb: Limb, least: float) -> Cut:
    """A closed figure with a limb cut off square where, from the tip on, it first is ``least`` thick, print mm.

    Raises CannotCut where it is so thick nowhere, or everywhere.
    """
    thick = np.array([min(section.across, section.along) for section in limb.sections])
    enough = np.flatnonzero(thick >= least)
    if not len(enough):
        raise CannotCut("It is nowhere as thick as that: thicken it or replace it instead")
    if enough[-1] == len(thick) - 1:
        raise CannotCut("Its tip is as thick as that already")
    return _cut_off(mesh, limb, int(enough[-1]))


def drilled(mesh: Mesh, at: Points, way: Points, diameter: float, depth: float) -> tuple[Mesh, float]:
    """A hole against ``way`` (3,) from ``at`` (3,), at most ``depth`` mm deep, and how deep it became, print mm.

    As deep as a wall of 0.6 mm is left around it and below. Raises CannotCut where that is under one and a half times
    its diameter.
    """
    room = _room(mesh, at, -way, diameter, depth)
    if room < _LEAST_DEPTH * diameter:
        raise CannotCut(
            f"There is room for a hole of {room:.1f} mm only, and a wire of {diameter:.2f} mm wants "
            f"{_LEAST_DEPTH * diameter:.1f}: take a thinner wire, or thicken what it would stand in"
        )
    above = diameter
    tool = rod_body(at + way * above, -way, diameter / 2, room + above)
    return mesh_of(_body(mesh) - tool)[0], room


def on_base(mesh: Mesh, diameter: float, thickness: float) -> Mesh:
    """A closed figure on a round base under the middle of its footprint, print mm. Raises CannotCut."""
    low, _ = bounds(mesh)
    foot = mesh.vertices[mesh.vertices[:, 2] <= low[2] + _SUNK]
    middle = (foot.min(axis=0) + foot.max(axis=0)) / 2
    at = np.array([middle[0], middle[1], low[2] + _SUNK])
    whole = _body(mesh) + rod_body(at, np.array([0.0, 0, -1]), diameter / 2, thickness + _SUNK)
    return mesh_of(whole)[0]


def _cut_off(mesh: Mesh, limb: Limb, at: int) -> Cut:
    section = limb.sections[at]
    body = _body(mesh)
    whole, _ = mesh_of(body)
    normal = section.normal
    # Toward the tip, so that nothing of what the limb stands on goes along.
    heights = (whole.vertices - section.middle) @ normal
    shift = vertex_free_level(heights, _CLEAR * section.across)
    middle = section.middle + normal * shift
    beyond, _ = body.split_by_plane(tuple(normal), float(middle @ normal))
    pieces = [np.array(piece.to_mesh64().vert_properties)[:, :3] for piece in beyond.decompose()]
    if not pieces:
        raise CannotCut("Nothing lies beyond that place")
    away = [float(np.linalg.norm(piece - middle, axis=1).min()) for piece in pieces]
    height = heights - shift
    nearest = pieces[int(np.argmin(away))]
    own, of_piece = (np.ascontiguousarray(points + 0.0).view("V24").ravel() for points in (whole.vertices, nearest))
    off = hanging_together(whole, height > 0, np.isin(own, of_piece))
    cut = cut_at_plane(whole, height, off, middle, normal)
    if cut is None:
        raise CannotCut("The figure touches itself where it would be cut: mend it first")
    left = cut.rest
    if _shells(left) > _shells(whole):
        raise CannotCut("The figure would fall apart if it were cut there: thicken it instead")
    return Cut(left, middle, normal, float(limb.levers[at]) - shift, section.across)


def _shells(mesh: Mesh) -> int:
    return face_shells(mesh, edges_of(mesh))[0]


def _room(mesh: Mesh, at: Points, inward: Points, diameter: float, depth: float) -> float:
    """How deep a hole may be before a wall gets too thin."""
    rays = Rays(mesh)
    u, v = (axis[0] for axis in tangents_of(inward[None]))
    start = at + inward * rays.grain * 2
    ahead, _ = rays.first(start[None], inward[None])
    deepest = min(depth, float(ahead[0]) - _WALL_ABOUT)
    if deepest <= 0:
        return 0.0
    angle = np.arange(ROD_SIDES // 2) * 4 * np.pi / ROD_SIDES
    ways = np.cos(angle)[:, None] * u + np.sin(angle)[:, None] * v
    for step in np.linspace(deepest / _LOOKS, deepest, _LOOKS):
        origins = np.repeat((at + inward * step)[None], len(ways), axis=0)
        if rays.first(origins, ways)[0].min() < diameter / 2 + _WALL_ABOUT:
            return float(step - deepest / _LOOKS)
    return float(deepest)


def _body(mesh: Mesh) -> Body:
    try:
        return solids_of(mesh)[0].body
    except CannotJoin as open_one:
        raise CannotCut("The figure does not close: mend it first") from open_one
