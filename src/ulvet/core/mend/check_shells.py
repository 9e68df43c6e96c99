"""Findings about how shells lie to each other: crossing, nested, or almost touching."""

import numpy as np
from numpy.typing import NDArray

from ulvet.core.bench.setup import Setup
from ulvet.core.findings.finding import Finding, Remedy, Severity
from ulvet.core.geometry.mesh import Mesh, Points
from ulvet.core.lengths import spoken
from ulvet.core.mend.examination import ExaminedPart, mend_remedy
from ulvet.core.mend.gaps import gaps_in, least_gap
from ulvet.core.mend.mend_place import crossing_places
from ulvet.core.mend.mend_steps import MendPlace, MendWhole
from ulvet.core.mend.shells import Loose
from ulvet.core.mend.steps import DropShells, LeaveOverlaps
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.step import plural

__all__ = ["check_shells"]

Ints = NDArray[np.int64]
_FLAT = 1e-6
"""Of how far two faces reach, this far from one plane they count as in it (rounding of float32 files)."""
_EXACT = mend_remedy("Unite them exactly", MendWhole(method="exact"), says="what was right keeps its place")
_CUT = mend_remedy("Cut small tangles out and close over", MendWhole(method="exact"), says="the rest keeps its place")
_LOCAL = mend_remedy("Remake only where it crosses", MendWhole(method="local"), says="there on a grid")
_VOLUME = mend_remedy(
    "Remake all of it by volume", MendWhole(method="volume"), says="all on a grid, fine detail rounded"
)
_LEAVE = mend_remedy("Leave them overlapping", LeaveOverlaps(), says="relies on the slicer")


def check_shells(looked: ExaminedPart, setup: Setup) -> list[Finding]:
    """``crossing-faces``, ``overlapping-shells``, ``inner-shells``, ``specks`` and ``thin-gap``.

    Where overlaps are left on purpose, they and what lies in other shells are not told.
    """
    checked = [
        _crossing(looked),
        *([] if looked.part.overlaps_left else [_overlapping(looked), _inner(looked)]),
        _specks(looked),
        _gap(looked, setup),
    ]
    return [finding for finding in checked if finding]


def _crossing(looked: ExaminedPart) -> Finding | None:
    """Shells that pass through themselves; what passes through others is an overlap."""
    found = looked.found
    pairs = found.crossings.pairs
    own = pairs[found.shells.of[pairs[:, 0]] == found.shells.of[pairs[:, 1]]]
    # Where not all of them could be looked at none may pass for clean.
    pairs = own if found.crossings.whole else pairs
    if not len(pairs):
        return None
    faces = np.unique(pairs)
    groups = _places(looked, pairs)
    more = "" if found.crossings.whole else " There are more than could be looked at."
    return looked.finding(
        code="crossing-faces",
        severity=Severity.CAUTION,
        title=f"The surface passes through itself, {plural(len(faces), 'face')}",
        measured=float(len(faces)),
        unit="faces",
        why="What lies between is counted twice or as hollow, slicers differ about it, and unions and hollowing fail "
        "there." + more,
        count=len(faces),
        groups=groups,
        lines=looked.sides(faces),
        # Faces that lie in one plane cross nowhere that a grid could remake.
        remedies=(
            _CUT,
            *(() if _in_one_plane(looked.part.mesh, pairs).all() else (_LOCAL,)),
            _VOLUME,
            *_one_only(looked, groups, "Cut only this one out and close over"),
        ),
    )


def _in_one_plane(mesh: Mesh, pairs: Ints) -> NDArray[np.bool_]:
    """Whether the two faces of each pair (k, 2) lie in one plane, as far as their numbers tell."""
    a, b, c = np.moveaxis(mesh.vertices[mesh.faces[pairs[:, 0]]], 1, 0)
    other = mesh.vertices[mesh.faces[pairs[:, 1]]]
    normal = np.cross(b - a, c - a)
    away = np.abs(np.einsum("kj,kij->ki", normal, other - a[:, None])).max(axis=1)
    reach = np.abs(other - a[:, None]).max(axis=(1, 2))
    return np.asarray(away <= _FLAT * np.linalg.norm(normal, axis=1) * reach)


def _overlapping(looked: ExaminedPart) -> Finding | None:
    found = looked.found
    overlapping = found.shells.overlapping
    if not len(overlapping):
        return None
    pairs = found.crossings.pairs
    apart = pairs[found.shells.of[pairs[:, 0]] != found.shells.of[pairs[:, 1]]]
    groups = _places(looked, apart)
    return looked.finding(
        code="overlapping-shells",
        severity=Severity.CAUTION,
        title=f"{plural(len(overlapping), 'shell')} overlap",
        measured=float(len(overlapping)),
        unit="shells",
        why="Bodies reach into each other without being one: weight and walls count the overlap twice, hollowing "
        "empties each by itself, and a slicer that does not merge them leaves walls inside.",
        count=len(overlapping),
        groups=groups,
        lines=looked.sides(np.unique(apart)),
        remedies=(_EXACT, _LEAVE, _VOLUME, *_one_only(looked, groups, "Unite only the two that meet here")),
    )


def _inner(looked: ExaminedPart) -> Finding | None:
    inner = looked.found.shells.inner
    return _loose(
        looked,
        inner,
        code="inner-shells",
        severity=Severity.CAUTION,
        title=f"{plural(len(inner), 'shell')} wholly inside others",
        why="It lies in solid material, so it adds nothing, yet it is weighed twice and hollowing leaves it as a "
        "rattling core.",
        act="Drop",
        hidden=True,
    )


def _specks(looked: ExaminedPart) -> Finding | None:
    # What a scan has of them is told by its own station, with the scan's measure.
    if looked.part.captured is not None:
        return None
    specks = looked.found.shells.specks
    return _loose(
        looked,
        specks,
        code="specks",
        severity=Severity.CAUTION,
        title=f"{plural(len(specks), 'speck')} that {'hang' if len(specks) > 1 else 'hangs'} by nothing",
        why="Crumbs that touch nothing print as loose grains: they float in the vat or fall onto the figure.",
        act="Drop",
        hidden=False,
    )


def _loose(
    looked: ExaminedPart, numbers: Ints, *, code: Loose, severity: Severity, title: str, why: str, act: str,
    hidden: bool,
) -> Finding | None:  # fmt: skip
    if not len(numbers):
        return None
    found = looked.found
    of = np.isin(found.shells.of, numbers)
    groups = found.corners_of(numbers)
    widest = max(groups, key=lambda points: float(np.ptp(points, axis=0).max()))
    ways = [
        mend_remedy(f"{act} {'it' if len(numbers) == 1 else 'all'}", DropShells(which=code), says="nothing else moves")
    ]
    if len(numbers) > 1:
        here = (Anchor.at(widest[0], None, looked.part.source),)
        ways.append(
            mend_remedy(f"{act} this one only", DropShells(which=code, places=here), says="the others stay", here=True)
        )
    return looked.finding(
        code=code,
        severity=severity,
        title=title,
        measured=float(len(numbers)),
        unit="shells",
        why=why,
        count=len(numbers),
        groups=groups,
        lines=looked.sides(np.flatnonzero(of)),
        remedies=ways,
        hidden=hidden,
    )


def _gap(looked: ExaminedPart, setup: Setup) -> Finding | None:
    limit = least_gap(setup)
    gaps = gaps_in(looked.found, looked.rays, limit.in_figure(looked.factor))
    if not gaps:
        return None
    width = gaps[0].width * looked.factor
    points = np.concatenate([gap.points for gap in gaps])
    return looked.finding(
        code="thin-gap",
        severity=Severity.CAUTION,
        title=f"Gap of {spoken(width)} mm between surfaces",
        measured=width,
        unit="mm",
        why=f"Under {spoken(limit)} mm the two sides run together on {setup.printer.name}: "
        "what was meant as a gap, a fold or a loose piece comes out as one.",
        limit=limit,
        count=len(gaps),
        groups=[gap.points for gap in gaps],
        lines=_crosses(points, limit.in_figure(looked.factor)),
    )


def _crosses(points: Points, size: float) -> Points:
    """A small cross at each of some points, as lines (l, 2, 3)."""
    ends = np.array([[-0.5, 0, 0], [0.5, 0, 0], [0, -0.5, 0], [0, 0.5, 0], [0, 0, -0.5], [0, 0, 0.5]]) * size
    return np.asarray((points[:, None] + ends).reshape(-1, 2, 3))


def _places(looked: ExaminedPart, pairs: Ints) -> list[Points]:
    """The corners of what crosses, place by place."""
    mesh = looked.mesh
    return [mesh.vertices[np.unique(mesh.faces[np.unique(pairs[place])])] for place in crossing_places(mesh, pairs)]


def _one_only(looked: ExaminedPart, groups: list[Points], label: str) -> list[Remedy]:
    """Mending one place of several."""
    if len(groups) < 2:
        return []
    places = (Anchor.at(groups[0][0], None, looked.part.source),)
    return [mend_remedy(label, MendPlace(places=places), says="the others stay", here=True)]
