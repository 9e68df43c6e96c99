"""What is measured of the parts of a figure that was cut: joints, their keys, and how all goes together. Print mm."""

from collections.abc import Sequence

import numpy as np
import shapely
from pydantic import BaseModel, ConfigDict

from ulvet.core.geometry.mesh import Mesh, Points, bounds, scaled, volume
from ulvet.core.geometry.topology import connected_groups
from ulvet.core.part.assembly import Assembly, assembly_in_order, assembly_of
from ulvet.core.part.caps import widths_of
from ulvet.core.part.fit import KeyPair, about_keys, fine_places, flat_keys, key_gap, key_pairs, overlap_of, ways_of
from ulvet.core.part.joints import Joint, joints_between
from ulvet.core.part.strength import bending_modulus
from ulvet.core.part.ways_in import Movable
from ulvet.core.recipe.stance import Vector
from ulvet.core.recipe.step import Part

__all__ = ["BlockedPart", "JointSeen", "PartsSurvey", "PutTogether", "survey_parts"]


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True)


class JointSeen(_Value):
    """One joint between two parts."""

    cut: int
    """Id of the step that made it."""
    parts: tuple[str, str]
    point: Vector
    """The middle of its first key, or of itself, figure mm."""
    way: Vector
    """Out of the first part into the second."""
    area_mm2: float
    narrowest_mm: float
    keys: int
    glued: bool
    """Whether it is to be glued: without keys, or where one of them was made for it."""
    gap_mm: float | None
    """Least air between a peg and its hole; None without pegs."""
    gap_asked_mm: float | None
    wall_mm: float | None
    """Least wall about a key, as it was set."""
    overlap_mm3: float | None
    """None where one of both does not close."""
    ways_round: int | None
    """In how many ways its keys go in; None where it turns freely, 0 without keys."""
    glue_mm3: float
    """Section modulus of its outline."""
    pegs_mm3: float
    """Section moduli of its pegs and pins, together."""
    rods_mm3: float
    """The same of its bought rods."""
    along_pegs: float
    """How upright its pegs print: the share of their length that lies across layers, 0 lying to 1 upright."""
    lever_mm: float
    """How far the lighter side reaches from it."""
    hangs_mm3: float
    """Volume of the lighter side."""
    arm_mm: float
    """How far the middle of that lies from it."""


class PutTogether(_Value):
    """One act of assembly: the parts moved go onto those that are there, along ``way``; the joints that close, by
    number."""

    parts: tuple[str, ...]
    way: Vector
    joints: tuple[int, ...]


class BlockedPart(_Value):
    """A part that cannot be put in: how far it is free on the best way out, and what it meets."""

    part: str
    way: Vector
    free_mm: float
    meets: str
    size_mm: float
    """Its longest side."""
    point: Vector
    """A place in the middle of it, figure mm."""


class PartsSurvey(_Value):
    """All of that; empty where a figure was not cut."""

    joints: tuple[JointSeen, ...] = ()
    first: str = ""
    """The part that all others go onto."""
    order: tuple[PutTogether, ...] = ()
    blocked: tuple[BlockedPart, ...] = ()


def survey_parts(parts: Sequence[Part], factor: float, order: Sequence[str] = ()) -> PartsSurvey:
    """Joints and assembly of parts, in the order that was asked for or, without one, in one that is found."""
    if not any(part.seams for part in parts):
        return PartsSurvey()
    joints = joints_between(parts, factor)
    pairs = [key_pairs(joint, parts[joint.first], parts[joint.second], factor) for joint in joints]
    movables = _movables(parts, joints, pairs, factor)
    names = [part.name for part in parts]
    wanted = [names.index(name) for name in order if name in names]
    rest = [number for number in range(len(parts)) if number not in wanted]
    made = assembly_in_order(movables, joints, [*wanted, *rest]) if wanted else assembly_of(movables, joints)
    meshes = [movable.mesh for movable in movables]
    seen = tuple(_seen(joint, of, parts, meshes, joints, factor) for joint, of in zip(joints, pairs, strict=True))
    return PartsSurvey(
        joints=seen,
        first=names[made.first] if made.first is not None else "",
        order=tuple(
            PutTogether(parts=tuple(names[one] for one in step.moved), way=step.way, joints=step.joints)
            for step in made.steps
        ),
        blocked=_blocked(made, parts, factor),
    )


def _movables(
    parts: Sequence[Part], joints: Sequence[Joint], pairs: Sequence[Sequence[KeyPair]], factor: float
) -> list[Movable]:
    fine: list[list[tuple[Points, float, float]]] = [[] for _ in parts]
    for joint, of in zip(joints, pairs, strict=True):
        for number in (joint.first, joint.second):
            fine[number] += fine_places(of, factor)
    return [Movable(scaled(part.mesh, factor), tuple(some)) for part, some in zip(parts, fine, strict=True)]


def _seen(
    joint: Joint,
    pairs: Sequence[KeyPair],
    parts: Sequence[Part],
    meshes: Sequence[Mesh],
    joints: Sequence[Joint],
    factor: float,
) -> JointSeen:
    first, second = parts[joint.first], parts[joint.second]
    one, other = meshes[joint.first], meshes[joint.second]
    near = [about_keys(mesh, pairs, factor) for mesh in (one, other)]
    gaps = [gap for pair in pairs if (gap := key_gap(pair, near[0], near[1], factor)) is not None]
    middle = joint.origin + shapely.get_coordinates(joint.outline.point_on_surface())[0] @ joint.axes
    if pairs:
        middle = np.array(pairs[0].first.point) * factor
    bears = [
        (pair.first.role == "bore", bending_modulus(key.outline()))
        for pair, key in zip(pairs, flat_keys(joint, pairs, factor), strict=True)
        if pair.first.role != "pocket"
    ]
    lever, hangs, arm = _hanging(joint, parts, joints, factor)
    upright = [_upright(pair, first, second) for pair in pairs if pair.peg_first is not None]
    return JointSeen(
        cut=joint.cut,
        parts=(first.name, second.name),
        point=_vector(middle / factor),
        way=_vector(joint.way),
        area_mm2=float(joint.outline.area),
        narrowest_mm=widths_of(joint.outline)[1],
        keys=len(pairs),
        glued=not pairs or any(pair.hole.glued for pair in pairs),
        gap_mm=min(gaps, default=None),
        gap_asked_mm=min((float(pair.hole.gap) for pair in pairs), default=None),
        wall_mm=min((float(pair.hole.wall) for pair in pairs), default=None),
        overlap_mm3=overlap_of(one, other),
        ways_round=ways_of(joint, pairs, factor),
        glue_mm3=bending_modulus(joint.outline),
        pegs_mm3=sum(modulus for of_rod, modulus in bears if not of_rod),
        rods_mm3=sum(modulus for of_rod, modulus in bears if of_rod),
        along_pegs=max(upright, default=0.0),
        lever_mm=lever,
        hangs_mm3=hangs,
        arm_mm=arm,
    )


def _upright(pair: KeyPair, first: Part, second: Part) -> float:
    part, key = (first, pair.first) if pair.peg_first else (second, pair.second)
    return float(abs(np.dot(part.stance.up, key.way)))


def _hanging(joint: Joint, parts: Sequence[Part], joints: Sequence[Joint], factor: float) -> tuple[float, float, float]:
    """Of the lighter side of a joint: how far it reaches from the joint, its volume, and how far its middle lies."""
    pairs = [[one.first, one.second] for one in joints if one is not joint]
    _, group = connected_groups(len(parts), np.array(pairs, np.int64).reshape(-1, 2))
    middle = joint.origin + shapely.get_coordinates(joint.outline.centroid)[0] @ joint.axes
    sides = []
    for end in (joint.first, joint.second):
        # Where both sides hang together elsewhere too, each part is taken by itself.
        apart = group[joint.first] != group[joint.second]
        side = [part for k, part in enumerate(parts) if (group[k] == group[end] if apart else k == end)]
        filled = sum(abs(volume(part.mesh)) for part in side) * factor**3
        reach = max(float(np.linalg.norm(part.mesh.vertices * factor - middle, axis=1).max()) for part in side)
        weights = np.array([abs(volume(part.mesh)) for part in side])
        centres = np.array([bounds(part.mesh).mean(axis=0) * factor for part in side])
        centre = (centres * weights[:, None]).sum(axis=0) / max(weights.sum(), 1e-12)
        sides.append((filled, reach, float(np.linalg.norm(centre - middle))))
    filled, reach, arm = min(sides)
    return reach, filled, arm


def _blocked(made: Assembly, parts: Sequence[Part], factor: float) -> tuple[BlockedPart, ...]:
    return tuple(
        BlockedPart(
            part=parts[one.part].name,
            way=one.way,
            free_mm=one.free,
            size_mm=float(np.ptp(bounds(parts[one.part].mesh), axis=0).max()) * factor,
            meets=parts[one.blocked_by].name if one.blocked_by >= 0 else "",
            point=_vector(_middle_of(parts[one.part].mesh)),
        )
        for one in made.stuck
    )


def _middle_of(mesh: Mesh) -> Points:
    """The vertex that lies nearest to the middle of a mesh."""
    return mesh.vertices[np.argmin(((mesh.vertices - bounds(mesh).mean(axis=0)) ** 2).sum(axis=1))]


def _vector(values: Points) -> Vector:
    x, y, z = map(float, values)
    return x, y, z
