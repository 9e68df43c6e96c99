"""Bringing the passes of a scan together: from the turntable's angle, then each to all the others."""

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from ulvet.core.geometry.mesh import Floats, Points
from ulvet.core.progress import Progress, no_progress
from ulvet.core.sources.scan import NothingToFuse, Scan, turned_about

__all__ = ["RegisteredPasses", "cells_of", "register_passes"]

_ROUNDS = 14
"""Rounds of moving passes onto the surface of all."""
_CALIBRATIONS = 8
"""Rounds of solving how the scanner stood to its turntable."""
_OTHERS = 8
"""Neighbours that make up the surface at a point."""
_SAMPLE = 2500
"""Points of a pass that its motion is solved from."""
_CELLS_ACROSS = 64
"""Cells across the object by which points are averaged."""
_STEADY = 0.002
"""Of a cell: once a round moves no pass farther, it is done."""


@dataclass(frozen=True)
class RegisteredPasses:
    """All points (n, 3) with normals in the scanner's room at angle 0, and how well they agree.

    Root mean square of the distances of points from the surface of all passes, mm, as the turntable alone has it
    (``by_table``) and afterwards (``residual``); ``moved`` is the farthest a pass was shifted, mm.
    """

    points: Points
    normals: Points
    by_table: float
    residual: float
    moved: float


def register_passes(scan: Scan, refine: bool = True, progress: Progress = no_progress) -> RegisteredPasses:
    """Turn every pass back by its angle, and unless ``refine`` is off find how the scanner really stood to its
    turntable in each round of a tilt, then move each pass, as a rigid body, onto the surface of all of them together
    (point to plane; Chen and Medioni 1992), at most fourteen rounds.

    Raises NothingToFuse for a scan without points.
    """
    if not scan.count:
        raise NothingToFuse("the scan holds no points, nothing was in view")
    brought = [scan.at_zero(k) for k in range(len(scan.passes))]
    points, normals = [p for p, _ in brought], [n for _, n in brought]
    every = np.concatenate(points)
    reach = float(np.ptp(np.percentile(every, [1, 99], axis=0), axis=0).max())
    cell = max(reach / _CELLS_ACROSS, 1e-9)
    chosen = [np.linspace(0, len(p) - 1, min(len(p), _SAMPLE)).astype(np.int64) for p in points]
    start = [p[c] for p, c in zip(points, chosen, strict=True)]
    faces = [n[c] for n, c in zip(normals, chosen, strict=True)]
    turns, shifts = [np.eye(3) for _ in points], [np.zeros(3) for _ in points]
    cap = 6 * cell
    _, by_table = _onto_all(start, faces, cell, cap)
    residual = by_table
    if refine:
        progress(0.0, "finding how the scanner stood")
        turns, shifts = _calibrated(scan, start, faces, cap)
    for round_number in range(_ROUNDS if refine else 0):
        progress(round_number / _ROUNDS, f"bringing {len(points)} passes together")
        placed = [p @ t.T + s for p, t, s in zip(start, turns, shifts, strict=True)]
        looks = [n @ t.T for n, t in zip(faces, turns, strict=True)]
        motions, residual = _onto_all(placed, looks, cell, cap)
        most = 0.0
        for k, (turn, shift) in enumerate(motions):
            turns[k], shifts[k] = turn @ turns[k], turn @ shifts[k] + shift
            most = max(most, float(np.abs(placed[k] @ turn.T + shift - placed[k]).max(initial=0)))
        cap = max(3 * cell, 0.8 * cap)
        if most < _STEADY * cell:
            break
    together = [p @ t.T + s for p, t, s in zip(points, turns, shifts, strict=True)]
    moved = max(float(np.linalg.norm(a - b, axis=1).max(initial=0)) for a, b in zip(together, points, strict=True))
    return RegisteredPasses(
        np.concatenate(together),
        np.concatenate([n @ t.T for n, t in zip(normals, turns, strict=True)]),
        by_table,
        residual,
        moved,
    )


def _onto_all(
    placed: Sequence[Points], looks: Sequence[Points], cell: float, cap: float
) -> tuple[list[tuple[Points, Points]], float]:
    """The small rigid motion that brings each pass onto the surface of all, and how far they lie from it before: root
    mean square, what lies far off counted as three times the median."""
    middle, way, _ = cells_of(np.concatenate(placed), np.concatenate(looks), cell)
    tree = cKDTree(middle)
    with ThreadPoolExecutor(2) as pool:
        found = list(pool.map(lambda p, n: _onto(tree, middle, way, p, n, cap), placed, looks))
    gaps = np.concatenate([gaps for _, _, gaps in found])
    far = 3 * np.median(np.abs(gaps)) if len(gaps) else 0.0
    residual = float(np.sqrt(np.minimum(gaps**2, far**2).mean())) if len(gaps) else 0.0
    return [(turn, shift) for turn, shift, _ in found], residual


def _calibrated(
    scan: Scan, points: Sequence[Points], normals: Sequence[Points], cap: float
) -> tuple[list[Points], list[Points]]:
    """The rigid motion of every pass that follows from one of the scanner to its turntable for each tilt.

    A table off its axis makes all passes of a round err alike as the scanner sees it, so that a round body only seems
    larger or smaller; told pass by pass that is found slowly, as one motion for the round at once (Gauss and Newton).
    """
    back = [turned_about(scan.axis, -one.angle) for one in scan.passes]
    tilts = sorted({one.tilt for one in scan.passes})
    group = np.array([tilts.index(one.tilt) for one in scan.passes])
    of = np.repeat(np.arange(len(points)), [len(p) for p in points])
    turns, shifts = [np.eye(3) for _ in points], [np.zeros(3) for _ in points]
    for _ in range(_CALIBRATIONS):
        placed = np.concatenate([p @ t.T + s for p, t, s in zip(points, turns, shifts, strict=True)])
        looks = np.concatenate([n @ t.T for n, t in zip(normals, turns, strict=True)])
        away, near = cKDTree(placed).query(placed, k=_OTHERS, distance_upper_bound=cap, workers=2)
        near = np.minimum(near, len(placed) - 1)
        other = np.isfinite(away) & (of[near] != of[:, None]) & (np.einsum("ij,ikj->ik", looks, looks[near]) > 0.5)
        row = np.flatnonzero(other.any(axis=1))
        if len(row) < 6 * len(tilts):
            break
        mate = near[row, other[row].argmax(axis=1)]
        n = looks[mate]
        gap = np.einsum("ij,ij->i", placed[row] - placed[mate], n)
        columns = np.zeros((len(row), 6 * len(tilts)))
        for place, sign in ((row, 1.0), (mate, -1.0)):
            seen = np.einsum("ijk,ij->ik", np.array(back)[of[place]], n)  # the normal as the scanner saw it
            at = np.einsum("ijk,ij->ik", np.array(back)[of[place]], placed[place] - scan.table)
            first = 6 * group[of[place]]
            each = np.concatenate([np.cross(at, seen), seen], axis=1) * sign
            for k in range(6):
                np.add.at(columns, (np.arange(len(row)), first + k), each[:, k])
        weight = 1 / (1 + (gap / (2 * np.median(np.abs(gap)) + 1e-12)) ** 2)
        normal = (columns * weight[:, None]).T @ columns
        normal += 1e-6 * np.trace(normal) / len(normal) * np.eye(len(normal))
        move = np.linalg.solve(normal, -(columns * weight[:, None]).T @ gap).reshape(-1, 6)
        for k, turn in enumerate(back):
            spin, shift = move[group[k], :3], move[group[k], 3:]
            angle = float(np.linalg.norm(spin))
            about = turned_about(spin / angle, float(np.degrees(angle))) if angle > 0 else np.eye(3)
            # In the scanner's room at the time of the pass, then turned back with it.
            whole = turn @ about @ turn.T
            turns[k], shifts[k] = (
                whole @ turns[k],
                whole @ (shifts[k] - scan.table) + scan.table + turn @ shift,
            )
    return turns, shifts


def cells_of(points: Points, normals: Points, cell: float) -> tuple[Points, Points, Floats]:
    """Points and normals averaged over cells ``cell`` mm wide, and how many each speaks for.

    Points that look different ways are kept apart, so that the two sides of a thin wall are not mixed.
    """
    low = points.min(axis=0)
    place = ((points - low) // cell).astype(np.int64)
    across = place.max(axis=0) + 1
    axis = np.abs(normals).argmax(axis=1)
    side = 2 * axis + (np.take_along_axis(normals, axis[:, None], axis=1)[:, 0] < 0)
    key = ((place[:, 0] * across[1] + place[:, 1]) * across[2] + place[:, 2]) * 6 + side
    _, group, count = np.unique(key, return_inverse=True, return_counts=True)
    middle = np.stack([np.bincount(group, points[:, k]) for k in range(3)], axis=1) / count[:, None]
    way: Points = np.stack([np.bincount(group, normals[:, k]) for k in range(3)], axis=1)
    return middle, way / np.maximum(np.linalg.norm(way, axis=1), 1e-12)[:, None], count.astype(float)


def _onto(
    tree: cKDTree, middle: Points, way: Points, points: Points, looks: Points, cap: float
) -> tuple[Points, Points, Floats]:
    """The small rigid motion that brings points onto a surface, and their distances from it before."""
    away, near = tree.query(points, distance_upper_bound=cap)
    near = np.minimum(near, len(middle) - 1)
    usable = np.isfinite(away) & (np.einsum("ij,ij->i", looks, way[near]) > 0.5)
    if usable.sum() < 12:
        return np.eye(3), np.zeros(3), np.empty(0)
    p, n = points[usable], way[near[usable]]
    gaps = np.einsum("ij,ij->i", p - middle[near[usable]], n)
    # Whoever lies far off is more likely an outlier than out of place.
    weight = 1 / (1 + (gaps / (2 * np.median(np.abs(gaps)) + 1e-12)) ** 2)
    centre = p.mean(axis=0)
    rows = np.concatenate([np.cross(p - centre, n), n], axis=1)
    normal = (rows * weight[:, None]).T @ rows
    # A ball may turn freely: what the points do not tell stays as it is.
    normal += 1e-4 * np.trace(normal) / 6 * np.eye(6)
    move = np.linalg.solve(normal, -(rows * weight[:, None]).T @ gaps)
    angle = float(np.linalg.norm(move[:3]))
    turn = turned_about(move[:3] / angle, float(np.degrees(angle))) if angle > 0 else np.eye(3)
    return turn, centre + move[3:] - turn @ centre, gaps
