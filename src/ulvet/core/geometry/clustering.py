"""Words for where on a figure something is, until the user names it."""

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Points

__all__ = ["cluster_points"]


def cluster_points(points: Points, reach: float) -> NDArray[np.int64]:
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
