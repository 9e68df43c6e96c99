"""How a part stands in the printer: turned, lifted, and held by contacts."""

import numpy as np
from pydantic import BaseModel, ConfigDict

from ulvet.core.geometry.mesh import Mesh, Points
from ulvet.core.lengths import PrintMM

__all__ = ["AS_IT_STANDS", "Contact", "Stance", "Vector", "side_named", "turn_to", "unit_vector"]

Vector = tuple[float, float, float]


_SIDES: dict[str, Vector] = {
    "front": (0, -1, 0),
    "back": (0, 1, 0),
    "left": (-1, 0, 0),
    "right": (1, 0, 0),
    "top": (0, 0, 1),
    "underside": (0, 0, -1),
}
"""Directions of a figure by the side they point out of."""


def side_named(direction: Vector) -> str:
    """The side of a figure that a direction points out of, by name; "side" with its numbers where it is none of these.

    >>> side_named((0.0, -1.0, 0.0)), side_named((0.6, -0.8, 0.0))
    ('front', 'side towards 0.60, -0.80, 0.00')
    """
    for name, side in _SIDES.items():
        if np.allclose(direction, side, atol=1e-6):
            return name
    return f"side towards {', '.join(f'{value:.2f}' for value in direction)}"


def unit_vector(value: Vector | None) -> Vector | None:
    """A direction at length one; None stays None, and one of length one stays as it is, to the last bit: a recipe that
    is written and read again is the same recipe.

    Raises ValueError for one without length.
    """
    if value is None:
        return None
    length = float(np.linalg.norm(value))
    if not np.isfinite(length) or length < 1e-9:
        raise ValueError("A direction needs a length, and 0,0,0 has none: give another; nothing was changed.")
    if abs(length - 1) < 1e-12:
        return value
    x, y, z = (float(v) / length for v in value)
    return x, y, z


class Contact(BaseModel):
    """Where a support meets the figure, in print axes (see ``Stance``)."""

    model_config = ConfigDict(frozen=True)

    point: Vector
    """On the figure's skin, print mm."""
    normal: Vector = (0.0, 0.0, -1.0)
    """The way the skin looks there."""
    tip_mm: PrintMM
    """Diameter of the tip there."""
    load_N: float  # noqa: N815  (newtons are written so)
    """Greatest pull it must bear, an estimate."""
    on_figure: bool = False
    """Whether its foot stands on the figure, where no way leads down to the plate."""
    shows: bool = False
    """Whether it is on the side that was to be kept clean."""
    by_hand: bool = False
    """Whether somebody set it, or made it thicker or thinner."""
    reachable: bool = True
    """Whether cutters come to its tip along some straight line."""


class Stance(BaseModel):
    """A part in the printer.

    Print axes are the figure's, turned and grown by the edition's factor about the figure's origin, then shifted along
    z so that the lowest point lies ``lift`` mm above the plate at z = 0.
    """

    model_config = ConfigDict(frozen=True)

    up: Vector = (0.0, 0.0, 1.0)
    """Direction of the figure that points up, away from the plate; of length 1."""
    spin: float = 0.0
    """Turn about the upright after that, radians."""
    lift: PrintMM = PrintMM(0.0)
    contacts: tuple[Contact, ...] = ()
    support_ml: float = 0.0
    """What the supports add."""

    @property
    def turn(self) -> Points:
        """Rotation (3, 3) from figure axes to print axes."""
        return turn_to(np.array(self.up), self.spin)

    @property
    def lean(self) -> float:
        """Degrees between the figure's own upright and the printer's."""
        return float(np.degrees(np.arccos(np.clip(self.up[2], -1, 1))))

    def offset(self, mesh: Mesh, factor: float) -> Points:
        """What is added after turning and growing, (3,) print mm."""
        low = float((mesh.vertices @ self.turn[2]).min()) if len(mesh.vertices) else 0.0
        return np.array([0.0, 0.0, self.lift - low * factor])

    def in_print(self, mesh: Mesh, factor: float) -> Mesh:
        """A figure's mesh in print mm, as it stands over the plate."""
        return Mesh(mesh.vertices @ self.turn.T * factor + self.offset(mesh, factor), mesh.faces)

    def in_figure(self, points: Points, mesh: Mesh, factor: float) -> Points:
        """Print points (..., 3) as figure points of ``mesh``."""
        return np.asarray((np.asarray(points) - self.offset(mesh, factor)) / factor @ self.turn)


AS_IT_STANDS = Stance()


def turn_to(up: Points, spin: float = 0.0) -> Points:
    """Rotation (3, 3) that brings the unit vector ``up`` (3,) to z, then turns about z.

    By the shortest way where it points up; what points down is first turned over about x, since the shortest way
    from straight down is any.
    """
    over = np.diag([1.0, -1.0, -1.0]) if up[2] < 0 else np.eye(3)
    x, y, z = map(float, over @ up)
    # Rodrigues' formula for the rotation between two unit vectors.
    k = 1 / (1 + z)
    about = np.array([[1 - x * x * k, -x * y * k, -x], [-x * y * k, 1 - y * y * k, -y], [x, y, z]]) @ over
    cos, sin = np.cos(spin), np.sin(spin)
    return np.array([[cos, -sin, 0], [sin, cos, 0], [0, 0, 1.0]]) @ about
