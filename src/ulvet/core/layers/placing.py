"""From places in the layers of a part to places on the figure."""

from collections.abc import Sequence

import numpy as np

from ulvet.core.geometry.mesh import Points
from ulvet.core.recipe.step import Part

__all__ = ["in_figure"]


def in_figure(part: Part, factor: float, places: Sequence[tuple[float, float, float]]) -> Points:
    """Places (x, y, height above the lowest layer) of a part's layers as figure points, (n, 3)."""
    lowest = 0.0 if part.supports is not None else float(part.stance.lift)
    return part.stance.in_figure(np.array(places) + np.array([0, 0, lowest]), part.mesh, factor)
