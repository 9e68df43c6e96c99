"""What is measured of Finish: a region grown, where a brush comes to, and mixes for a colour."""

import numpy as np

from benchmarks.measured import clock
from ulvet.core.bench.paints import PAINTS
from ulvet.core.finish.mixing import proposals
from ulvet.core.finish.reach import reach_by_stage
from ulvet.core.finish.regions import OpenedMesh
from ulvet.core.formats.read import read_mesh
from ulvet.core.geometry.mesh import Mesh, bounds
from ulvet.core.geometry.topology import submesh

__all__ = ["grow_ours", "mix_ours", "reach_ours"]

_TALL = 75.0
"""Mm of the figure that is looked at."""
_STAGES = 5


def grow_ours(path: str) -> int:
    """A region grown on a figure that is opened for painting; how many faces it has."""
    opened = OpenedMesh.of(read_mesh(path))
    with clock():
        return int(opened.grown(np.array([0]), 30.0, 1.0).sum())


def reach_ours(path: str) -> int:
    """A figure cut in five by height, put together in five stages; cm² out of reach of its last."""
    mesh = read_mesh(path)
    low, high = bounds(mesh)
    mesh = Mesh((mesh.vertices - low) * (_TALL / (high[2] - low[2])), mesh.faces)
    heights = mesh.vertices[mesh.faces].mean(axis=1)[:, 2]
    slices = np.minimum((heights / _TALL * _STAGES).astype(int), _STAGES - 1)
    parts = [submesh(mesh, slices == at)[0] for at in range(_STAGES)]
    with clock():
        found = reach_by_stage(parts, [list(range(at + 1)) for at in range(_STAGES)], 4.0)
    return round(sum(one.by_stage[_STAGES - 1] for one in found) / 100)


def mix_ours(path: str) -> int:
    """The best mixes of the bench's paints for a colour; how many."""
    proposals("#808080", PAINTS[:3])
    with clock():
        return len(proposals("#41576b", PAINTS))
