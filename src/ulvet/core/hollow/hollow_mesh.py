"""A mesh made hollow: what overlaps in it is united first, what crosses itself is mended first."""

from collections.abc import Sequence
from dataclasses import dataclass

import manifold3d

from ulvet.core.geometry.crossing import crossing_faces
from ulvet.core.geometry.deviation import distance_to
from ulvet.core.geometry.mesh import Floats, Mesh, concatenated, flipped, volume
from ulvet.core.geometry.samples import spread_points
from ulvet.core.geometry.solids import Body, body_of, mesh_of, shells_of, solids_of
from ulvet.core.geometry.topology import edges_of, is_watertight
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
    if not len(mesh.faces) or not is_watertight(edges_of(mesh)):
        raise CannotHollow("it does not close, so that nothing says what is inside: mend it first")
    pitch_for(mesh, wall)
    crossing = bool(len(crossing_faces(mesh).pairs))
    if crossing:
        try:
            mesh = mend_mesh(mesh).mesh
        except CannotMend as refusal:
            raise CannotHollow("it crosses itself and could not be mended: mend it first") from refusal
    shells = shells_of(mesh)
    if len(shells) == 1:
        if volume(mesh) <= 0:
            raise CannotHollow("it is inside out: mend it first")
        made = hollow_out(mesh, wall, narrowest, regions, progress)
        hollow = concatenated(mesh, *map(flipped, made.spaces)) if made.spaces else mesh
    else:
        (whole,) = solids_of(mesh)
        filled = _filled(shells)
        made = hollow_out(mesh_of(filled)[0], wall, narrowest, regions, progress)
        hollow = mesh_of(whole.body - _together(made.spaces))[0] if made.spaces else mesh
    if not made.spaces:
        raise CannotHollow(
            f"nowhere is it thick enough for two walls of {wall:.1f} mm and {narrowest:.1f} mm between: give a thinner "
            "wall, or leave it solid"
        )
    return HollowMesh(hollow, mesh, made.spaces, made.pitch, crossing)


def walls_between(skin: Mesh, spaces: Sequence[Mesh]) -> Floats:
    """The wall at points spread evenly over the surfaces of spaces, (p,) mm: the distance to the skin."""
    inside = concatenated(*spaces)
    return distance_to(skin, spread_points(inside, _WALL_POINTS)[0])


def _filled(shells: Sequence[Mesh]) -> Body:
    """All shells that look outward as one solid, without the cavities in them."""
    return manifold3d.Manifold.batch_boolean(
        [body_of(shell)[0] for shell in shells if volume(shell) > 0], manifold3d.OpType.Add
    )


def _together(spaces: Sequence[Mesh]) -> Body:
    return manifold3d.Manifold.batch_boolean([body_of(space)[0] for space in spaces], manifold3d.OpType.Add)
