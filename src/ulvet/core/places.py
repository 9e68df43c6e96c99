"""Words for where on a figure something is, until the user names it."""

import numpy as np
from numpy.typing import NDArray

from ulvet.core.mesh import Points

__all__ = ["gathered", "where_said"]

_HEIGHTS = ((0.05, "at the foot"), (0.35, "low"), (0.65, "half-way up"), (0.95, "high"), (2.0, "at the top"))


def where_said(point: Points, low: Points, high: Points) -> str:
    """A place in words, from the figure's box: "high, front right". Front is -y, right is +x.

    >>> where_said(np.array([9.0, 5, 9]), np.zeros(3), np.full(3, 10.0))
    'high, right'
    """
    size = np.where(high > low, high - low, 1)
    x, y, z = (np.asarray(point) - low) / size
    height = next(word for top, word in _HEIGHTS if z <= top)
    sides = ["front" if y < 0.33 else "back" if y > 0.67 else "", "left" if x < 0.33 else "right" if x > 0.67 else ""]
    side = " ".join(word for word in sides if word) or "middle"
    return f"{height}, {side}"


def gathered(points: Points, reach: float) -> NDArray[np.int64]:
    """Gather places (n, 3) into groups for reading: the group of each, (n,), numbered by first member.

    A place joins the first earlier place within ``reach`` mm that leads a group, else it leads one; so no group is
    wider than twice the reach, however many places lie in a row.
    """
    group = np.full(len(points), -1, np.int64)
    count = 0
    while (free := np.flatnonzero(group < 0)).size:
        near = np.linalg.norm(points[free] - points[free[0]], axis=1) <= reach
        group[free[near]] = count
        count += 1
    return group
