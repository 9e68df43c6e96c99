"""A mesh made hollow: what overlaps in it is united first, what crosses itself is mended first."""

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import manifold3d

from ulvet.core.geometry.crossing import crossing_faces
from ulvet.core.geometry.deviation import distance_to
from ulvet.core.geometry.mesh import Floats, Mesh, concatenated, flipped, volume
from ulvet.core.geometry.samples import spread_points
from ulvet.core.geometry.solids import Body, body_of, mesh_of, shells_of, solids_of
from ulvet.core.geometry.topology import Edges, edges_of, is_watertight
from ulvet.core.hollow.hollowing import CannotHollow, HollowRegion, hollow_out, pitch_for
from ulvet.core.mend.mend_mesh import mend_mesh
from ulvet.core.mend.mend_methods import CannotMend
from ulvet.core.progress import Progress, no_progress

__all__ = ["HollowMesh", "hollow_mesh", "walls_between"]

_WALL_POINTS = 20_000
"""Points on the inside at which its wall is measured (bench default)."""


@dataclass(frozen=True)
class HollowMesh:
    """A mesh with its new spaces, mm: the ``skin`` it was hollowed from, the spaces (closed, looking outward), the
    pitch they were drawn at, and whether the skin was mended before."""

    mesh: Mesh
    skin: Mesh
    spaces: tuple[Mesh, ...]
    pitch: float
    mended: bool

    @property
    def saved(self) -> float:
        """What the spaces take out of the solid, mm³."""
        return volume(self.skin) - volume(self.mesh)


def hollow_mesh(
    mesh: Mesh,
    wall: float,
    narrowest: float,
    regions: Sequence[HollowRegion] = (),
    progress: Progress = no_progress,
) -> HollowMesh:
    """A closed mesh in print mm with the spaces of ``hollow_out``.

    Overlapping shells are united first, exactly where that can be done, else by volume; a cavity that is there already
    becomes one with the space about it. What was right of the skin keeps its coordinates.

    Raises CannotHollow where the mesh does not close, or nowhere has room for the wall twice and the narrowest inside.
    """
    edges = edges_of(mesh)
    if not len(mesh.faces) or not is_watertight(edges):
        raise CannotHollow("it does not close, so that nothing says what is inside: mend it first")
    pitch_for(mesh, wall)
    with ThreadPoolExecutor(1) as beside:
        # Most meshes cross nowhere, so both are begun at once.
        crossing = beside.submit(crossing_faces, mesh)
        try:
            made = _hollowed(mesh, edges, wall, narrowest, regions, progress)
        except CannotHollow:
            if not len(crossing.result().pairs):
                raise
        else:
            if not len(crossing.result().pairs):
                return made
    try:
        mended = mend_mesh(mesh).mesh
    except CannotMend as refusal:
        raise CannotHollow("it crosses itself and could not be mended: mend it first") from refusal
    return replace(_hollowed(mended, edges_of(mended), wall, narrowest, regions, progress), mended=True)


def _hollowed(
    mesh: Mesh, edges: Edges, wall: float, narrowest: float, regions: Sequence[HollowRegion], progress: Progress
) -> HollowMesh:
    """The same of a closed mesh whose shells do not cross."""
    shells = shells_of(mesh, edges)
    volumes = [volume(shell) for shell in shells]
    if sum(volumes) <= 0:
        raise CannotHollow("it is inside out: mend it first")
    outward = [shell for shell, filled in zip(shells, volumes, strict=True) if filled > 0]
    cavities = len(outward) < len(shells)
    made = hollow_out(concatenated(*outward) if cavities else mesh, wall, narrowest, regions, progress)
    if not made.spaces:
        raise CannotHollow(
            f"nowhere is it thick enough for two walls of {wall:.1f} mm and {narrowest:.1f} mm between: give a thinner "
            "wall, or leave it solid"
        )
    if cavities:
        (whole,) = solids_of(mesh)
        hollow = mesh_of(whole.body - _together(made.spaces))[0]
    else:
        hollow = concatenated(mesh, *map(flipped, made.spaces))
    return HollowMesh(hollow, mesh, made.spaces, made.pitch, False)


def walls_between(skin: Mesh, spaces: Sequence[Mesh]) -> Floats:
    """The wall at points spread evenly over the surfaces of spaces, (p,) mm: the distance to the skin."""
    inside = concatenated(*spaces)
    return distance_to(skin, spread_points(inside, _WALL_POINTS)[0])


def _together(spaces: Sequence[Mesh]) -> Body:
    return manifold3d.Manifold.batch_boolean([body_of(space)[0] for space in spaces], manifold3d.OpType.Add)
