"""A part mirrored left for right: its mesh, how it stands, and what holds it."""

from dataclasses import replace

import numpy as np

from ulvet.core.geometry.mesh import Mesh
from ulvet.core.lengths import FigureMM
from ulvet.core.recipe.openings import Opening
from ulvet.core.recipe.stance import Stance, Vector
from ulvet.core.recipe.step import Part

__all__ = ["mirrored_mesh", "mirrored_part", "mirrored_stance"]

_LEFT_FOR_RIGHT = np.array([-1.0, 1.0, 1.0])
"""Factors of x, y and z."""


def mirrored_part(part: Part) -> Part:
    """A part, with its stance and supports, mirrored at x = 0: printed, it is the mirror image of the part's print."""
    supports = None if part.supports is None else mirrored_mesh(part.supports)
    captured = None if part.captured is None else mirrored_mesh(part.captured)
    mesh, stance = mirrored_mesh(part.mesh), mirrored_stance(part.stance)
    openings = tuple(_mirrored_opening(one) for one in part.openings)
    return replace(
        part,
        mesh=mesh,
        stance=stance,
        supports=supports,
        captured=captured,
        frame=None,
        openings=openings,
        seams=tuple(
            one.model_copy(update={"point": _mirrored(one.point), "normal": _mirrored(one.normal)})
            for one in part.seams
        ),
        keys=tuple(
            one.model_copy(update={name: _mirrored(getattr(one, name)) for name in ("point", "way", "across")})
            for one in part.keys
        ),
    )


def mirrored_mesh(mesh: Mesh) -> Mesh:
    """A mesh mirrored at x = 0, its faces turned so that they point outwards still."""
    return Mesh(mesh.vertices * _LEFT_FOR_RIGHT, mesh.faces[:, ::-1])


def mirrored_stance(stance: Stance) -> Stance:
    """How the mirror image stands. Both the shortest way to the upright and turning over about x are mirrored with the
    direction, so that only the spin changes its sense."""
    contacts = tuple(
        one.model_copy(update={"point": _mirrored(one.point), "normal": _mirrored(one.normal)})
        for one in stance.contacts
    )
    return stance.model_copy(update={"up": _mirrored(stance.up), "spin": -stance.spin, "contacts": contacts})


def _mirrored_opening(opening: Opening) -> Opening:
    x, y, z = opening.point
    return opening.model_copy(update={"point": (FigureMM(-x), y, z), "way": _mirrored(opening.way)})


def _mirrored(vector: Vector) -> Vector:
    x, y, z = vector
    return -x, y, z
