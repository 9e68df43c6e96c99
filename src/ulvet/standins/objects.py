"""Demo objects for the scanner: a piece of driftwood on its mount, and an otter of clay."""

from collections.abc import Callable

from ulvet.core.geometry.mesh import Mesh
from ulvet.standins.forms import ball, egg, limb, meshed

__all__ = ["OBJECTS", "clay_otter", "driftwood"]


def driftwood() -> Mesh:
    """Driftwood about 95 mm long, held up by a stick on a round foot; mm, z up."""
    return meshed(
        [
            limb((-40, 2, 52), (-14, -3, 45), 6.5, 9.5, 0),
            limb((-14, -3, 45), (12, 2, 48), 9.5, 8.5, 5),
            limb((12, 2, 48), (38, -5, 58), 8.5, 5.0, 5),
            limb((38, -5, 58), (49, -8, 67), 5.0, 2.6, 3),
            limb((10, 4, 50), (20, 16, 70), 6.0, 3.2, 4),
            limb((20, 16, 70), (17, 22, 82), 3.2, 2.0, 2),
            limb((-22, -4, 48), (-28, -18, 60), 5.5, 2.8, 4),
            limb((-28, -18, 60), (-38, -23, 66), 2.8, 1.8, 2),
            egg((-2, 6, 50), (6, 5, 4), 3),
            egg((-4, -12, 47), (5.5, 5.5, 5), 1.5, hollow=True),
            egg((25, -9, 54), (4, 3.5, 3), 1.2, hollow=True),
            # The mount.
            limb((-2, 0, 2), (-2, 0, 40), 2.4, 2.4, 0.6),
            egg((-2, 0, 1.5), (15, 15, 2.2), 1.0),
        ],
        0.8,
    )


def clay_otter() -> Mesh:
    """An otter of clay that sits up, about 62 mm tall, flat on the table; mm, z up."""
    return meshed(
        [
            egg((0, 2, 12), (15, 17, 13), 0),
            egg((0, 0, 29), (12, 11, 17), 6),
            egg((0, -3, 50), (9.5, 9.5, 8.5), 4),
            egg((0, -12, 48), (5.5, 5.5, 4.2), 3),
            ball((0, -17.2, 49.4), 1.6, 0.6),
            ball((4.2, -10.8, 52.6), 1.3, 0.3),
            ball((-4.2, -10.8, 52.6), 1.3, 0.3),
            egg((7.2, 0, 56.5), (2.6, 1.8, 2.8), 1.2),
            egg((-7.2, 0, 56.5), (2.6, 1.8, 2.8), 1.2),
            limb((9.5, -4, 36), (5.5, -13, 26), 3.6, 2.8, 2),
            limb((-9.5, -4, 36), (-5.5, -13, 28), 3.6, 2.8, 2),
            egg((8, -13, 3.4), (5, 9, 3.4), 2),
            egg((-8, -13, 3.4), (5, 9, 3.4), 2),
            limb((0, 16, 6), (10, 28, 4.6), 7, 5.0, 4),
            limb((10, 28, 4.6), (22, 28, 4.0), 5.0, 2.6, 3),
            # Flat where it sits.
            egg((0, 4, -40), (80, 80, 40), 0, hollow=True),
        ],
        0.7,
    )


OBJECTS: dict[str, tuple[str, Callable[[], Mesh]]] = {
    "driftwood": ("Driftwood on its mount", driftwood),
    "clay-otter": ("Otter of clay", clay_otter),
}
"""What can be put on the turntable, by id, with its name."""
