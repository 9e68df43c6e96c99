"""Whether something that went wrong lies where a finding has a place."""

from collections.abc import Sequence

import numpy as np

from ulvet.core.findings.finding import Place
from ulvet.core.geometry.mesh import Points
from ulvet.core.recipe.stance import Vector

__all__ = ["NEAR", "is_near"]

NEAR = 0.08
"""Share of a part's longest side within which a finding, or another pin, is at the same place (bench default)."""


def is_near(point: Vector, places: Sequence[Place], near: float, factor: float) -> bool:
    """Whether a point (figure mm) lies within ``near`` figure mm of any of these places: of the line that a place is
    long in, as far as it reaches either way, or of a ball as wide as it. What has no place is everywhere."""
    return not places or any(_away(np.array(point), place, factor) <= near for place in places)


def _away(point: Points, place: Place, factor: float) -> float:
    off = point - np.array(place.point)
    reach = (place.extent or 0.0) / factor
    if place.along is None:
        return float(np.linalg.norm(off)) - reach / 2
    along = np.array(place.along)
    return float(np.linalg.norm(off - np.clip(off @ along, -reach, reach) * along))
