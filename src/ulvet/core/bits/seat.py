"""Where on another part a bit or a form sits, so that it goes with that part."""

from dataclasses import dataclass

import numpy as np
from pydantic import Field, field_validator

from ulvet.core.geometry.mesh import Points
from ulvet.core.recipe.anchors import Anchor, Frame, LostAnchor, project_anchors
from ulvet.core.recipe.stance import turn_to
from ulvet.core.recipe.step import Part

__all__ = ["Seat", "SeatLanding", "find_seat"]

_LEAST_ROOM = 1e-6
"""Volume of a frame against that of its box under which its axes are no frame (rounding)."""


class Seat(Anchor):
    """A point picked on a part to sit on, with what that part was like then.

    Where the part is a bit or a form that has been resized, moved or turned since, the point is carried along with it
    before it is looked for on its skin.
    """

    host: str = Field(default="", max_length=80)
    """Name of the part it was picked on; where there is none of that name, any part will do."""
    frame: Frame | None = None
    """The host's frame when it was picked."""

    @field_validator("frame")
    @classmethod
    def _spans(cls, value: Frame | None) -> Frame | None:
        if value is not None:
            corners = np.array(value)
            sides = corners[1:] - corners[0]
            room = np.linalg.norm(sides, axis=1).prod()
            if not np.isfinite(room) or not abs(np.linalg.det(sides)) > _LEAST_ROOM * room:
                raise ValueError("A frame has three sides that do not lie in one plane; nothing was changed.")
        return value


@dataclass(frozen=True)
class SeatLanding:
    """Where a seat came to be: a place (3,) in figure mm, and as rows (3, 3) the axes of what sits there."""

    place: Points
    axes: Points


def find_seat(seat: Seat, parts: tuple[Part, ...]) -> SeatLanding | tuple[LostAnchor, ...]:
    """The seat on the parts as they are now, or by how much it misses the nearest of them."""
    missed: list[LostAnchor] = []
    for part in (part for part in parts if part.name == seat.host and part.frame and seat.frame):
        carried, turn = _carried(seat, np.array(seat.frame), np.array(part.frame))
        points, lost = project_anchors((carried,), part.mesh, part.name, part.source)
        missed += lost
        if len(points):
            return SeatLanding(points[0], turn_to(np.array(carried.normal or (0, 0, 1)) @ turn) @ turn.T)
    tries = [project_anchors((seat,), part.mesh, part.name, part.source) for part in parts]
    landed = [points[0] for points, _ in tries if len(points)]
    if not landed:
        missed += [one for _, lost in tries for one in lost]
        return tuple(sorted(missed, key=lambda one: one.away)[:1])
    point = np.array(seat.point)
    nearest = min(landed, key=lambda at: float(np.linalg.norm(at - point)))
    return SeatLanding(nearest, turn_to(np.array(seat.normal or (0, 0, 1), float)))


def _carried(seat: Seat, before: Points, now: Points) -> tuple[Anchor, Points]:
    """The seat where its host has gone, and the turn (3, 3) the host made; a mirrored host turns nothing."""
    old, new = before[1:] - before[0], now[1:] - now[0]
    along = np.linalg.solve(old, new)
    point = now[0] + (np.array(seat.point) - before[0]) @ along
    normal = None
    if seat.normal is not None:
        normal = np.array(seat.normal) @ np.linalg.inv(along).T
        normal /= np.linalg.norm(normal)
    left, _, right = np.linalg.svd(along)
    turn = (left @ right).T if np.linalg.det(along) > 0 else np.eye(3)
    return Anchor.at(point, normal, seat.source), turn
