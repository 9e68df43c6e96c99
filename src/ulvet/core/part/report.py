"""How a figure goes together, as the page and the release tell it."""

from collections.abc import Sequence

import numpy as np
from pydantic import BaseModel, ConfigDict

from ulvet.core.bench.setup import Setup
from ulvet.core.bench.workshop import Glue
from ulvet.core.geometry.mesh import bounds
from ulvet.core.part.check import glue_for, opens_at
from ulvet.core.part.survey import BlockedPart, JointSeen, PartsSurvey
from ulvet.core.recipe.stance import Vector
from ulvet.core.recipe.step import Part

__all__ = ["AssemblyReport", "JointRow", "OrderRow", "assembly_report", "off_its_seam", "pulled_apart"]

_SANDING_MM2_A_MINUTE = 60.0
"""Square mm of joint that are sanded flat in a minute, both faces (bench default)."""
_PULLED = 0.35
"""Of what is moved, measured along its way, how far it is drawn away from where it belongs."""
_SHOWN = 0.08
"""Of its own length, how far a piece is drawn from a cut that is not made yet."""
_LEAST_PULL = 0.06
"""The same of the whole figure, at least."""


class JointRow(JointSeen):
    """A joint with the push that opens it and the glue it wants."""

    opens_N: float | None  # noqa: N815  (newtons are written so)
    """An estimate; None where no strength of the material is known."""
    glue: str
    """Name of the glue; empty where it is not glued, or the bench has none for it."""


class OrderRow(BaseModel):
    """One act of putting together: with what, how long it has to be held or left, and how long its faces take to
    sand. Minutes are estimates."""

    model_config = ConfigDict(frozen=True)

    parts: tuple[str, ...]
    way: Vector
    joints: tuple[int, ...]
    area_mm2: float
    glue: str
    minutes: float
    sanding_minutes: float


class AssemblyReport(BaseModel):
    """Joints, order of assembly, and where every part is drawn when the figure is pulled apart."""

    model_config = ConfigDict(frozen=True)

    joints: tuple[JointRow, ...] = ()
    first: str = ""
    order: tuple[OrderRow, ...] = ()
    blocked: tuple[BlockedPart, ...] = ()
    apart: dict[str, Vector] = {}
    """By part, how far it is moved when the figure is pulled apart all the way, figure mm."""


def assembly_report(parts: Sequence[Part], survey: PartsSurvey, setup: Setup, glues: Sequence[Glue]) -> AssemblyReport:
    """What is told of a survey with the glues of the bench."""
    rows, chosen = list[JointRow](), list[Glue | None]()
    for joint in survey.joints:
        glue = glue_for(joint, glues)
        chosen.append(glue)
        rows.append(
            JointRow(**joint.model_dump(), opens_N=opens_at(joint, setup, glue), glue=glue.name if glue else "")
        )
    order = []
    for step in survey.order:
        used = [glue for number in step.joints if (glue := chosen[number]) is not None]
        slowest = max(used, key=lambda glue: glue.minutes, default=None)
        area = sum(survey.joints[number].area_mm2 for number in step.joints)
        order.append(
            OrderRow(
                parts=step.parts,
                way=step.way,
                joints=step.joints,
                area_mm2=area,
                glue=slowest.name if slowest else "",
                minutes=slowest.minutes if slowest else 0.0,
                sanding_minutes=area / _SANDING_MM2_A_MINUTE,
            )
        )
    return AssemblyReport(
        joints=tuple(rows),
        first=survey.first,
        order=tuple(order),
        blocked=survey.blocked,
        apart=pulled_apart(parts, survey),
    )


def pulled_apart(parts: Sequence[Part], survey: PartsSurvey) -> dict[str, Vector]:
    """Where every part is drawn when the figure is pulled apart, as a move in figure mm: away from what it goes onto,
    as far as it is long that way."""
    if not survey.joints:
        return {}
    boxes = {part.name: bounds(part.mesh) for part in parts}
    whole = np.ptp(np.concatenate(list(boxes.values())), axis=0).max()
    moves = {name: np.zeros(3) for name in boxes}
    ways = [(step.parts, -np.array(step.way), step.joints) for step in survey.order]
    placed = {name for step in survey.order for name in step.parts}
    ways += [((one.part,), np.array(one.way), ()) for one in survey.blocked if one.part not in placed]
    for names, out, joints in ways:
        corners = np.concatenate([boxes[name] for name in names])
        far = max(_PULLED * float(np.ptp(corners, axis=0) @ np.abs(out)), _LEAST_PULL * float(whole))
        touched = {name for number in joints for name in survey.joints[number].parts} - set(names)
        # Away from where what it goes onto is drawn already.
        begin = max((moves[name] for name in touched), key=lambda move: float(move @ out), default=np.zeros(3))
        for name in names:
            moves[name] = moves[name] + begin + out * far
    return {name: (float(x), float(y), float(z)) for name, (x, y, z) in moves.items()}


def off_its_seam(part: Part, cut: int) -> Vector:
    """How far a part is drawn from where it belongs, figure mm, so that one sees what a cut would do."""
    outward = [np.array(seam.normal) for seam in part.seams if seam.step == cut]
    if not outward:
        return (0.0, 0.0, 0.0)
    x, y, z = map(float, -np.sum(outward, axis=0) * _SHOWN * np.ptp(bounds(part.mesh), axis=0).max())
    return x, y, z
