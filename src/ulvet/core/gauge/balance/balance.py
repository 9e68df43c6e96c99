"""Balance: a figure's weight, its centre of mass, and how far it can be tipped before it falls."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from ulvet.core.geometry.mesh import Floats, Mesh, Points, bounds, face_cross, volume
from ulvet.core.recipe.receipt import Insert

__all__ = [
    "STEEL",
    "Balance",
    "balance_of",
    "tip_angle_on_base",
    "tip_angle_on_feet",
    "tip_angles",
    "weighed",
    "with_inserts",
]

STEEL = 7.85
"""g/cm³ (bench default: plain carbon steel)."""

_TOUCHES = 0.05
"""Print mm within which of its lowest point a figure touches the table: what sanding evens out (bench default)."""
_WAYS = 360
"""Directions in which a figure is tipped: one a degree."""


@dataclass(frozen=True)
class Balance:
    """A figure that stands as it is drawn, with what is set into it: grams, print mm and degrees.

    ``support`` (k, 2) is the outline of what it touches the table with, counter-clockwise, ``tip_angle`` how far it may
    be tipped the easiest way before it falls, below zero where it falls by itself, and ``tips_to`` (2,) that way.
    """

    mass: float
    centre: Points
    height: float
    """Of the centre above the table."""
    support: Points
    tip_angle: float
    tips_to: Points


def balance_of_solids(solids: Sequence[tuple[Mesh, float]]) -> Balance | None:
    """The balance of solids that stand as one, each with its density; None where one has no volume."""
    each = [balance_of(mesh, density) for mesh, density in solids]
    known = [one for one in each if one is not None]
    if not known or len(known) < len(each):
        return None
    points = np.concatenate([mesh.vertices for mesh, _ in solids])
    low = float(points[:, 2].min())
    mass = sum(one.mass for one in known)
    centre = np.sum([one.mass * one.centre for one in known], axis=0) / mass
    support = _outline(points[points[:, 2] <= low + _TOUCHES][:, :2])
    return _balanced(mass, centre, float(centre[2]) - low, support)


def balance_of(mesh: Mesh, density: float) -> Balance | None:
    """The balance of a closed solid at print size, z up, of ``density`` g/cm³; None where it has no volume.

    It touches the table with every vertex within 0.05 mm of its lowest.
    """
    solid = volume(mesh)
    if solid <= 0:
        return None
    centre = _centre(mesh, solid)
    low = float(mesh.vertices[:, 2].min())
    support = _outline(mesh.vertices[mesh.vertices[:, 2] <= low + _TOUCHES][:, :2])
    return _balanced(solid * density / 1000, centre, float(centre[2]) - low, support)


def with_inserts(balance: Balance, grams: Floats, middles: Points) -> Balance:
    """The balance with weights (k,) at some points (k, 3), print mm, in it."""
    low = float(balance.centre[2]) - balance.height
    mass = balance.mass + float(grams.sum())
    centre = (balance.mass * balance.centre + grams @ middles) / mass
    return _balanced(mass, centre, float(centre[2]) - low, balance.support)


def weighed(balance: Balance | None, inserts: Sequence[Insert], factor: float) -> Balance | None:
    """The balance with the inserts; None stays None."""
    if balance is None or not inserts:
        return balance
    return with_inserts(
        balance,
        np.array([insert.grams for insert in inserts]),
        np.array([insert.middle for insert in inserts]) * factor,
    )


def _balanced(mass: float, centre: Points, height: float, support: Points) -> Balance:
    angles = tip_angles(support, centre, height)
    worst = int(np.argmin(angles))
    return Balance(mass, centre, height, support, float(angles[worst]), _ways()[worst])


def tip_angles(support: Points, centre: Points, height: float) -> Floats:
    """Give the angle (360,) in degrees by which a body can be tipped in each direction, from +x counter-clockwise.

    It falls when its centre of mass (3,), ``height`` mm above the table, passes the edge of its support (k, 2).
    """
    reach = (support - centre[:2]) @ _ways().T
    return np.asarray(np.degrees(np.arctan2(reach.max(axis=0), height)))


def tip_angle_on_base(balance: Balance, diameter: float, thickness: float, density: float) -> float:
    """Give the least tip angle of the figure centred on a round base, mm and g/cm³."""
    base = np.pi / 4 * diameter**2 * thickness * density / 1000
    middle = balance.support.mean(axis=0)
    rim = middle + diameter / 2 * _ways()
    figure = np.array([*balance.centre[:2], balance.height + thickness])
    centre = (balance.mass * figure + base * np.array([*middle, thickness / 2])) / (balance.mass + base)
    return float(tip_angles(rim, centre, float(centre[2])).min())


def tip_angle_on_feet(balance: Balance, longer: float) -> float:
    """Give the least tip angle when the support reaches ``longer`` mm farther out; the added weight is ignored."""
    reach = ((balance.support - balance.centre[:2]) @ _ways().T).max(axis=0) + longer
    return float(np.degrees(np.arctan2(reach, balance.height)).min())


def _ways() -> Points:
    angle = np.arange(_WAYS) * 2 * np.pi / _WAYS
    return np.stack([np.cos(angle), np.sin(angle)], axis=1)


def _outline(points: Points) -> Points:
    """Give the corners (k, 2) of the convex hull, counter-clockwise; the ends of a line, or the single point."""
    hull = shapely.MultiPoint(points).convex_hull
    if hull.geom_type != "Polygon":
        return np.asarray(shapely.get_coordinates(hull))
    return np.asarray(shapely.get_coordinates(shapely.orient_polygons(hull))[:-1])


def _centre(mesh: Mesh, solid: float) -> Points:
    """Give the centre of mass (3,), summed over tetrahedra from the centre of the box."""
    middle = bounds(mesh).mean(axis=0)
    corners = mesh.vertices[mesh.faces] - middle
    share = np.einsum("ij,ij->i", corners[:, 0], face_cross(mesh)) / 6
    return np.asarray(middle + (share[:, None] * corners.sum(axis=1) / 4).sum(axis=0) / solid)
