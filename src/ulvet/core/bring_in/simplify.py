"""Fewer triangles, with the price stated: how far the surface moved, both ways."""

from dataclasses import dataclass

import fast_simplification
import numpy as np

from ulvet.core.bring_in.edge_collapse import collapse_within
from ulvet.core.geometry.deviation import Deviation, deviation_between
from ulvet.core.geometry.mesh import Mesh, bounds, spatially_sorted
from ulvet.core.geometry.topology import edges_of, is_watertight, without_collapsed_faces
from ulvet.core.progress import Progress, no_progress, progress_within

__all__ = ["Simplified", "simplify_to_count", "simplify_within"]

LEAST_TRIANGLES = 4
"""Faces of a tetrahedron, the least closed mesh."""


@dataclass(frozen=True)
class Simplified:
    """A simplified mesh and how far it lies from the one before; ``why`` it is as it was, where nothing was done."""

    mesh: Mesh
    deviation: Deviation
    why: str = ""


def simplify_to_count(mesh: Mesh, triangles: int) -> Simplified:
    """A mesh of about so many triangles, by collapsing edges (quadric error, Garland and Heckbert 1997).

    A closed surface stays closed, or the mesh is left as it was. Raises ValueError for fewer than four triangles.
    """
    if triangles < LEAST_TRIANGLES:
        raise ValueError(f"No solid has fewer than {LEAST_TRIANGLES} triangles: ask for more.")
    if triangles >= len(mesh.faces):
        return _as_it_was(mesh, "it has no more triangles than that")
    # Everything is twice as fast where neighbours lie near each other in memory.
    near = spatially_sorted(mesh)
    fewer = _collapsed(near, triangles)
    if fewer is None:
        return _as_it_was(mesh, "with fewer triangles it would not stay closed")
    return Simplified(fewer, deviation_between(near, fewer))


def simplify_within(mesh: Mesh, most: float, progress: Progress = no_progress) -> Simplified:
    """The lightest mesh found that lies nowhere farther than ``most`` mm from the one before, nor that from it.

    Edges are collapsed one by one wherever that holds (``collapsing.py``), so that one bad place costs its own
    triangles and no others; what is said of it was measured. Raises ValueError for a deviation not above 0.
    """
    if not (np.isfinite(most) and most > 0):
        raise ValueError("A deviation has to be above 0 mm.")
    # Everything is twice as fast where neighbours lie near each other in memory.
    near = spatially_sorted(without_collapsed_faces(mesh))
    fewer = collapse_within(near, most, progress_within(progress, 0.0, 0.7)) if len(near.faces) else near
    if len(fewer.faces) >= len(mesh.faces):
        open_ = "" if is_watertight(edges_of(near)) else "; open rims keep their corners, so mend them first"
        return _as_it_was(mesh, f"no edge of it can go without the surface moving farther than that{open_}")
    progress(0.7, "measuring how far the surface moved")
    return Simplified(fewer, deviation_between(near, fewer))


def _collapsed(mesh: Mesh, triangles: int) -> Mesh | None:
    """About so many triangles; None where a closed surface would not stay closed."""
    middle = bounds(mesh).mean(axis=0)
    # The simplifier works in float32.
    points, faces = fast_simplification.simplify(
        (mesh.vertices - middle).astype(np.float32), np.array(mesh.faces), target_count=triangles
    )
    fewer = without_collapsed_faces(Mesh(points + middle, faces.astype(np.int32)))
    if not len(fewer.faces):
        return None
    lost = is_watertight(edges_of(mesh)) and not is_watertight(edges_of(fewer))
    return None if lost else fewer


def _as_it_was(mesh: Mesh, why: str) -> Simplified:
    return Simplified(mesh, Deviation(0.0, 0.0), why)
