"""Words for where on a figure something is, until the user names it."""

import numpy as np

from ulvet.core.geometry.mesh import Points

__all__ = ["location_in_words"]

_HEIGHTS = ((0.05, "at the foot"), (0.35, "low"), (0.65, "half-way up"), (0.95, "high"), (2.0, "at the top"))


def location_in_words(point: Points, low: Points, high: Points) -> str:
    """A place in words, from the figure's box: "high, front right". Front is -y, right is +x.

    >>> location_in_words(np.array([9.0, 5, 9]), np.zeros(3), np.full(3, 10.0))
    'high, right'
    """
    size = np.where(high > low, high - low, 1)
    x, y, z = (np.asarray(point) - low) / size
    height = next(word for top, word in _HEIGHTS if z <= top)
    sides = ["front" if y < 0.33 else "back" if y > 0.67 else "", "left" if x < 0.33 else "right" if x > 0.67 else ""]
    side = " ".join(word for word in sides if word) or "middle"
    return f"{height}, {side}"
