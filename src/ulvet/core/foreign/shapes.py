"""The meshes of foreign objects, and the lengths on them that a figure can be sized by."""

from collections.abc import Mapping

import numpy as np

from ulvet.core.foreign.steps import Block, Disc, Foreign, FromMesh, Rod, Round, ScrewBoss
from ulvet.core.geometry.mesh import Mesh, Points, bounds
from ulvet.core.geometry.placement import placement_of
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.stance import turn_to

__all__ = ["foreign_mesh", "yardsticks"]

_SIDES = 64
"""Sides of what is round beside the figure; it is only drawn."""


def foreign_mesh(step: Foreign, factor: float, sources: Mapping[str, Mesh]) -> Mesh:
    """The object as it stands beside the figure, in figure mm, so that it prints at its own size.

    Raises KeyError for a mesh that is not among the sources.
    """
    own = _own_mesh(step, sources)
    turn = turn_to(np.array(step.way)).T
    return Mesh(own.vertices @ turn.T / factor + np.array(step.at, float), own.faces)


def yardsticks(step: Foreign, sources: Mapping[str, Mesh]) -> dict[str, PrintMM]:
    """Its lengths by name, mm."""
    if isinstance(step.thing, FromMesh):
        sides = np.ptp(bounds(_own_mesh(step, sources)), axis=0)
        return dict(zip(("wide", "deep", "tall"), map(PrintMM, sides), strict=True))
    given = step.thing.model_dump(exclude={"shape"})
    return {name.replace("_", " "): PrintMM(value) for name, value in given.items() if value is not None}


def _own_mesh(step: Foreign, sources: Mapping[str, Mesh]) -> Mesh:
    """At its own size in mm, upright, the middle of its underside at the origin."""
    thing = step.thing
    if isinstance(thing, FromMesh):
        mesh = sources[thing.source]
        return placement_of(mesh, thing.unit, thing.up).placed(mesh)
    if isinstance(thing, Block):
        w, d, t = thing.wide / 2, thing.deep / 2, thing.tall
        return _turned([(-w, -d), (w, -d), (w, d), (-w, d)], t)
    if isinstance(thing, ScrewBoss):
        return _ring(thing.diameter / 2, thing.hole / 2, thing.length)
    if isinstance(thing, Disc):
        return _turned(_circle(thing.diameter / 2), thing.thickness)
    if isinstance(thing, Rod):
        return _turned(_circle(thing.diameter / 2), thing.length)
    assert isinstance(thing, Round)
    above = (thing.diameter_above or thing.diameter) / thing.diameter
    return _turned(_circle(thing.diameter / 2), thing.length, above)


def _circle(radius: float) -> list[tuple[float, float]]:
    turn = np.arange(_SIDES) * 2 * np.pi / _SIDES
    return [(float(radius * np.cos(a)), float(radius * np.sin(a))) for a in turn]


def _turned(outline: list[tuple[float, float]], tall: float, above: float = 1.0) -> Mesh:
    """A convex outline, anticlockwise, drawn up; its top grown by ``above``."""
    n = len(outline)
    foot = np.array([(x, y, 0.0) for x, y in outline])
    top = foot * [above, above, 0] + [0, 0, tall]
    here = np.arange(n)
    onward = np.roll(here, -1)
    middle = np.full(n, 2 * n)
    faces = [
        np.stack([here, onward, onward + n], 1),
        np.stack([here, onward + n, here + n], 1),
        np.stack([onward, here, middle], 1),
        np.stack([here + n, onward + n, middle + 1], 1),
    ]
    points: Points = np.concatenate([foot, top, [[0, 0, 0], [0, 0, tall]]])
    return Mesh(points, np.concatenate(faces).astype(np.int32))


def _ring(outer: float, inner: float, tall: float) -> Mesh:
    n = _SIDES
    corners = ((outer, 0.0), (outer, tall), (inner, tall), (inner, 0.0))
    rings = [np.array([(x, y, z) for x, y in _circle(radius)]) for radius, z in corners]
    here = np.arange(n)
    onward = np.roll(here, -1)
    faces = []
    for k in range(4):
        a, b = k * n, (k + 1) % 4 * n
        faces += [np.stack([here + a, onward + a, onward + b], 1), np.stack([here + a, onward + b, here + b], 1)]
    return Mesh(np.concatenate(rings), np.concatenate(faces).astype(np.int32))
