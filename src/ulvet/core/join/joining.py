"""Joining solids: exactly, or with a round of given radius, measured before and after."""

from dataclasses import dataclass

import numpy as np

from ulvet.core.first_forms.shapes import form_mesh
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.geometry.solids import CannotJoin, TooFarApart, mesh_of, solids_of
from ulvet.core.join.fillet import Fillet, fillet_between
from ulvet.core.join.hold import Hold, hold_between, middle_of_neck, sealed_in, without_sealed
from ulvet.core.join.seam_cleanup import clean_seam

__all__ = ["CannotJoin", "Hold", "JoinedMesh", "TooFarApart", "join_meshes", "measure_hold"]


@dataclass(frozen=True)
class JoinedMesh:
    """Two solids as one: how they held together, the volume (mm³) of cavities sealed, the grid of the round (mm)."""

    mesh: Mesh
    hold: Hold
    sealed: float
    pitch: float | None


def join_meshes(a: Mesh, b: Mesh, blend: float = 0.0, neck: float = 0.0, fill: bool = False) -> JoinedMesh:
    """Unite two closed meshes exactly; with ``blend`` (mm) the corner between them is filled to a round of that radius.

    ``neck`` (mm) sets a ball of that thickness in the middle of where they meet, so that they hold by no less. ``fill``
    fills the cavities the two would seal between them.

    Vertices farther from where they cross than two and a half times the blend keep their coordinates to the bit. Raises
    CannotJoin when they do not overlap, one of them is no solid, or the blend is more than half the diagonal of the
    smaller one: a round so large would swell both as a whole.
    """
    most = min(float(np.linalg.norm(np.ptp(mesh.vertices, axis=0))) for mesh in (a, b)) / 2
    if blend > most:
        raise CannotJoin(
            f"The round is {blend / most:.1f} times what the smaller of the two can carry, half its diagonal: ask for "
            "a smaller one; nothing was changed."
        )
    ours, theirs = solids_of(a, b)
    hold = hold_between(ours, theirs)
    rounded = blend > 0 and len(hold.rim)
    fillet = fillet_between(a, b, hold.rim, blend) if rounded else Fillet(None, None)
    whole = ours.body + theirs.body
    if fillet.body is not None:
        whole += fillet.body
    if neck > 0 and len(hold.rim):
        ball = form_mesh("sphere", neck, neck, neck)
        centred = Mesh(ball.vertices + middle_of_neck(hold) - np.array([0, 0, neck / 2]), ball.faces)
        whole += solids_of(centred)[0].body
    mesh = clean_seam(*mesh_of(whole), (ours.number, theirs.number))
    sealed = sealed_in(mesh, a, b)
    if fill and sealed > 0:
        mesh, sealed = without_sealed(mesh, a, b), 0.0
    return JoinedMesh(mesh, hold, sealed, fillet.pitch)


def measure_hold(a: Mesh, b: Mesh) -> tuple[Hold, float]:
    """How two closed meshes would hold together, and the volume (mm³) they would seal; see ``join_meshes``."""
    ours, theirs = solids_of(a, b)
    hold = hold_between(ours, theirs)
    mesh, _ = mesh_of(ours.body + theirs.body)
    return hold, sealed_in(mesh, a, b)
