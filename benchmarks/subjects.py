"""What is measured: the same work by Ulvet and by a general library."""

import numpy as np
import trimesh

from benchmarks.measured import clock
from ulvet.core.io import read_mesh
from ulvet.core.layers import find_islands, raster_layers

__all__ = ["layers_ours", "layers_theirs", "read_ours", "read_theirs"]


def read_ours(path: str) -> int:
    return len(read_mesh(path).vertices)


def read_theirs(path: str) -> int:
    return len(trimesh.load_mesh(path, file_type="stl").vertices)


def layers_ours(path: str) -> int:
    mesh = read_mesh(path)
    with clock():
        stack = raster_layers(mesh, 0.05, 0.034)
        find_islands(stack, 0.034, 0.02)
    return stack.count


def layers_theirs(path: str) -> int:
    mesh = trimesh.load_mesh(path, file_type="stl")
    heights = (np.arange(600) + 0.5) * 0.05
    with clock():
        cuts = mesh.section_multiplane(mesh.bounds[0], [0, 0, 1], heights)
    return sum(cut is not None for cut in cuts)
