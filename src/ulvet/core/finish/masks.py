"""Masking lines: where two roles meet on the surface, how long, and how much of it runs along a natural seam."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from ulvet.core.findings.finding import Finding, Place, Severity
from ulvet.core.finish.regions import Ints, Labels, OpenedMesh
from ulvet.core.finish.steps import Region, Scheme
from ulvet.core.gauge.limbs.handling import WeakLimb
from ulvet.core.geometry.mesh import Mesh, Points
from ulvet.core.geometry.section import Plane, cut_section
from ulvet.core.recipe.step import Part
from ulvet.core.stations import Station

__all__ = ["MaskLine", "check_masks", "mask_lines", "masked"]

_SEAM_TURN = 20.0
"""Degrees by which the surface turns along a seam that hides a line (bench default)."""
_TAPE_N = 2.5
"""Newtons that a strip of tape pulls with when it is taken off (bench default)."""
_BESIDE_MM = 1.0
"""Print mm from the surface of a limb at which a line still lies on it."""
_EVEN = 20
"""Times that a line is made even (bench default)."""
_IN_AND_OUT = (0.5, -0.53)
"""Shares of the way to the middle of its neighbours by which a point is moved, and moved back (Taubin 1995)."""
_MOST_POINTS = 400
"""Middles of edges that are kept of a line."""


@dataclass(frozen=True)
class MaskLine:
    """A line between two roles on a part, each "" where the surface has none: its length and how much of it a seam
    hides, figure mm, and middles of its edges (n, 3)."""

    roles: tuple[str, str]
    length: float
    along_seam: float
    points: Points


def mask_lines(opened: OpenedMesh, labels: Labels, regions: Sequence[Region]) -> tuple[MaskLine, ...]:
    """The lines between roles on a part, by the names of the roles."""
    names = sorted({region.role for region in regions})
    role = np.array([names.index(region.role) + 1 for region in regions] + [0])[labels.of_face]
    first, second = role[opened.pairs].T
    border = first != second
    if not border.any():
        return ()
    low, high = np.minimum(first, second)[border], np.maximum(first, second)[border]
    ends, seam = opened.ends[border], opened.turns[border] >= _SEAM_TURN
    middles = opened.mesh.vertices[ends].mean(axis=1)
    too_long = _too_long(opened, regions, np.max(labels.of_face[opened.pairs[border]], axis=1), middles, ends)
    lines = []
    for a, b in sorted({(int(a), int(b)) for a, b in zip(low, high, strict=True)}):
        on = (low == a) & (high == b)
        called = ["", *names]
        every = max(int(on.sum()) // _MOST_POINTS, 1)
        share = 1 / float(too_long[on].mean())
        lines.append(
            MaskLine((called[a], called[b]), share * _length(middles[on], ends[on]),
                     share * _length(middles[on & seam], ends[on & seam]), middles[on][::every])
        )  # fmt: skip
    return tuple(lines)


def _too_long(
    opened: OpenedMesh, regions: Sequence[Region], whose: Ints, middles: Points, ends: Ints
) -> NDArray[np.float64]:
    """How many times as long edges of a line (n,) run as the line does, by the region ``whose`` end they are: where
    faces are long and narrow, edges at the end of a band run far up and down beside its height."""
    times = np.ones(len(ends))
    for at, region in enumerate(regions):
        on = whose == at
        if region.grows != "band" or not on.any():
            continue
        level = sum(_level_length(opened.mesh, height) for height in (region.low, region.high))
        if level > 0:
            times[on] = max(_length(middles[on], ends[on]) / level, 1.0)
    return times


def _level_length(mesh: Mesh, height: float) -> float:
    """How long the line is at which a surface has a height, figure mm."""
    plane = Plane(np.array([0.0, 0.0, height]), np.array([1.0, 0.0, 0.0]), np.array([0.0, 1.0, 0.0]))
    outlines = cut_section(mesh, plane, np.inf)
    return float(sum(np.linalg.norm(np.diff(outline, axis=0), axis=1).sum() for outline in outlines))


def _length(middles: Points, ends: Ints) -> float:
    """How long a line of edges is, by way of their middles (n, 3), as it would be masked: edges of triangles that a
    region stops at run to and fro, so the line is made even first without shrinking (Taubin 1995). ``ends`` (n, 2) are
    the vertices that edges run between."""
    if len(ends) < 2:
        return 0.0
    vertex = ends.ravel()
    edge = np.repeat(np.arange(len(ends)), 2)
    order = np.argsort(vertex, kind="stable")
    vertex, edge = vertex[order], edge[order]
    follows = vertex[1:] == vertex[:-1]
    # Where more than two edges meet, each is joined to the next.
    one, other = edge[1:][follows], edge[:-1][follows]
    both = sparse.coo_matrix(
        (np.ones(2 * len(one)), (np.concatenate([one, other]), np.concatenate([other, one]))), (len(ends), len(ends))
    ).tocsr()
    beside = np.maximum(np.asarray(both.sum(axis=1)), 1.0)
    alone = np.asarray(both.sum(axis=1)).ravel() < 2
    for _ in range(_EVEN):
        for share in _IN_AND_OUT:
            pull = (both @ middles) / beside - middles
            pull[alone] = 0.0
            middles = middles + share * pull
    return float(np.linalg.norm(middles[one] - middles[other], axis=1).sum())


def masked(line: MaskLine, scheme: Scheme) -> bool:
    """Whether a line is masked in a scheme: one of its sides is sprayed, or stays bare beside one that is."""
    sides = [scheme.of(role) for role in line.roles]
    return any(coat.tool != "brush" for side in sides if side for coat in side.coats)


def check_masks(
    part: Part, lines: Sequence[MaskLine], weak: Sequence[WeakLimb], scheme: Scheme, factor: float
) -> Iterator[Finding]:
    """Tape on limbs that break when it is pulled off; limbs in print mm."""
    for line in lines:
        if not masked(line, scheme):
            continue
        for limb in weak:
            if limb.force >= _TAPE_N or not _on(limb, line.points * factor):
                continue
            at, normal = (tuple(map(float, one)) for one in (limb.point / factor, limb.normal))
            yield Finding(
                code="mask-pulls", station=Station.FINISH, severity=Severity.CAUTION, part=part.name,
                title=f"Tape between {_said(line)} may break what it sticks to", measured=limb.force, limit=_TAPE_N,
                unit="N", where=Place.model_validate({"point": at, "normal": normal}),
                why=f"Taking it off pulls with some {_TAPE_N:g} N, and this breaks at {limb.force:.1f} N at its tip "
                "(estimates): paint it by brush there, or mask with something that does not stick.",
            )  # fmt: skip
            break


def _said(line: MaskLine) -> str:
    one, other = (role or "bare surface" for role in line.roles)
    return f"{one} and {other}"


def _on(limb: WeakLimb, points: Points) -> bool:
    """Whether any of some points lies on a limb, beyond where it breaks."""
    if not len(points) or not len(limb.line):
        return False
    apart = np.linalg.norm(points[:, None] - limb.line, axis=2)
    near = apart.argmin(axis=1)
    within = apart[np.arange(len(points)), near] <= limb.thick[near] / 2 + _BESIDE_MM
    beyond = (points - limb.point) @ limb.normal > 0
    return bool((within & beyond).any())
