"""The Ferrywoman: a heron-headed woman in a flat punt, with pole, lantern, cape, and an otter at the bow."""

import numpy as np

from ulvet.core.geometry.mesh import Mesh, Points
from ulvet.demo.faults import (
    combined,
    turned_inside_out,
    with_flat_faces,
    with_hole,
    with_turned_patch,
)
from ulvet.standins.forms import Form, ball, egg, limb, meshed, sheet

__all__ = ["ferrywoman"]

_GRID = 0.36
"""Pitch (mm) that the form is drawn with."""
_POLE = (12.5, -9.5)
"""Where the pole stands (x, y), mm."""
_LANTERN = (-11.5, -9.5, 29.5)
"""Middle of the lantern, mm."""


def ferrywoman() -> Mesh:
    """The figure about 82 mm tall, facing -y, z up, with the faults of real work:

    a beak tip and a crest too thin to print, a thin pole, a lantern with one opening, a punt like a bowl, a cape that
    crosses the body as a shell of its own, an otter that came inside out, a hole under the hem, faces turned at the
    shoulder, and faces without area.
    """
    body = meshed([*_punt(), *_robe(), *_head(), *_arms(), *_pole(), *_lantern()], _GRID)
    body = with_hole(body, np.array([4.0, 9.0, 18.0]), 1.3)
    body = with_hole(body, np.array([-7.5, 2.0, 12.0]), 0.9)
    body = with_turned_patch(body, np.array([6.0, -2.0, 49.0]), 2.2)
    body = with_flat_faces(body, list(range(4000, 4600, 100)))
    return combined(body, _cape(), turned_inside_out(_otter()))


def _punt() -> list[Form]:
    hull = egg((0, 1, 6.2), (12.5, 31, 7.4), 0)
    inner = egg((0, 1, 8.4), (11.2, 29.2, 6.6), 0.6, hollow=True)

    def flat(points: Points) -> np.ndarray:
        # Cut level with the gunwale above and flat below.
        return np.maximum(hull.distance(points), np.abs(points[..., 2] - 4.2) - 4.2)

    return [Form(flat, np.array([-13.0, -31, 0]), np.array([13.0, 33, 8.4]), 0), inner]


def _robe() -> list[Form]:
    def folds(points: Points) -> np.ndarray:
        x, y, z = points[..., 0], points[..., 1] - 1.0, points[..., 2]
        down = np.clip((36 - z) / 33, 0, 1)
        turn = np.arctan2(y, x)
        radius = 4.9 + 4.6 * down**1.4 + 0.55 * down * np.sin(9 * turn + 2 * down) + 0.25 * down * np.sin(17 * turn)
        side = np.hypot(x * 0.96, y * 1.08) - radius
        return np.maximum(side, np.abs(z - 19) - 17) * 0.85

    robe = Form(folds, np.array([-11.0, -10, 2]), np.array([11.0, 12, 36]), 1.2)
    return [
        robe,
        limb((0, 1, 33), (0, 0.4, 45), 4.9, 6.0, 2.0),
        egg((0, 0.6, 47.5), (8.2, 4.7, 3.6), 2.5),
        egg((0, 0.8, 33.5), (5.6, 5.2, 1.5), 0.5),
    ]


def _head() -> list[Form]:
    return [
        limb((0, 0.2, 49), (0, 2.4, 55.5), 2.9, 2.1, 2.0),
        limb((0, 2.4, 55.5), (0, 0.6, 62), 2.1, 1.75, 1.0),
        limb((0, 0.6, 62), (0, -1.5, 65), 1.75, 1.9, 1.0),
        egg((0, -2.2, 66), (2.3, 3.9, 2.3), 1.2),
        limb((0, -4.5, 65.8), (0, -17.5, 62.0), 1.5, 0.21, 0.8),
        limb((0, 0.6, 67.2), (0, 10.5, 69.6), 0.95, 0.27, 0.8),
        limb((0.4, 1.0, 66.6), (1.2, 9, 66.6), 0.7, 0.25, 0.6),
        ball((2.0, -3.7, 66.4), 0.55, 0.2),
        ball((-2.0, -3.7, 66.4), 0.55, 0.2),
    ]


def _arms() -> list[Form]:
    x, y = _POLE
    hand = (_LANTERN[0], _LANTERN[1], 39.5)
    return [
        limb((7.0, 0.4, 47.6), (11.4, -3.2, 40.5), 2.6, 2.0, 1.8),
        limb((11.4, -3.2, 40.5), (x, y, 43.5), 2.0, 1.35, 0.8),
        egg((x, y, 44), (1.6, 1.7, 2.1), 0.8),
        limb((-7.0, 0.4, 47.6), (-10.8, -2.6, 40.8), 2.6, 2.0, 1.8),
        limb((-10.8, -2.6, 40.8), hand, 2.0, 1.3, 0.8),
        egg(hand, (1.5, 1.6, 1.6), 0.8),
    ]


def _pole() -> list[Form]:
    x, y = _POLE
    return [limb((x, y, 3.0), (x, y, 82), 0.36, 0.36, 0.5), egg((x, y, 81.6), (0.9, 0.9, 0.6), 0.6)]


def _lantern() -> list[Form]:
    x, y, z = _LANTERN
    top = z + 4.4
    neck = limb((x, y, z - 6.5), (x, y, z - 2), 1.0, 1.0)
    return [
        limb((x, y, 38.6), (x, y, top), 0.42, 0.42, 0.3),
        egg((x, y, z), (3.1, 3.1, 4.3), 0.3),
        limb((x, y, z - 4.6), (x, y, z - 3.4), 1.75, 1.75, 0.4),
        egg((x, y, z), (2.5, 2.5, 3.7), 0.3, hollow=True),
        Form(neck.distance, neck.low, neck.high, 0.4, hollow=True),
    ]


def _cape() -> Mesh:
    """A ragged cape, thinner towards its hem, running through shoulders and robe."""
    u, v = np.meshgrid(np.linspace(-1, 1, 90), np.linspace(0, 1, 120), indexing="ij")
    ragged = 0.55 * np.sin(11 * u + 1) + 0.7 * np.sin(19 * u) * np.cos(5 * u)
    fall = 49.6 - v * (38.5 + 2.3 * ragged * v**3)
    turn = u * (1.25 + 0.25 * v)
    spread = 5.9 + 8.3 * v**1.25 + (0.25 + 0.9 * v) * np.cos(8 * turn) * v
    x = spread * np.sin(turn) * 1.15
    y = 0.4 + spread * np.cos(turn) * 0.9
    front = np.stack([x, y, fall], axis=-1)
    return sheet(front, 0.9 - 0.42 * v)


def _otter() -> Mesh:
    return meshed(
        [
            egg((0, -21.5, 9.6), (2.6, 3.6, 2.7), 0),
            limb((0, -20, 10), (0, -23.6, 13.6), 2.4, 1.8, 1.2),
            egg((0, -24.6, 14.7), (1.7, 2.1, 1.6), 0.8),
            egg((0, -26.3, 14.3), (0.85, 0.9, 0.7), 0.5),
            ball((1.1, -24.0, 16.0), 0.5, 0.3),
            ball((-1.1, -24.0, 16.0), 0.5, 0.3),
            limb((0, -18.6, 8.4), (3.4, -14.0, 8.0), 1.2, 0.45, 0.8),
            limb((1.6, -22.8, 9.4), (2.0, -24.6, 7.4), 0.9, 0.7, 0.5),
            limb((-1.6, -22.8, 9.4), (-2.0, -24.6, 7.4), 0.9, 0.7, 0.5),
        ],
        0.32,
    )
