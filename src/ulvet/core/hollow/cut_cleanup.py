"""What a Boolean operation leaves: faces without area, and coordinates that only went to print size and back."""

from ulvet.core.geometry.degenerate_faces import drop_faces, zero_area_faces
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.geometry.precision import with_own_vertices
from ulvet.core.tolerances import BENCH_TOLERANCES

__all__ = ["cleaned_cut"]


def cleaned_cut(before: Mesh, made: Mesh, factor: float) -> Mesh:
    """A mesh that was cut in print mm as a figure's: without faces that have no area, what was not touched to the last
    bit as it was ``before``."""
    height = float(BENCH_TOLERANCES.zero_area_height)
    mesh = with_own_vertices(before, Mesh(made.vertices / factor, made.faces))
    return drop_faces(mesh, height)[0] if zero_area_faces(mesh, height).any() else mesh
