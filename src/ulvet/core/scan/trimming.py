"""Cutting away what does not belong to an object: by plane, box or lasso, its mount, and loose specks."""

from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, field_validator, model_validator

from ulvet.core.geometry.mesh import Mesh, Points, bounds
from ulvet.core.geometry.topology import edges_of, face_shells, without_unused_vertices
from ulvet.core.lengths import FigureMM
from ulvet.core.recipe.stance import Vector, unit_vector

__all__ = ["BoxVolume", "HalfSpace", "LassoVolume", "Stem", "cut_by_plane", "find_stem", "trimmed", "without_specks"]

_SLABS = 160
"""Slabs in which a stem is looked for, from the ground to the top."""
_STEM_SHARE = 0.4
"""Width of a stem, of what it holds, at most (bench default)."""
_STEM_LEAST = 0.04
"""Height of a stem, of the whole, at least (bench default)."""
_STEADY = 1.35
"""Ratio up to which a stem may widen along its height (bench default)."""
_LEAST_SPECK = 0.04
"""Length of a shell, of the longest one, under which it is a speck (bench default)."""

Place = tuple[FigureMM, FigureMM, FigureMM]


class _Volume(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class HalfSpace(_Volume):
    """Everything on the side of a plane that its normal points to."""

    volume: Literal["plane"] = "plane"
    point: Place
    normal: Vector

    @field_validator("normal")
    @classmethod
    def _unit(cls, value: Vector) -> Vector | None:
        return unit_vector(value)


class BoxVolume(_Volume):
    """A box along the axes."""

    volume: Literal["box"] = "box"
    low: Place
    high: Place

    @model_validator(mode="after")
    def _not_flat(self) -> "BoxVolume":
        if not all(a < b for a, b in zip(self.low, self.high, strict=True)):
            raise ValueError("A box needs a low corner below its high one on every axis.")
        return self


class LassoVolume(_Volume):
    """Everything behind an outline drawn on the chart, through and through.

    ``view`` points from the figure to the eye, ``across`` to the right of who looks; ``outline`` is along ``across``
    and along what is up to them.
    """

    volume: Literal["lasso"] = "lasso"
    view: Vector
    across: Vector
    outline: tuple[tuple[FigureMM, FigureMM], ...] = Field(min_length=3, max_length=2_000)

    @field_validator("view", "across")
    @classmethod
    def _unit(cls, value: Vector) -> Vector | None:
        return unit_vector(value)

    @model_validator(mode="after")
    def _square(self) -> "LassoVolume":
        if abs(float(np.dot(self.view, self.across))) > 1e-3:
            raise ValueError("The way across a lasso is square to the way it is seen.")
        return self

    def holds(self, points: Points) -> NDArray[np.bool_]:
        """Which of some points (n, 3) lie behind the outline, in every lobe of one that crosses itself."""
        view, across = np.array(self.view), np.array(self.across)
        outline = shapely.make_valid(shapely.Polygon(self.outline))
        return shapely.contains_xy(outline, points @ across, points @ np.cross(view, across))


Volume = Annotated[HalfSpace | BoxVolume | LassoVolume, Field(discriminator="volume")]


def trimmed(mesh: Mesh, volume: HalfSpace | BoxVolume | LassoVolume, inside: bool) -> Mesh:
    """The mesh without what lies inside a volume, or outside it when not ``inside``; left open where it was cut.

    Planes, and boxes that are kept, cut through faces; elsewhere whole faces go, by their middle.
    """
    if isinstance(volume, HalfSpace):
        way = np.array(volume.normal) * (-1 if inside else 1)
        return cut_by_plane(mesh, np.array(volume.point, float), way)
    if isinstance(volume, BoxVolume) and not inside:
        for axis in range(3):
            way = np.eye(3)[axis]
            mesh = cut_by_plane(mesh, np.array(volume.low, float), way)
            mesh = cut_by_plane(mesh, np.array(volume.high, float), -way)
        return mesh
    middles = mesh.vertices[mesh.faces].mean(axis=1)
    if isinstance(volume, BoxVolume):
        within = ((middles > np.array(volume.low)) & (middles < np.array(volume.high))).all(axis=1)
    else:
        within = volume.holds(middles)
    return without_unused_vertices(Mesh(mesh.vertices, mesh.faces[within ^ inside]))


def cut_by_plane(mesh: Mesh, point: Points, normal: Points) -> Mesh:
    """The part of a mesh on the side that ``normal`` (3,) points to, faces cut along the plane, its rim left open."""
    height = (mesh.vertices - point) @ normal
    above = height >= 0
    count = above[mesh.faces].sum(axis=1)
    faces = [mesh.faces[count == 3]]
    n = len(mesh.vertices)
    one, two = _turned_first(mesh.faces[count == 1], above), _turned_first(mesh.faces[count == 2], ~above)
    # Each cut face has its odd corner first: alone above, or alone below.
    edges = [odd[:, [0, k]] for odd in (one, two) for k in (1, 2)]
    ends = np.sort(np.concatenate(edges), axis=1).astype(np.int64)
    unique, place = np.unique(ends, axis=0, return_inverse=True) if len(ends) else (ends, np.empty(0, np.int64))
    ab, ac, cd, ce = np.split(n + place.ravel(), np.cumsum([len(one), len(one), len(two)]))
    faces.append(np.stack([one[:, 0], ab, ac], axis=1))
    faces.append(np.stack([two[:, 1], two[:, 2], cd], axis=1))
    faces.append(np.stack([two[:, 2], ce, cd], axis=1))
    a, b = unique[:, 0], unique[:, 1]
    share = (height[a] / (height[a] - height[b]))[:, None]
    points = mesh.vertices[a] * (1 - share) + mesh.vertices[b] * share
    return without_unused_vertices(
        Mesh(np.concatenate([mesh.vertices, points]), np.concatenate(faces).astype(np.int32))
    )


def _turned_first(
    faces: np.ndarray[tuple[int, int], np.dtype[np.int32]], odd: np.ndarray[tuple[int], np.dtype[np.bool_]]
) -> np.ndarray[tuple[int, int], np.dtype[np.int32]]:
    """Faces turned so that their one corner with ``odd`` comes first."""
    first = odd[faces].argmax(axis=1) if len(faces) else np.empty(0, np.int64)
    return np.take_along_axis(faces, (first[:, None] + np.arange(3)) % 3, axis=1)


@dataclass(frozen=True)
class Stem:
    """A slender stem that holds something wider up: where it ends and how thick it is, figure mm."""

    top: FigureMM
    across: FigureMM


def find_stem(mesh: Mesh) -> Stem | None:
    """The stem that a standing object is mounted on; None where nothing looks like one.

    Looked for from the ground up, by how wide the surface reaches in each of 160 slabs: a run of slabs, at least 4 % of
    the height long, that hardly changes and is under 40 % as wide as the widest above it (bench defaults).
    """
    low, high = bounds(mesh)
    tall = float(high[2] - low[2])
    if tall <= 0:
        return None
    corners = _along_edges(mesh, 0.4 * tall / _SLABS)
    slab = np.minimum(((corners[:, 2] - low[2]) * (_SLABS / tall)).astype(np.int64), _SLABS - 1)
    order = np.argsort(slab, kind="stable")
    starts = np.searchsorted(slab[order], np.arange(_SLABS))
    filled = np.diff(starts, append=len(order)) > 0
    wide = np.full(_SLABS, np.nan)
    spans = [
        np.maximum.reduceat(corners[order, k], starts[filled]) - np.minimum.reduceat(corners[order, k], starts[filled])
        for k in (0, 1)
    ]
    wide[filled] = np.maximum(*spans)
    above = np.fmax.accumulate(np.nan_to_num(wide[::-1]))[::-1]
    slender = wide < _STEM_SHARE * above
    best: tuple[int, int] | None = None
    begin = None
    for k in range(_SLABS):
        if slender[k] and (begin is None or wide[k] <= _STEADY * np.nanmin(wide[begin:k])):
            begin = k if begin is None else begin
        else:
            if begin is not None and k - begin >= max(_STEM_LEAST * _SLABS, 2):
                best = (begin, k)
                break
            begin = k if slender[k] else None
    if best is None:
        return None
    begin, end = best
    return Stem(FigureMM(low[2] + end * tall / _SLABS), FigureMM(float(np.nanmedian(wide[begin:end]))))


def _along_edges(mesh: Mesh, step: float) -> Points:
    """Points along every edge, no more than ``step`` apart in height, so that long ones count in every slab."""
    ends = mesh.vertices[edges_of(mesh).ends]
    count = np.ceil(np.abs(ends[:, 1, 2] - ends[:, 0, 2]) / step).astype(np.int64) + 1
    of = np.repeat(np.arange(len(ends)), count)
    share = (np.arange(len(of)) - np.repeat(np.cumsum(count) - count, count)) / np.maximum(count[of] - 1, 1)
    return np.asarray(ends[of, 0] * (1 - share[:, None]) + ends[of, 1] * share[:, None])


def without_specks(mesh: Mesh, least: float | None = None) -> tuple[Mesh, int]:
    """The mesh without shells shorter than ``least`` mm, by default 4 % of the longest one; and how many went."""
    if not len(mesh.faces):
        return mesh, 0
    count, shell = face_shells(mesh, edges_of(mesh))
    size = np.zeros((count, 3))
    for axis in range(3):
        values = mesh.vertices[mesh.faces, axis]
        low, high = np.full(count, np.inf), np.full(count, -np.inf)
        np.minimum.at(low, shell, values.min(axis=1))
        np.maximum.at(high, shell, values.max(axis=1))
        size[:, axis] = high - low
    longest = size.max(axis=1)
    small = longest < (_LEAST_SPECK * longest.max() if least is None else least)
    small[longest.argmax()] = False
    return (
        (without_unused_vertices(Mesh(mesh.vertices, mesh.faces[~small[shell]])), int(small.sum()))
        if small.any()
        else (mesh, 0)
    )
