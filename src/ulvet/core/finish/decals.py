"""Where a decal goes, and whether it lies flat there: a sheet bends one way, not two at once.

What a sheet cannot follow is the Gaussian curvature under it, the sum of the angles that vertices lack of a full turn.
Spread evenly under a round sheet of radius r, a curvature K leaves K r / 3 of rim that has nowhere to go (from the rim
of a cap of a sphere, to its third power).
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from math import floor

import numpy as np

from ulvet.core.findings.finding import Finding, Place, Remedy, SetStep, Severity
from ulvet.core.finish.steps import Decal, is_meant, places_on
from ulvet.core.geometry.mesh import Floats, Mesh, Points, face_normals
from ulvet.core.geometry.topology import edges_of
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.step import Part
from ulvet.core.stations import Station

__all__ = ["DecalSeen", "check_decals", "decals_seen"]

MOST_WRINKLE = PrintMM(0.3)
"""Rim of a decal, print mm, that softener still draws down (bench default)."""


@dataclass(frozen=True)
class DecalSeen:
    """A decal on a part, by its number in the plan: where it lies with the normal there, and how much of its rim has
    nowhere to go, print mm."""

    decal: int
    point: Points
    normal: Points
    wrinkle: float


def decals_seen(part: Part, decals: Sequence[Decal], factor: float) -> tuple[DecalSeen, ...]:
    """The decals of a part that is printed at ``factor``."""
    meant = [(at, one) for at, one in enumerate(decals) if is_meant(one.part, part.name)]
    if not meant:
        return ()
    normals, lacks = face_normals(part.mesh), _lacking(part.mesh)
    found = []
    for at, decal in meant:
        points, faces, _ = places_on((decal.place,), decal.part, part)
        if not len(faces):
            continue
        reach = float(np.hypot(decal.wide, decal.high)) / 2
        near = np.linalg.norm(part.mesh.vertices - points[0], axis=1) <= reach / factor
        # Of thin parts the far side does not count.
        facing = np.zeros(len(near), bool)
        facing[part.mesh.faces[normals @ normals[faces[0]] > 0].ravel()] = True
        curvature = abs(float(lacks[near & facing].sum()))
        found.append(DecalSeen(at, points[0], normals[faces[0]], curvature * reach / 3))
    return tuple(found)


def check_decals(part: Part, seen: Sequence[DecalSeen], decals: Sequence[Decal]) -> Iterator[Finding]:
    """Decals that cannot lie flat."""
    for one in seen:
        if one.wrinkle <= MOST_WRINKLE:
            continue
        x, y, z = map(float, one.point)
        a, b, c = map(float, one.normal)
        decal = decals[one.decal]
        # What cannot be drawn down grows with the third power of a decal's size.
        share = (MOST_WRINKLE / one.wrinkle) ** (1 / 3)
        wide, high = (PrintMM(floor(10 * share * side) / 10) for side in (decal.wide, decal.high))
        smaller = [
            (other.model_copy(update={"wide": wide, "high": high}) if at == one.decal else other).model_dump(
                mode="json"
            )
            for at, other in enumerate(decals)
        ]
        yield Finding(
            code="decal-wrinkles", station=Station.FINISH, severity=Severity.NOTE, part=part.name,
            title=f"The decal {decal.name} wrinkles there", measured=one.wrinkle, limit=MOST_WRINKLE,
            unit="mm", where=Place.model_validate({"point": (x, y, z), "normal": (a, b, c)}),
            why=f"The surface is round two ways, so {one.wrinkle:.1f} mm of its rim have nowhere to go (an estimate): "
            "make it smaller, cut it from the rim inward, or paint it by hand.",
            remedies=() if min(wide, high) <= 0 else (
                Remedy(
                    label=f"Make it {wide:g} × {high:g} mm",
                    change=SetStep(kind="colour-plan", values={"decals": smaller}),
                ),
            ),
        )  # fmt: skip


def _lacking(mesh: Mesh) -> Floats:
    """The angle (v,) by which the faces about every vertex lack a full turn, radians; 0 at an open edge."""
    corners = mesh.vertices[mesh.faces]
    lacks = np.full(len(mesh.vertices), 2 * np.pi)
    for k in range(3):
        one, other = corners[:, (k + 1) % 3] - corners[:, k], corners[:, (k + 2) % 3] - corners[:, k]
        cross = np.linalg.norm(np.cross(one, other), axis=1)
        angle = np.arctan2(cross, np.einsum("ij,ij->i", one, other))
        lacks -= np.bincount(mesh.faces[:, k], angle, minlength=len(lacks))
    edges = edges_of(mesh)
    faces, sides = np.divmod(np.flatnonzero(edges.uses[edges.of_half] == 1), 3)
    lacks[mesh.faces[faces, sides]] = lacks[mesh.faces[faces, (sides + 1) % 3]] = 0.0
    lacks[np.bincount(mesh.faces.ravel(), minlength=len(lacks)) == 0] = 0.0
    return lacks
