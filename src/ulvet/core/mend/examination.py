"""Where a mesh defect lies, whether it will show in the print, and the lines that draw it."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ulvet.core.findings.finding import MOST_PLACES, AddSteps, Cost, Finding, Line, Place, Remedy, Severity
from ulvet.core.geometry.mesh import Mesh, Points
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.topology import connected_groups
from ulvet.core.lengths import PrintMM, spoken
from ulvet.core.mend.diagnosis import Diagnosis
from ulvet.core.recipe.step import Part, Step
from ulvet.core.stations import Station

__all__ = ["ExaminedPart", "mend_remedy"]

Ints = NDArray[np.int64]
_LINES = 800
"""Lines that the chart draws of a finding."""
_DIGITS = 5
"""Digits after the point of a drawn line, mm."""
_NARROWEST = 0.005  # print mm, the least that is told in two digits
_ASKED = 12  # points of a place
_WAYS = np.array([(x, y, z) for x in (-1, 0, 1) for y in (-1, 0, 1) for z in (-1, 0, 1) if x or y or z], float)
# Turned a little, so that none of them runs along the walls of a figure built square.
_WAYS = (
    _WAYS
    / np.linalg.norm(_WAYS, axis=1)[:, None]
    @ np.array([[0.936293, -0.275096, 0.218351], [0.289629, 0.956425, -0.036957], [-0.198669, 0.097843, 0.975170]])
)


@dataclass(frozen=True)
class ExaminedPart:
    """A diagnosed part at print size: ``factor`` is print mm per figure mm, ``line`` (print mm) the narrowest line the
    printer lays."""

    part: Part
    found: Diagnosis
    factor: float
    line: float

    @property
    def mesh(self) -> Mesh:
        """The mesh that was looked over."""
        return self.found.mesh

    @cached_property
    def rays(self) -> Rays:
        """Rays through it."""
        return Rays(self.mesh)

    def finding(
        self, *, code: str, severity: Severity, title: str, measured: float, unit: str, why: str, count: int,
        groups: Sequence[Points], lines: Points, remedies: Sequence[Remedy] = (), limit: float = 0.0,
        hidden: bool = False,
    ) -> Finding:  # fmt: skip
        """A finding of Mend at some places, each given by the points (k, 3) of the surface that it is made of.

        ``lines`` (l, 2, 3) draw it; ``hidden`` is for what lies inside and so never shows.
        """
        places = self._places(groups, hidden)
        return Finding(
            code=code,
            station=Station.MEND,
            severity=severity,
            part=self.part.name,
            title=title,
            measured=measured,
            limit=limit,
            unit=unit,
            count=count,
            where=places[0],
            places=places,
            lines=_drawn(lines),
            why=why + _shown(places),
            remedies=tuple(remedies),
        )

    def _places(self, groups: Sequence[Points], hidden: bool) -> tuple[Place, ...]:
        """Places, the widest first."""
        extents = np.array([np.ptp(points, axis=0).max() for points in groups]) * self.factor
        order = np.argsort(-extents, kind="stable")[:MOST_PLACES]
        at = np.array([_amid(groups[k]) for k in order])
        shows = extents[order] >= self.line
        if hidden or not shows.any():
            shows[:] = False
        else:
            shows &= self._outside([groups[k][:: len(groups[k]) // _ASKED + 1] for k in order])
        return tuple(
            Place(
                point=(float(x), float(y), float(z)),
                extent=PrintMM(extents[k]),
                shows=bool(shown),
            )
            for k, (x, y, z), shown in zip(order, at, shows, strict=True)
        )

    def _outside(self, places: Sequence[Points]) -> NDArray[np.bool_]:
        """Places that have a point of the surface from which some way leads out of the figure."""
        points = np.concatenate(places)
        ways = np.tile(_WAYS, (len(points), 1))
        starts = np.repeat(points, len(_WAYS), axis=0) + ways * self.rays.grain
        out = (self.rays.first(starts, ways)[1] < 0).reshape(len(points), -1).any(axis=1)
        return np.asarray(np.logical_or.reduceat(out, np.cumsum([0, *[len(place) for place in places[:-1]]])))

    def patches(self, faces: Ints) -> list[Points]:
        """The corners (k, 3) of some faces, patch by patch of those that hang together by a vertex."""
        at = self.mesh.faces[faces].astype(np.int64)
        _, group = connected_groups(len(self.mesh.vertices), np.concatenate([at[:, :2], at[:, 1:]]))
        order = np.argsort(group[at[:, 0]], kind="stable")
        _, starts = np.unique(group[at[order, 0]], return_index=True)
        return [self.mesh.vertices[np.unique(piece)] for piece in np.split(at[order], starts[1:])]

    def sides(self, faces: Ints) -> Points:
        """The sides of some faces as lines (l, 2, 3)."""
        corners = self.mesh.vertices[self.mesh.faces[faces]]
        return np.asarray(np.stack([corners, np.roll(corners, -1, axis=1)], axis=2).reshape(-1, 2, 3))


def mend_remedy(label: str, *steps: Step, says: str, here: bool = False) -> Remedy:
    """A way out that adds steps to the recipe; ``here``, for one place only."""
    return Remedy(label=label, change=AddSteps(steps=steps, here=here), cost=Cost(says=says))


def _amid(points: Points) -> Points:
    """Choose the point nearest to the centre of some points, so that it lies on the surface."""
    away = points - points.mean(axis=0)
    return np.asarray(points[np.einsum("ij,ij->i", away, away).argmin()])


def _drawn(lines: Points) -> tuple[Line, ...]:
    """As many of some lines as a chart bears, taken evenly."""
    kept = lines[:: len(lines) // _LINES + 1].reshape(-1, 6).round(_DIGITS)
    return tuple((float(a), float(b), float(c), float(d), float(e), float(f)) for a, b, c, d, e, f in kept)


def _shown(places: Sequence[Place]) -> str:
    """How wide the one place is, where it is one, and whether what is told will be seen."""
    shown = sum(bool(place.shows) for place in places)
    verdict = "will show in the print" if shown else "will not show in the print"
    if len(places) == 1:
        wide = places[0].extent or 0.0
        # A single corner or a sliver has no width worth a number.
        return f" It is {spoken(wide)} mm wide and {verdict}." if wide >= _NARROWEST else f" It {verdict}."
    return f" {shown} of them {verdict}." if 0 < shown < len(places) else f" They {verdict}."
