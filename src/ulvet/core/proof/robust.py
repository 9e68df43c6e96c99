"""Estimates that a few wrong readings do not spoil, with their ranges."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import stats

from ulvet.core.geometry.mesh import Floats

__all__ = ["SURE", "Fit", "robust_fit", "share_between"]

SURE = 0.9
"""Chance with which a stated range holds (bench default)."""
_STEPS = 30
"""Of reweighting, which converges in a few."""
_HUBER = 1.345
"""Residuals in scales beyond which a reading counts less: 95 % as good as least squares on plain noise (Huber 1964)."""
_OUTLIER = 4.5
"""Residuals in scales beyond which a reading is left out, as wrong and not unlucky (bench default)."""
_MAD = 1.4826
"""Standard deviations of a normal distribution in its median absolute deviation."""
_WIDER = 1.1
"""Times Student's half width, for readings that were left out and noise that is not quite normal (bench default)."""
_FEWEST_FOR_OUTLIERS = 5
"""Readings over what is sought without which none is called wrong (bench default)."""


@dataclass(frozen=True)
class Fit:
    """What fits best: values (p,), half the width (p,) of the range that holds nine times in ten, NaN where too little
    is known for one, and which of the readings (n,) were left out."""

    values: Floats
    halves: Floats
    left_out: NDArray[np.bool_]
    scale: float
    """Standard deviation of a reading."""


def robust_fit(design: Floats, readings: Floats, least_scale: float) -> Fit:
    """Fit ``readings`` (n,) by ``design`` (n, p) @ values: Huber's estimate by reweighting, then least squares over
    readings that are no outliers, with Student's ranges.

    ``least_scale`` is the standard deviation that readings have at least, for what they are read with. Raises
    ValueError where the readings do not tell the values apart.
    """
    count, sought = design.shape
    if count < sought or np.linalg.matrix_rank(design) < sought:
        raise ValueError("the readings do not tell these values apart")
    weight = np.ones(count)
    for _ in range(_STEPS):
        values = _weighted(design, readings, weight)
        away = np.abs(readings - design @ values)
        scale = max(_spread(away, sought), least_scale)
        fresh = np.minimum(1.0, _HUBER * scale / np.maximum(away, 1e-300))
        if np.allclose(fresh, weight, atol=1e-9):
            break
        weight = fresh
    kept = np.ones(count, bool)
    if count - sought >= _FEWEST_FOR_OUTLIERS:
        kept = away <= _OUTLIER * scale
    for _ in range(_STEPS):
        if np.linalg.matrix_rank(design[kept]) < sought:
            kept = np.ones(count, bool)
        values = _weighted(design[kept], readings[kept], np.ones(int(kept.sum())))
        away = np.abs(readings - design @ values)
        free = int(kept.sum()) - sought
        scale = max(float(np.sqrt(away[kept] @ away[kept] / free)) if free else 0.0, least_scale)
        # What the median took for an outlier comes back where least squares reaches it.
        again = kept | (away <= _OUTLIER * scale)
        if (again == kept).all():
            break
        kept = again
    halves: Floats = np.full(sought, np.nan)
    if free > 0:
        inner = design[kept]
        covariance = np.linalg.inv(inner.T @ inner)
        halves[:] = _WIDER * float(stats.t.ppf((1 + SURE) / 2, free)) * scale * np.sqrt(np.diag(covariance))
    return Fit(values, halves, ~kept, scale)


def share_between(failed: int, of: int) -> tuple[float, float]:
    """The range of a share that nine times in ten holds, where ``failed`` of so many were seen (Jeffreys' interval;
    Brown, Cai and DasGupta 2001)."""
    low = 0.0 if failed == 0 else float(stats.beta.ppf((1 - SURE) / 2, failed + 0.5, of - failed + 0.5))
    high = 1.0 if failed == of else float(stats.beta.ppf((1 + SURE) / 2, failed + 0.5, of - failed + 0.5))
    return low, high


def _weighted(design: Floats, readings: Floats, weight: Floats) -> Floats:
    root = np.sqrt(weight)
    found = np.linalg.lstsq(design * root[:, None], readings * root, rcond=None)[0]
    return np.asarray(found, np.float64)


def _spread(away: Floats, sought: int) -> float:
    """Scale by the median of residuals, made larger for the values that were fitted to them."""
    count = len(away)
    if count <= sought:
        return 0.0
    return float(
        _MAD * np.median(np.sort(away)[sought - 1 :] if sought > 1 else away) * np.sqrt(count / (count - sought))
    )
