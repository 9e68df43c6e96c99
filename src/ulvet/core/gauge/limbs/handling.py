"""Handling strength: each limb as a cantilever beam, pushed sideways at the tip."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ulvet.core.bench.materials import Material
from ulvet.core.gauge.limbs.limbs import Limb, limbs_of
from ulvet.core.gauge.limbs.sections import Section
from ulvet.core.geometry.mesh import Floats, Mesh, Points
from ulvet.core.geometry.solids import CannotJoin, mesh_of, solids_of
from ulvet.core.geometry.topology import edges_of, face_shells

__all__ = ["FOLLOWS", "WeakLimb", "limbs_in", "weakest_first", "weakest_of"]

FOLLOWS = 20.0
"""Print mm a tip gives way before a finger slips off it (bench default)."""
_CHIP = 1.0
"""Print mm: what breaks off shorter than this is a chip (bench default)."""
_TABLE = 750.0
"""Height (mm) of a table a figure falls from."""
_STOPS_WITHIN = 2.0
"""Print mm in which a falling figure comes to rest on a hard floor (bench default, a rough guess)."""
_GRAVITY = 9.81e-3
"""N/g."""


@dataclass(frozen=True)
class WeakLimb:
    """A limb where it breaks the soonest, print mm and newtons; all of it is an estimate.

    ``force`` pushed sideways at the ``tip`` (3,) breaks it at ``point`` (3,), ``lever`` away, where it is ``section``
    thick the way it bends, ``aside`` (3,), and ``width`` wide; ``normal`` (3,) is the way it goes on there. It gives
    way by ``bends`` before that; ``slips`` where that is farther than a finger follows. ``drop`` is how many times
    what it bears a fall from a table asks of it, a rough guess. ``line`` (s, 3), ``thick`` (s,) and ``forces`` (s,) are
    its middle, how thick it is and what push would break it there, along it but for the end of its tip.
    """

    tip: Points
    point: Points
    normal: Points
    aside: Points
    force: float
    lever: float
    section: float
    width: float
    bends: float
    slips: bool
    drop: float
    line: Points
    thick: Floats
    forces: Floats


def weakest_first(mesh: Mesh, material: Material, up: Points | None = None) -> list[WeakLimb]:
    """Limbs of a figure that stands on its lowest points, z up, print mm, the weakest first.

    Every section of a limb is stressed by the push at the tip by lever over section modulus, as in a beam clamped
    there (Euler and Bernoulli); the greatest stress says the force. Sections nearer to the tip than they are wide, or
    than 1 mm, are left out. ``up`` (3,) is the way layers are laid on each other: a limb along it is weaker. Empty
    where the material's strength is not known.
    """
    return weakest_of(limbs_in(mesh), material, up)


def limbs_in(mesh: Mesh) -> list[Limb]:
    """The limbs of a figure as ``weakest_first`` takes them, whatever it is made of."""
    return limbs_of(_one_skin(mesh))


def weakest_of(limbs: Sequence[Limb], material: Material, up: Points | None = None) -> list[WeakLimb]:
    """Limbs that were found, as ``weakest_first`` tells them."""
    if material.strength is None:
        return []
    found = [_weakest(limb, material, material.strength, up) for limb in limbs]
    return sorted((limb for limb in found if limb is not None), key=lambda limb: limb.force)


def _one_skin(mesh: Mesh) -> Mesh:
    """Unite overlapping shells where possible, so that a limb standing on another shell hangs on it."""
    if face_shells(mesh, edges_of(mesh))[0] <= 1:
        return mesh
    try:
        return mesh_of(solids_of(mesh)[0].body)[0]
    except CannotJoin:
        return mesh


def _weakest(limb: Limb, material: Material, strength: float, up: Points | None) -> WeakLimb | None:
    width = np.array([section.along for section in limb.sections])
    bears = strength * np.array([section.modulus * _share(section, material, up) for section in limb.sections])
    slender = limb.levers >= np.maximum(_CHIP, width)
    if not slender.any():
        return None
    force = np.where(slender, bears / limb.levers, np.inf)
    at = int(force.argmin())
    section = limb.sections[at]
    bends = float(force[at]) * _gives(limb, material.modulus) if material.modulus else 0.0
    # What hangs on a section is slowed down with it, on the whole half its lever away.
    heavy = limb.beyond * material.density / 1000 * _GRAVITY * (_TABLE / _STOPS_WITHIN)
    return WeakLimb(
        tip=limb.tip,
        point=section.middle,
        normal=section.normal,
        aside=section.aside,
        force=float(force[at]),
        lever=float(limb.levers[at]),
        section=section.across,
        width=section.along,
        bends=bends,
        slips=bends > FOLLOWS,
        drop=float((heavy * limb.levers / 2 / bears)[slender].max()),
        line=np.array([one.middle for one in limb.sections])[slender],
        thick=np.array([one.across for one in limb.sections])[slender],
        forces=force[slender],
    )


def _share(section: Section, material: Material, up: Points | None) -> float:
    """Give the share of full strength left in each section: all of it along the layers, less the more steeply the limb
    crosses them."""
    if up is None:
        return 1.0
    return 1 - (1 - material.across_layers) * float(section.normal @ up) ** 2


def _gives(limb: Limb, modulus: float) -> float:
    """Millimetres that the tip gives way for every newton, by the bending of the limb alone."""
    order = np.argsort(limb.levers)
    lever: Floats = limb.levers[order]
    moment = np.array([section.moment for section in limb.sections])[order]
    # At a root the thicker side is all that stands for the step to it.
    stiff = np.maximum(moment[1:], moment[:-1])
    return float((np.diff(lever) * ((lever[1:] + lever[:-1]) / 2) ** 2 / stiff).sum() / modulus)
