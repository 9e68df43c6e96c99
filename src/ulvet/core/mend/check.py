"""What is wrong with a mesh as a mesh."""

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulvet.core.bench.setup import Setup
from ulvet.core.findings.finding import Finding, Remedy, Severity
from ulvet.core.geometry.face_orientation import orient_faces
from ulvet.core.geometry.holes import Hole, close_holes
from ulvet.core.geometry.mesh import Points, bounds
from ulvet.core.lengths import spoken
from ulvet.core.mend.check_shells import check_shells
from ulvet.core.mend.diagnosis import Diagnosis, diagnose
from ulvet.core.mend.examination import ExaminedPart, mend_remedy
from ulvet.core.mend.mend_steps import MendWhole
from ulvet.core.mend.steps import CloseHoles, DropFaces, OrientFaces, TakeApart, Weld
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.step import Part, plural
from ulvet.core.tolerances import Tolerances

__all__ = ["check_mesh"]

Mask = NDArray[np.bool_]
_NEAR_SHARE = 1e-4
"""Distance of rims, of the longest side, within which joining their corners is offered (bench default)."""
_WHOLE = "Mend all of it, by the mildest way that ends sound"


def check_mesh(
    part: Part, factor: float, tolerances: Tolerances, setup: Setup, found: Diagnosis | None = None
) -> list[Finding]:
    """Findings of Mend for one part, lengths at print size; empty for a clean mesh. ``found`` is what looking its mesh
    over gave, where that was done before."""
    found = found or diagnose(part.mesh, tolerances.zero_area_height)
    looked = ExaminedPart(part, found, factor, setup.line)
    checked = [
        _open_edges(looked),
        _nonmanifold(looked),
        _pinched(looked),
        _flat(looked),
        _faces(looked, found.twice, "there twice", code="doubled-faces"),
        _inconsistent(looked),
        _inverted(looked),
        *check_shells(looked, setup),
    ]
    findings = [finding for finding in checked if finding]
    if found.winding.twisted.any():
        return findings  # no method gives a one-sided surface an inside
    whole = mend_remedy(_WHOLE, MendWhole(), says="the record says what it cost")
    worth = [finding for finding in findings if finding.code not in ("specks", "thin-gap")]
    return [
        finding.model_copy(update={"remedies": (*finding.remedies, whole)})
        if finding in worth and (len(worth) > 1 or not finding.remedies)
        else finding
        for finding in findings
    ]


def _open_edges(looked: ExaminedPart) -> Finding | None:
    found, mesh = looked.found, looked.mesh
    if not found.edges.open.any():
        return None
    ends = mesh.vertices[found.edges.ends[found.edges.open]]
    rims = [mesh.vertices[hole.rim] for hole in found.holes]
    return looked.finding(
        code="open-edges",
        severity=Severity.STOP,
        title=f"The surface is open in {plural(len(rims), 'place')}",
        measured=float(np.linalg.norm(ends[:, 0] - ends[:, 1], axis=1).sum()) * looked.factor,
        unit="mm",
        why="Inside and outside cannot be told apart at an open rim: a slicer guesses, and fills or empties whole "
        "layers. " + _holes_in_words(rims, looked.factor),
        count=int(found.edges.open.sum()),
        groups=rims,
        lines=ends,
        remedies=(*_closing(looked), *_joining(looked)),
    )


def _holes_in_words(rims: list[Points], factor: float) -> str:
    """The holes by their size: the flat over a rim is its area vector."""
    points = np.concatenate([rim - rim.mean(axis=0) for rim in rims])
    ends = np.cumsum([len(rim) for rim in rims])
    starts = np.concatenate([[0], ends[:-1]])
    onward = np.arange(1, len(points) + 1)
    onward[ends - 1] = starts
    lengths = np.add.reduceat(np.linalg.norm(points[onward] - points, axis=1), starts) * factor
    flats = np.add.reduceat(np.cross(points, points[onward]), starts)
    areas = np.linalg.norm(flats, axis=1) * factor**2 / 2
    if len(rims) == 1:
        return f"The rim is {spoken(lengths[0])} mm round and would take {spoken(areas[0])} mm² to close."
    k = int(np.argmax(areas))
    return f"The largest rim is {spoken(lengths[k])} mm round; to close them all takes about {spoken(areas.sum())} mm²."


def _closing(looked: ExaminedPart) -> list[Remedy]:
    """Offer to fill holes, after flipping faces that break a rim where more can be filled then."""
    mesh, winding, holes = looked.mesh, looked.found.winding, looked.found.holes
    closable = close_holes(mesh)[1]["closed"]
    if winding.against.any():
        turned = close_holes(orient_faces(mesh)[0])[1]["closed"]
        if turned > closable:
            label = f"Turn {plural(int(winding.against.sum()), 'face')} to agree, then close {plural(turned, 'hole')}"
            return [mend_remedy(label, OrientFaces(), CloseHoles(), says="flat patches, surface invented")]
    if not closable:
        return []
    ways = [mend_remedy(f"Close {plural(closable, 'hole')}", CloseHoles(), says="surface invented")]
    widest = max(holes, key=lambda hole: float(np.ptp(mesh.vertices[hole.rim], axis=0).max()))
    if len(holes) > 1 and widest.simple:
        ways.append(
            mend_remedy("Close this one only", _at(looked, widest), says="surface invented, the others stay", here=True)
        )
    return ways


def _at(looked: ExaminedPart, hole: Hole) -> CloseHoles:
    return CloseHoles(places=(Anchor.at(looked.mesh.vertices[hole.rim[0]], None, looked.part.source),))


def _joining(looked: ExaminedPart) -> list[Remedy]:
    """Offer to weld rims that lie close together."""
    mesh, edges = looked.mesh, looked.found.edges
    near = float(np.ptp(bounds(mesh), axis=0).max()) * _NEAR_SHARE
    rim = mesh.vertices[np.unique(edges.ends[edges.open])]
    if not len(cKDTree(rim).query_pairs(near, output_type="ndarray")):
        return []
    return [
        mend_remedy("Join loose corners, then close the rest", Weld(distance=near), DropFaces(), CloseHoles(),
               says=f"corners move up to {near * looked.factor:.3f} mm")
    ]  # fmt: skip


def _nonmanifold(looked: ExaminedPart) -> Finding | None:
    found, edges = looked.found, looked.found.edges
    if not edges.nonmanifold.any():
        return None
    ends = looked.mesh.vertices[edges.ends[edges.nonmanifold]]
    balanced = bool((edges.balance[edges.nonmanifold] == 0).all())
    ways = []
    if found.twice.any():
        ways.append(mend_remedy("Drop doubled faces", DropFaces(), says="no change of shape"))
    if balanced:
        ways.append(mend_remedy("Take the surfaces apart there", TakeApart(), says="nothing moves"))
    return looked.finding(
        code="nonmanifold-edges",
        severity=Severity.CAUTION if balanced else Severity.STOP,
        title=f"{plural(len(ends), 'edge')} with more than two faces",
        measured=float(edges.uses.max()),
        unit="faces",
        why="Surfaces meet along an edge like pages of a book. "
        + (
            "Here they close all the same, so it prints, but a union or a hollowing may fail on it."
            if balanced
            else "Which side is solid is then a guess, and hollowing or joining fails."
        ),
        limit=2,
        count=len(ends),
        groups=list(ends),
        lines=ends,
        remedies=ways,
    )


def _pinched(looked: ExaminedPart) -> Finding | None:
    pinched = looked.found.pinched
    if not len(pinched):
        return None
    mesh = looked.mesh
    touched = np.zeros(len(mesh.vertices), bool)
    touched[pinched] = True
    points = mesh.vertices[pinched]
    return looked.finding(
        code="nonmanifold-vertices",
        severity=Severity.CAUTION,
        title=f"{plural(len(pinched), 'corner')} at which surfaces hang together by a point",
        measured=float(len(pinched)),
        unit="corners",
        why="Two tips that touch in one point hold each other by nothing: it prints, but joining, hollowing and "
        "thickening do not know which of them is meant.",
        count=len(pinched),
        groups=list(points[:, None]),
        lines=looked.sides(np.flatnonzero(touched[mesh.faces].any(axis=1))),
        remedies=(mend_remedy("Take them apart", TakeApart(), says="nothing moves"),),
    )


def _flat(looked: ExaminedPart) -> Finding | None:
    """Report faces without area of the mesh as it was given; the diagnosed mesh has none that repeat a vertex."""
    flat = looked.found.flat
    if not flat.any():
        return None
    mesh = looked.part.mesh
    return _nothings(looked, mesh.vertices[mesh.faces[flat]], "without area", code="zero-area-faces")


def _faces(looked: ExaminedPart, wrong: Mask, said: str, *, code: str) -> Finding | None:
    return _nothings(looked, looked.mesh.vertices[looked.mesh.faces[wrong]], said, code=code) if wrong.any() else None


def _nothings(looked: ExaminedPart, corners: Points, said: str, *, code: str) -> Finding:
    return looked.finding(
        code=code,
        severity=Severity.CAUTION,
        title=f"{plural(len(corners), 'face')} {said}",
        measured=float(len(corners)),
        unit="faces",
        why="Later steps stumble over them: normals, walls and unions are undefined there.",
        count=len(corners),
        groups=list(corners),
        lines=np.stack([corners, np.roll(corners, -1, axis=1)], axis=2).reshape(-1, 2, 3),
        remedies=(mend_remedy("Drop them", DropFaces(), says="no change of shape"),),
        hidden=True,
    )


def _inconsistent(looked: ExaminedPart) -> Finding | None:
    winding = looked.found.winding
    twisted = winding.twisted[winding.shell]
    wrong = winding.against | twisted
    if not wrong.any():
        return None
    count = int(wrong.sum())
    faces = np.flatnonzero(wrong)
    return looked.finding(
        code="inconsistent-winding",
        severity=Severity.STOP,
        title=f"{plural(count, 'face')} turned the wrong way",
        measured=float(count),
        unit="faces",
        why="Neighbours disagree about which side is outside, so layers there come out filled or empty by chance."
        + (" One shell is one-sided and cannot be made to agree." if twisted.any() else ""),
        count=count,
        groups=looked.patches(faces),
        lines=looked.sides(faces),
        remedies=(mend_remedy("Turn them to agree", OrientFaces(), says="no change of shape"),)
        if winding.against.any()
        else (),
    )


def _inverted(looked: ExaminedPart) -> Finding | None:
    winding, found = looked.found.winding, looked.found
    if not winding.inverted.any():
        return None
    count = int(winding.inverted.sum())
    return looked.finding(
        code="inverted-shell",
        severity=Severity.STOP,
        title=f"{plural(count, 'shell')} inside out",
        measured=float(count),
        unit="shells",
        why="The shell looks inward though nothing encloses it: it counts as a hole in the air, and where it touches "
        "other shells it eats into them.",
        count=count,
        groups=found.corners_of(np.flatnonzero(winding.inverted)),
        lines=looked.sides(np.flatnonzero(winding.inverted[winding.shell])),
        remedies=(mend_remedy("Turn it outward", OrientFaces(), says="no change of shape"),),
    )
