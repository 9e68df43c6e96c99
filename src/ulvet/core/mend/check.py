"""What is wrong with a mesh as a mesh."""

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulvet.core.findings import AddSteps, Cost, Finding, Remedy, Severity, Where
from ulvet.core.lengths import PrintMM
from ulvet.core.mend.faces import doubled_faces, zero_area_faces
from ulvet.core.mend.holes import close_holes, holes_of
from ulvet.core.mend.steps import CloseHoles, DropFaces, OrientFaces, Weld
from ulvet.core.mend.winding import Winding, orient_faces, winding_of
from ulvet.core.mesh import Mesh, Points, bounds, face_normals
from ulvet.core.recipe.step import Part, Step, says
from ulvet.core.stations import Station
from ulvet.core.tolerances import Tolerances
from ulvet.core.topology import Edges, edges_of, without_repeats

__all__ = ["check_mesh"]

Mask = NDArray[np.bool_]
_NEAR_SHARE = 1e-4
_PLACES = 100


def check_mesh(part: Part, factor: float, tolerances: Tolerances) -> list[Finding]:
    """Findings of Mend for one part, lengths at print size; empty for a clean mesh."""
    flat = zero_area_faces(part.mesh, tolerances.zero_area_height)
    flat_finding = _faces(part, flat, "zero-area-faces", "without area", factor)
    # A face that repeats a vertex joins nothing, so it must not show up as open or crowded edges.
    part = Part(part.name, without_repeats(part.mesh))
    edges = edges_of(part.mesh)
    winding = winding_of(part.mesh, edges)
    twice = doubled_faces(part.mesh)
    found = [
        _open_edges(part, edges, winding, factor),
        _nonmanifold(part, edges, factor),
        flat_finding,
        _faces(part, twice, "doubled-faces", "there twice", factor),
        _inconsistent(part, winding),
        _inverted(part, winding),
    ]
    return [finding for finding in found if finding]


def _open_edges(part: Part, edges: Edges, winding: Winding, factor: float) -> Finding | None:
    if not edges.open.any():
        return None
    mesh = part.mesh
    places = [_place(mesh.vertices[hole.rim], factor) for hole in holes_of(mesh, edges)]
    places.sort(key=lambda place: -(place.extent or 0))
    ends = mesh.vertices[edges.ends[edges.open]]
    length = float(np.linalg.norm(ends[:, 0] - ends[:, 1], axis=1).sum()) * factor
    return Finding(
        code="open-edges",
        station=Station.MEND,
        severity=Severity.STOP,
        part=part.name,
        title=f"The surface is open in {says(len(places), 'place')}",
        measured=length,
        limit=0,
        unit="mm",
        count=int(edges.open.sum()),
        where=places[0],
        places=tuple(places[:_PLACES]),
        why="Inside and outside cannot be told apart at an open rim: a slicer guesses, "
        "and fills or empties whole layers.",
        remedies=(*_closing(mesh, winding), *_joining(mesh, edges, factor)),
    )


def _closing(mesh: Mesh, winding: Winding) -> list[Remedy]:
    """Closing what can be closed, after turning the faces that break a rim where that lets more be closed."""
    closable = close_holes(mesh)[1]["closed"]
    if winding.against.any():
        turned = close_holes(orient_faces(mesh)[0])[1]["closed"]
        if turned > closable:
            label = f"Turn {says(int(winding.against.sum()), 'face')} to agree, then close {says(turned, 'hole')}"
            return [_mend(label, OrientFaces(), CloseHoles(), says="flat patches, surface invented")]
    if not closable:
        return []
    return [_mend(f"Close {says(closable, 'hole')}", CloseHoles(), says="flat patches, surface invented")]


def _joining(mesh: Mesh, edges: Edges, factor: float) -> list[Remedy]:
    """Joining corners of rims that lie close together without being one."""
    near = float(np.ptp(bounds(mesh), axis=0).max()) * _NEAR_SHARE
    rim = mesh.vertices[np.unique(edges.ends[edges.open])]
    if not len(cKDTree(rim).query_pairs(near, output_type="ndarray")):
        return []
    return [
        _mend("Join loose corners, then close the rest", Weld(distance=near), DropFaces(), CloseHoles(),
              says=f"corners move up to {near * factor:.3f} mm")
    ]  # fmt: skip


def _nonmanifold(part: Part, edges: Edges, factor: float) -> Finding | None:
    if not edges.nonmanifold.any():
        return None
    ends = part.mesh.vertices[edges.ends[edges.nonmanifold]]
    balanced = bool((edges.balance[edges.nonmanifold] == 0).all())
    doubled = doubled_faces(part.mesh).any()
    return Finding(
        code="nonmanifold-edges",
        station=Station.MEND,
        severity=Severity.CAUTION if balanced else Severity.STOP,
        part=part.name,
        title=f"{says(len(ends), 'edge')} with more than two faces",
        measured=float(edges.uses.max()),
        limit=2,
        unit="faces",
        count=len(ends),
        where=_place(ends.reshape(-1, 3), factor),
        places=tuple(_place(pair, factor) for pair in ends[:_PLACES]),
        why="Surfaces meet along an edge like pages of a book. "
        + (
            "Here they close all the same, so it prints, but a union or a hollowing may fail on it."
            if balanced
            else "Which side is solid is then a guess, and hollowing or joining fails."
        ),
        remedies=(_mend("Drop doubled faces", DropFaces(), says="no change of shape"),) if doubled else (),
    )


def _faces(part: Part, wrong: Mask, code: str, said: str, factor: float) -> Finding | None:
    if not wrong.any():
        return None
    corners = part.mesh.vertices[part.mesh.faces[wrong]]
    return Finding(
        code=code,
        station=Station.MEND,
        severity=Severity.CAUTION,
        part=part.name,
        title=f"{says(len(corners), 'face')} {said}",
        measured=float(len(corners)),
        limit=0,
        unit="faces",
        count=len(corners),
        where=_place(corners[0], factor),
        places=tuple(_place(triangle, factor) for triangle in corners[:_PLACES]),
        why="They do not show in the print, but later steps stumble over them: "
        "normals, walls and unions are undefined there.",
        remedies=(_mend("Drop them", DropFaces(), says="no change of shape"),),
    )


def _inconsistent(part: Part, winding: Winding) -> Finding | None:
    twisted = winding.twisted[winding.shell]
    wrong = winding.against | twisted
    if not wrong.any():
        return None
    count = int(wrong.sum())
    return Finding(
        code="inconsistent-winding",
        station=Station.MEND,
        severity=Severity.STOP,
        part=part.name,
        title=f"{says(count, 'face')} turned the wrong way",
        measured=float(count),
        limit=0,
        unit="faces",
        count=count,
        where=_on_face(part.mesh, int(np.argmax(wrong))),
        why="Neighbours disagree about which side is outside, so layers there come out filled or empty by chance."
        + (" One shell is one-sided and cannot be made to agree." if twisted.any() else ""),
        remedies=(_mend("Turn them to agree", OrientFaces(), says="no change of shape"),)
        if winding.against.any()
        else (),
    )


def _inverted(part: Part, winding: Winding) -> Finding | None:
    if not winding.inverted.any():
        return None
    wrong = winding.inverted[winding.shell]
    count = int(winding.inverted.sum())
    return Finding(
        code="inverted-shell",
        station=Station.MEND,
        severity=Severity.STOP,
        part=part.name,
        title=f"{says(count, 'shell')} inside out",
        measured=float(count),
        limit=0,
        unit="shells",
        count=count,
        where=_on_face(part.mesh, int(np.argmax(wrong))),
        why="The shell looks inward though nothing encloses it: it counts as a hole in the air, "
        "and where it touches other shells it eats into them.",
        remedies=(_mend("Turn it outward", OrientFaces(), says="no change of shape"),),
    )


def _place(points: Points, factor: float) -> Where:
    size = float(np.ptp(points, axis=0).max())
    x, y, z = map(float, points.mean(axis=0))
    return Where(point=(x, y, z), extent=PrintMM(size * factor))


def _on_face(mesh: Mesh, face: int) -> Where:
    x, y, z = map(float, mesh.vertices[mesh.faces[face]].mean(axis=0))
    nx, ny, nz = map(float, face_normals(mesh)[face])
    return Where(point=(x, y, z), normal=(nx, ny, nz))


def _mend(label: str, *steps: Step, says: str) -> Remedy:
    return Remedy(label=label, change=AddSteps(steps=steps), cost=Cost(says=says))
