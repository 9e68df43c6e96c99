"""The plain measures of a part at print size."""

from collections.abc import Mapping, Sequence
from typing import Any, ClassVar

import numpy as np
from pydantic import BaseModel, ConfigDict

from ulvet.core.findings.check import Check, PartCheck
from ulvet.core.geometry.mesh import Floats, area, bounds, volume
from ulvet.core.geometry.topology import edges_of, face_shells, is_watertight, without_collapsed_faces
from ulvet.core.recipe.anchors import Frame
from ulvet.core.recipe.stance import Stance, Vector
from ulvet.core.recipe.step import Context, Part
from ulvet.core.stations import Station

__all__ = ["Facts", "FactsMeasured", "whole_size"]


class Facts(BaseModel):
    """The plain measures of a part at print size."""

    model_config = ConfigDict(frozen=True)

    part: str
    called: str
    """Its name as it is read."""
    size_mm: tuple[float, float, float]
    low_mm: tuple[float, float, float]
    """Lowest corner of the box about the part, from the figure's origin."""
    factor: float
    triangles: int
    vertices: int
    shells: int
    watertight: bool
    area_mm2: float
    volume_mm3: float
    stance: Stance
    frame: Frame | None = None
    """Of a bit or a form: where the box about it as it was made now stands, figure mm."""
    print_axes: tuple[Vector, Vector, Vector]
    """Rows of the turn from figure axes to print axes."""
    print_offset_mm: Vector
    """Added after turning and growing."""
    print_height_mm: float
    """From the plate to the top as it stands in the printer, with its lift."""


class FactsMeasured(PartCheck):
    """The facts of a part, kept as what checks measure is."""

    station: ClassVar[Station] = Station.SIZE
    progress_text: ClassVar[str] = "size: plain measures"
    part_fields: ClassVar[tuple[str, ...]] = ("name", "title", "mesh", "stance", "frame")
    context_names: ClassVar[tuple[str, ...]] = ("factor",)

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> Facts:
        factor = context["factor"]
        low, high = bounds(part.mesh)
        x, y, z = map(float, (high - low) * factor)
        whole = without_collapsed_faces(part.mesh)
        edges = edges_of(whole)
        axes = [_vector(row) for row in part.stance.turn]
        return Facts(
            part=part.name,
            called=part.called,
            size_mm=(x, y, z),
            low_mm=tuple(map(float, low * factor)),
            factor=factor,
            triangles=len(part.mesh.faces),
            vertices=len(part.mesh.vertices),
            shells=face_shells(whole, edges)[0],
            watertight=is_watertight(edges),
            area_mm2=area(part.mesh) * factor**2,
            volume_mm3=volume(part.mesh) * factor**3,
            stance=part.stance,
            frame=part.frame,
            print_axes=(axes[0], axes[1], axes[2]),
            print_offset_mm=_vector(part.stance.offset(part.mesh, factor)),
            print_height_mm=float(bounds(part.stance.in_print(part.mesh, factor))[1, 2]),
        )


def whole_size(facts: Sequence[Facts]) -> Vector:
    """Wide, deep and tall of all parts as they stand to each other, print mm."""
    low = np.min([part.low_mm for part in facts], axis=0)
    high = np.max([np.add(part.low_mm, part.size_mm) for part in facts], axis=0)
    return _vector(high - low)


def _vector(values: Floats) -> Vector:
    x, y, z = map(float, values)
    return x, y, z
