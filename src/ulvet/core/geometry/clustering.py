"""Points near each other gathered into clusters."""

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Points

__all__ = ["CLUSTER_SHARE", "cluster_points"]

CLUSTER_SHARE = 0.12
"""Reach of a cluster of findings, of the longest side: what one would look at as one place (bench default)."""


def cluster_points(points: Points, reach: float) -> NDArray[np.int64]:
    """The cluster (n,) of each point (n, 3), numbered by first member.

    A point joins the first earlier point within ``reach`` mm that leads a cluster, else it leads one; so no cluster is
    wider than twice the reach, however many points lie in a row.
    """
    group = np.full(len(points), -1, np.int64)
    count = 0
    while (free := np.flatnonzero(group < 0)).size:
        near = np.linalg.norm(points[free] - points[free[0]], axis=1) <= reach
        group[free[near]] = count
        count += 1
    return group
