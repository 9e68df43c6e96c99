"""Whether a figure stands level: the plane it would rest on, and how far that is from the ground."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from scipy.optimize import linprog

from ulvet.core.findings.finding import AddSteps, Cost, Finding, Place, Remedy, Severity
from ulvet.core.geometry.mesh import Mesh, Points, concatenated, face_areas
from ulvet.core.recipe.step import Part
from ulvet.core.scan.steps import SetUpright
from ulvet.core.stations import Station

__all__ = ["RestingPlane", "check_lean", "resting_plane_of"]

_LEAST, _MOST = 0.5, 20.0
"""Degrees (bench default): less is not seen, and what would rest so much farther over does not stand on that side."""
_CAUTION = 2.0
"""Degrees from which a lean is a caution: seen from the side at arm's length (bench default)."""
_FOOTING = 0.15
"""Share of its footprint that what it rests on has to span, for it to be meant to stand there (bench default)."""
_TOUCHES = 1e-3
"""Distance from the plane, of the longest side, within which a vertex lies on it (rounding of files)."""
_ROUNDS = 60
"""Linear programs solved at most; each adds the constraints the last one broke."""
_AT_ONCE = 24
"""Broken constraints added at a time."""


@dataclass(frozen=True)
class RestingPlane:
    """How a figure would rest: ``up`` is the way out of the plane beneath it, ``degrees`` how far that is from upright,
    ``touching`` (k, 3) what of it lies on the plane, and ``share`` of its footprint that spans."""

    up: Points
    degrees: float
    touching: Points
    share: float


def resting_plane_of(mesh: Mesh) -> RestingPlane | None:
    """How a mesh that stands on z = 0 would rest with its weight where its surface is; None for a flat or empty one.

    Of all planes beneath every vertex it is the one that lies highest under that middle: a linear program in three
    unknowns, in which only the few vertices that bind are kept.
    """
    vertices = mesh.vertices
    size = float(np.ptp(vertices, axis=0).max()) if len(mesh.faces) else 0.0
    areas = face_areas(mesh)
    footprint = _spanned(vertices) if size else 0.0
    if footprint < 1e-9 * size**2 or areas.sum() <= 0:
        return None
    middle = np.average(vertices[mesh.faces].mean(axis=1), axis=0, weights=areas)
    at = (vertices - [middle[0], middle[1], 0.0]) / size
    binds = np.unique([*at.argmin(axis=0), *at.argmax(axis=0)])
    plane = np.zeros(3)
    for _ in range(_ROUNDS):
        under = np.column_stack([at[binds, :2], np.ones(len(binds))])
        found = linprog([0, 0, -1.0], A_ub=under, b_ub=at[binds, 2], bounds=[(-2, 2), (-2, 2), (None, None)])
        if found.status != 0:
            return None
        plane = found.x
        above = at[:, 2] - at[:, :2] @ plane[:2] - plane[2]
        worst = np.argpartition(above, min(_AT_ONCE, len(above) - 1))[:_AT_ONCE]
        worst = worst[above[worst] < -1e-9]
        if not len(worst):
            break
        binds = np.append(binds, worst)
    touching = vertices[above < _TOUCHES]
    up = np.array([-plane[0], -plane[1], 1.0]) / np.sqrt(1 + plane[0] ** 2 + plane[1] ** 2)
    spanned = _spanned(touching)
    return RestingPlane(up, float(np.degrees(np.arccos(min(up[2], 1.0)))), touching, spanned / footprint)


def _spanned(points: Points) -> float:
    """Area (mm²) that points (n, 3) span as seen from above."""
    # One line through all of them is made faster than so many points.
    return float(shapely.linestrings(points[:, :2]).convex_hull.area) if len(points) > 1 else 0.0


def check_lean(parts: Sequence[Part], factor: float) -> list[Finding]:
    """``leans`` where the plane that a figure would rest on is not level."""
    rest = resting_plane_of(concatenated(*(part.mesh for part in parts)))
    if rest is None or not _LEAST <= rest.degrees <= _MOST or rest.share < _FOOTING:
        return []
    x, y, z = map(float, rest.touching.mean(axis=0))
    tall = max(float(part.mesh.vertices[:, 2].max()) for part in parts) * factor
    up = (float(rest.up[0]), float(rest.up[1]), float(rest.up[2]))
    return [
        Finding(
            code="leans",
            station=Station.BRING_IN,
            severity=Severity.CAUTION if rest.degrees >= _CAUTION else Severity.NOTE,
            part=parts[0].name,
            title=f"It leans {rest.degrees:.1f}°",
            measured=round(rest.degrees, 1),
            limit=_LEAST,
            unit="°",
            where=Place(point=(x, y, z)),
            why=f"Set down on a level table it would rest on its underside and stand {rest.degrees:.1f}° over, its top "
            f"{np.tan(np.radians(rest.degrees)) * tall:.1f} mm aside of where it is drawn. What is sculpted on a "
            "slant is seen on every copy.",
            remedies=(
                Remedy(
                    label="Set it level on its underside",
                    change=AddSteps(steps=(SetUpright(up=up),)),
                    cost=Cost(says="turns the whole figure; its height changes a little"),
                ),
            ),
        )
    ]
