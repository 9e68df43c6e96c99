"""Joining solids: exactly, or with a round of given radius, measured before and after."""

from dataclasses import dataclass

from ulvet.core.join.blending import fillet_between
from ulvet.core.join.measuring import Hold, hold_between, sealed_in
from ulvet.core.join.solids import CannotJoin, TooFarApart, mesh_of, solids_of
from ulvet.core.mesh import Mesh

__all__ = ["CannotJoin", "Hold", "Joined", "TooFarApart", "join", "measure_hold"]


@dataclass(frozen=True)
class Joined:
    """Two solids as one: how they held together, the volume (mm³) of cavities sealed, the grid of the round (mm)."""

    mesh: Mesh
    hold: Hold
    sealed: float
    pitch: float | None


def join(a: Mesh, b: Mesh, blend: float = 0.0) -> Joined:
    """Unite two closed meshes exactly; with ``blend`` (mm) the corner between them is filled to a round of that radius.

    Vertices farther from where they cross than two and a half times the blend keep their coordinates to the bit. Raises
    CannotJoin when they do not overlap or one of them is no solid.
    """
    ours, theirs = solids_of(a, b)
    hold = hold_between(ours, theirs)
    whole, pitch = ours.body + theirs.body, None
    if blend > 0 and len(hold.rim):
        fillet = fillet_between(a, b, hold.rim, blend)
        pitch = fillet.pitch
        if fillet.body is not None:
            whole += fillet.body
    mesh, _ = mesh_of(whole)
    return Joined(mesh, hold, sealed_in(mesh, a, b), pitch)


def measure_hold(a: Mesh, b: Mesh) -> tuple[Hold, float]:
    """How two closed meshes would hold together, and the volume (mm³) they would seal; see ``join``."""
    ours, theirs = solids_of(a, b)
    hold = hold_between(ours, theirs)
    mesh, _ = mesh_of(ours.body + theirs.body)
    return hold, sealed_in(mesh, a, b)
