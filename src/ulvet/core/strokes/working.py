"""A part under the brush, and what is drawn of it, which follows every sample."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulvet.core.geometry.mesh import Floats, Mesh, Points
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.step import Part
from ulvet.core.strokes.brush import StrokedMesh
from ulvet.core.strokes.landing import StrokeSurface
from ulvet.core.strokes.steps import Stroke

__all__ = ["DrawnUpdate", "StrokeSession"]

Ints = NDArray[np.int64]


@dataclass(frozen=True)
class DrawnUpdate:
    """What is drawn anew: vertices of the drawn mesh (k,), where they are, which way they look (k, 3), and the wall
    under each (k,), figure mm."""

    vertices: Ints
    points: Points
    normals: Points
    walls: Floats


class StrokeSession:
    """A part while strokes are drawn on it, sample by sample, exactly as the step will replay them.

    ``drawn`` is what the browser shows of the part, perhaps with fewer vertices; each goes where the vertex of the part
    that is nearest to it goes. ``walls`` (n,) are those under the drawn vertices, figure mm; while working they change
    by how far this side and the one behind it have moved (an estimate: the check measures them).
    """

    def __init__(self, part: Part, drawn: Mesh, walls: Floats, factor: float) -> None:
        self._part, self._factor = part, factor
        self._speaks = cKDTree(part.mesh.vertices).query(drawn.vertices)[1]
        self._drawn, self._walls = np.array(drawn.vertices), np.array(walls)
        self._worked = StrokedMesh(part.mesh)
        self._ready()

    def _ready(self) -> None:
        """What a stroke starts from, all of it made before its first place comes."""
        self._landing = StrokeSurface(self._part, self._worked)
        self._worked.behind.look(np.empty(0, np.int64))
        self._moved = np.zeros(len(self._part.mesh.vertices), bool)

    @property
    def mesh(self) -> Mesh:
        """The part as it is now."""
        return self._worked.mesh

    def sample(self, stroke: Stroke, place: Anchor) -> DrawnUpdate | None:
        """Apply the brush of a stroke at one place; None where the place is not on the part."""
        samples, normals, _ = self._landing.of((place,))
        if not len(samples):
            return None
        touched = stroke.press(self._worked, self._factor, samples[0], normals[0])
        self._moved[touched] = True
        under = np.zeros(len(self._moved), bool)
        under[touched] = True
        return self._followed(np.flatnonzero(under[self._speaks]))

    def end(self) -> None:
        """The stroke is done; the next one starts from what it left."""
        every = self._followed(np.flatnonzero(self._moved[self._speaks]))
        self._drawn[every.vertices], self._walls[every.vertices] = every.points, every.walls
        self._worked.next()
        self._part = replace(self._part, mesh=self._worked.start)
        self._ready()

    def leave(self) -> DrawnUpdate:
        """Take the stroke back, as far as it went."""
        touched = np.flatnonzero(self._moved[self._speaks])
        self._worked.back()
        self._moved[:] = False
        return self._followed(touched)

    def _followed(self, drawn: Ints) -> DrawnUpdate:
        of_part = self._speaks[drawn]
        moved = self._worked.points[of_part] - self._worked.start.vertices[of_part]
        walls = np.maximum(self._walls[drawn] + self._worked.grown(of_part), 0)
        return DrawnUpdate(drawn, self._drawn[drawn] + moved, self._worked.normals(of_part), walls)
