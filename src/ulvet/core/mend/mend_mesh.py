"""Mending a mesh by the mildest method that makes it sound."""

import time
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.spatial import cKDTree

from ulvet.core.geometry.deviation import distance_to
from ulvet.core.geometry.mesh import Mesh, Points, area, bounds, volume
from ulvet.core.geometry.solids import CannotJoin
from ulvet.core.geometry.topology import edges_of
from ulvet.core.geometry.untangling import TangleTooWide
from ulvet.core.mend.diagnosis import HARMLESS, Diagnosis, diagnose
from ulvet.core.mend.mend_methods import (
    SEAMS,
    TANGLE,
    CannotMend,
    Clock,
    Closed,
    close_up,
    remesh_locally,
    remesh_whole,
    settled,
    unite_shells,
)
from ulvet.core.mend.voxel_remesh import GridTooFine
from ulvet.core.tolerances import BENCH_TOLERANCES

__all__ = ["CannotMend", "MendedMesh", "Method", "MethodAttempt", "mend_mesh", "mend_pitch"]

Method = Literal["auto", "exact", "local", "volume"]
_STEPS = 300
"""Grid steps along the longest side where no pitch is given."""
_CRUMB = 2.0
"""Grid steps: what comes apart smaller than that where a tangle was cut out is dropped."""
_SECONDS = {"exact": 90.0, "local": 120.0, "volume": 240.0}
"""How long each method may take before the next is tried (bench default)."""
_AT_RIM = 1.5
"""Grid steps from an open rim within which a remade surface is taken to be invented."""


@dataclass(frozen=True)
class MethodAttempt:
    """A method that was tried, what came of it, how long it took, and the boxes (b, 2, 3) it was tried in: where there
    are none, the whole mesh."""

    method: str
    came_of_it: str
    seconds: float
    regions: Points


@dataclass(frozen=True)
class MendedMesh:
    """A mended mesh and its receipt: areas mm², movements mm, volumes mm³.

    ``methods`` are those that were tried; the last one made the mesh. Faces are told apart by their corners' places.
    Movement is of the surface that remains, from where it was.
    """

    mesh: Mesh
    before: Diagnosis
    after: Diagnosis
    methods: tuple[MethodAttempt, ...]
    holes_closed: int
    area_added: float
    area_removed: float
    faces_added: int
    faces_removed: int
    max_move: float
    mean_move: float
    volume_before: float
    volume_after: float
    pitch: float | None
    seconds: float

    @property
    def method(self) -> str:
        """The method that made the mesh."""
        return self.methods[-1].method


def mend_mesh(
    mesh: Mesh, method: Method = "auto", pitch: float | None = None, overlaps_left: bool = False
) -> MendedMesh:
    """Make a mesh sound: closed, outward, no edge of more than two faces, nothing that crosses; judged as float32,
    in which files are written.

    *exact* joins corners at one place, drops what has no area, takes apart what hangs together by an edge or a point,
    turns faces to agree, closes holes and unites shells; what was right keeps its coordinates. *local* remakes by
    volume, at ``pitch`` mm, only what crosses itself; *volume* remakes all of it.
    *auto* takes the first of them that ends well. With ``overlaps_left`` shells that overlap are no fault and are left
    so. A method that has not ended within its time gives way to the next. Raises CannotMend.
    """
    began = time.perf_counter()
    before = diagnose(mesh, BENCH_TOLERANCES.zero_area_height)
    closed = close_up(before.mesh)
    pitch = pitch or mend_pitch(mesh)
    tried: list[MethodAttempt] = []
    for name in ("exact", "local", "volume") if method == "auto" else (method,):
        start = time.perf_counter()
        made, came, regions = _attempt(name, mesh, before, closed, pitch, overlaps_left)
        tried.append(MethodAttempt(name, came, time.perf_counter() - start, regions))
        if made is not None:
            return _receipt(mesh, before, closed, *made, tried, pitch, time.perf_counter() - began)
    if closed.one_sided:
        raise CannotMend(
            "Its surface has one side only and shuts nothing in, so no method can say what is inside; nothing was "
            "changed. Give it a thickness where it was sculpted."
        )
    said = "; ".join(f"{one.method}: {one.came_of_it}" for one in tried)
    raise CannotMend(f"This mesh could not be made sound ({said}); nothing was changed. Try a finer or coarser pitch.")


def mend_pitch(mesh: Mesh) -> float:
    """The pitch (mm) of the grid a mesh is mended on where none is given."""
    return max(float(np.ptp(bounds(mesh), axis=0).max()) / _STEPS, 1e-6)


def _attempt(
    name: str, mesh: Mesh, before: Diagnosis, closed: Closed, pitch: float, overlaps_left: bool
) -> tuple[tuple[Mesh, Diagnosis] | None, str, Points]:
    """What a method makes of a mesh, with its diagnosis, where that is sound; what came of it, and where."""
    clock, regions = Clock(_SECONDS[name]), np.empty((0, 2, 3))
    came = ""
    tangle = (SEAMS if name == "local" else TANGLE) * pitch
    try:
        if name == "exact" and len(mesh.faces) and before.sound_with(overlaps_left) and _kept(mesh):
            return (mesh, before), "sound", regions
        if name == "local":
            once, regions = remesh_locally(closed, pitch, clock)
            ways: Iterable[Mesh] = [once]
        else:
            ways = (
                remesh_whole(closed, pitch, clock)
                if name == "volume"
                else [unite_shells(closed, tangle, overlaps_left, clock)]
            )
        for way in ways:
            try:
                made = settled(way, tangle, _CRUMB * pitch, clock, overlaps_left)
            except TangleTooWide as refusal:
                came = str(refusal)
                continue
            after = diagnose(made, 0.0)
            if after.sound_with(overlaps_left) and len(made.faces):
                return (made, after), "sound", regions
            came = _left(after)
            clock.look()
    except (CannotMend, CannotJoin, GridTooFine, TangleTooWide) as refusal:
        came = str(refusal)
    return None, came, regions


def _left(after: Diagnosis) -> str:
    """What a method left wrong."""
    if not after.crossings.whole:
        return "left more that crosses than can be looked at"
    remaining = {code: n for code, n in after.counts.items() if n and code not in HARMLESS}
    return "left " + ", ".join(f"{n} {code}" for code, n in remaining.items())


def _kept(mesh: Mesh) -> bool:
    """Say whether a mesh is already as float32 would hold it."""
    return bool((mesh.vertices == mesh.vertices.astype(np.float32)).all())


def _receipt(
    mesh: Mesh, before: Diagnosis, closed: Closed, made: Mesh, after: Diagnosis, tried: list[MethodAttempt],
    pitch: float, seconds: float,
) -> MendedMesh:  # fmt: skip
    moved = _moved(closed.mesh, made, _AT_RIM * pitch)
    lost = area(before.mesh) + closed.invented - area(made)
    kept = _faces_kept(before.mesh, made)
    return MendedMesh(
        mesh=made,
        before=before,
        after=after,
        methods=tuple(tried),
        holes_closed=closed.holes + (closed.left if tried[-1].method == "volume" else 0),
        area_added=closed.invented + max(-lost, 0.0),
        area_removed=max(lost, 0.0),
        faces_added=len(made.faces) - kept,
        faces_removed=len(before.mesh.faces) - kept,
        max_move=float(moved.max(initial=0.0)),
        mean_move=float(moved.mean()) if len(moved) else 0.0,
        volume_before=volume(before.mesh),
        volume_after=volume(made),
        pitch=None if tried[-1].method == "exact" else pitch,
        seconds=seconds,
    )


def _moved(was: Mesh, made: Mesh, at_rim: float) -> Points:
    """How far vertices (k,) of what was made lie from what was; those over rims that were open are left out."""
    if not len(was.faces):
        return np.zeros(1)
    away = distance_to(was, made.vertices)
    edges = edges_of(was)
    if not edges.open.any():
        return away
    rim = cKDTree(was.vertices[np.unique(edges.ends[edges.open])]).query(made.vertices)[0]
    return np.asarray(away[rim > away + at_rim])


def _faces_kept(was: Mesh, made: Mesh) -> int:
    """How many faces of what was made have the corners, as they are written, of one that was there."""
    keys = []
    for mesh in (was, made):
        corners = mesh.vertices.astype(np.float32)[mesh.faces]
        first = np.lexsort(corners.transpose(2, 0, 1)[::-1], axis=1)
        keys.append(np.take_along_axis(corners, first[:, :, None], axis=1).reshape(-1, 9))
    _, group = np.unique(np.concatenate(keys).view("V36"), return_inverse=True)
    return int(np.isin(group.ravel()[len(was.faces) :], group.ravel()[: len(was.faces)]).sum())
