"""The three ways of making a mesh sound: exactly, in places, and as a whole by volume."""

import time
from collections.abc import Iterator
from dataclasses import dataclass

import manifold3d
import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.crossing import crossing_faces
from ulvet.core.geometry.degenerate_faces import drop_faces
from ulvet.core.geometry.face_orientation import orient_faces
from ulvet.core.geometry.fans import without_duplicates, without_nonmanifold, without_scraps
from ulvet.core.geometry.holes import close_holes
from ulvet.core.geometry.mesh import Mesh, Points, bounds, concatenated, face_areas, flipped
from ulvet.core.geometry.solids import Body, body_of, drawn_body, mesh_of, nested, shells_of, solids_of
from ulvet.core.geometry.topology import (
    connected_groups,
    edges_of,
    face_shells,
    is_watertight,
    without_collapsed_faces,
    without_unused_vertices,
)
from ulvet.core.geometry.untangling import cut_tangles_out, erode_rims
from ulvet.core.geometry.welding import weld_within
from ulvet.core.mend.diagnosis import Diagnosis, diagnose
from ulvet.core.mend.sharp_edges import restore_sharp_edges
from ulvet.core.mend.voxel_remesh import voxel_remesh, voxel_remesh_box, voxel_remesh_open
from ulvet.core.recipe.step import plural
from ulvet.core.tolerances import BENCH_TOLERANCES

__all__ = [
    "SEAMS",
    "TANGLE",
    "CannotMend",
    "Clock",
    "Closed",
    "close_up",
    "remesh_locally",
    "remesh_whole",
    "settled",
    "unite_shells",
]

_LOCAL_SHARE = 0.3
"""Of the box about the figure: where more than that would be remade locally, it is remade as a whole."""
TANGLE = 6.0
"""Grid steps over which faces that cross may reach that are cut out and closed over."""
SEAMS = 60.0
"""The same along the seams of what was remade locally, where nothing but slivers crosses."""
_THINNED = (0.1, 0.03)
"""Grid steps by which a remade surface may move when it is thinned out; the less, the fewer faces end up crossed."""
_SHARP_ROUNDS = 4
"""Times that edges are restored with those left out that made it cross."""
_MOST_BOXES = 2_000
"""Boxes about crossings that are remade one by one; more are remade as a whole."""
_MARGIN = 4.0  # grid steps about what crosses
_SEAM = 0.01  # grid steps within which the seam's slivers are joined
_LAP = 0.5  # grid steps by which the remade part reaches into the rest
_SHELLS_UNITED = 20_000
"""Shells that are united exactly, for time."""


class CannotMend(Exception):
    """A mesh that a method, or none, makes sound; the message says why and what to do."""


class Clock:
    """How long a method may take, in seconds."""

    def __init__(self, seconds: float) -> None:
        self._seconds, self._end = seconds, time.monotonic() + seconds

    def look(self) -> None:
        """Go on, or raise CannotMend when the time is over."""
        if time.monotonic() > self._end:
            raise CannotMend(f"it had not ended after {self._seconds:.0f} s")


@dataclass(frozen=True)
class Closed:
    """A mesh whose rims are closed and whose faces agree, shell by shell; what was invented for it."""

    mesh: Mesh
    holes: int
    invented: float
    left: int
    one_sided: bool


def close_up(mesh: Mesh) -> Closed:
    """Weld vertices at one place, drop faces without area, split what is not manifold, orient faces and fill holes."""
    mesh = weld_within(mesh, 0.0)[0]
    mesh = without_collapsed_faces(drop_faces(mesh, BENCH_TOLERANCES.zero_area_height)[0])
    mesh = without_scraps(orient_faces(without_nonmanifold(without_duplicates(mesh)))[0])
    whole, counts = close_holes(mesh, faired=True)
    invented = float(face_areas(whole)[len(mesh.faces) :].sum())
    whole, turned = orient_faces(erode_rims(whole) if counts["left"] else whole)
    whole = without_unused_vertices(whole)
    edges = edges_of(whole)
    one_sided = not edges.open.any() and not is_watertight(edges) if len(whole.faces) else False
    return Closed(whole, counts["closed"], invented, counts["left"], one_sided or bool(turned["shells-twisted"]))


def _needs_closed(closed: Closed) -> Mesh:
    if not len(closed.mesh.faces):
        raise CannotMend("no face of it has an area")
    edges = edges_of(closed.mesh)
    if closed.one_sided:
        raise CannotMend("its surface has one side only")
    if edges.open.any():
        raise CannotMend(f"{plural(max(closed.left, 1), 'open rim')} could not be closed")
    return closed.mesh


def unite_shells(closed: Closed, tangle: float, overlaps_left: bool, clock: Clock) -> Mesh:
    """Unite shells that cross or lie in each other, if no shell crosses itself; leave all others as they are."""
    mesh = _needs_closed(closed)
    found = diagnose(mesh, 0.0)
    if overlaps_left or (not len(found.shells.overlapping) and not len(found.shells.inner)):
        return mesh
    if _crosses_itself(found):
        mesh = cut_tangles_out(mesh, tangle, clock.look)
        found = diagnose(mesh, 0.0)
    clock.look()
    if _crosses_itself(found):
        raise CannotMend("a shell crosses itself and others")
    if found.shells.count > _SHELLS_UNITED:
        raise CannotMend(f"{found.shells.count:,} shells are too many to unite")
    return mesh_of(solids_of(mesh)[0].body)[0]


def _crosses_itself(found: Diagnosis) -> bool:
    own = found.shells.of[found.crossings.pairs]
    return bool((own[:, 0] == own[:, 1]).any())


def remesh_whole(closed: Closed, pitch: float, clock: Clock) -> Iterator[Mesh]:
    """Remesh everything by volume with sharp edges.

    It tries fewer triangles first; if that is not sound, the edges as the grid cut them; last, all triangles.
    """
    if closed.left and len(closed.mesh.faces) and not closed.one_sided:
        made = voxel_remesh_open(closed.mesh, pitch, clock.look)
    else:
        made = voxel_remesh(_needs_closed(closed), pitch, clock.look)
    if not len(made.faces):
        raise CannotMend("it encloses nothing that a grid so coarse would show")
    clock.look()
    yield _sharp(made, closed.mesh, pitch, clock)
    for share in _THINNED:
        yield mesh_of(drawn_body(made, share * pitch))[0]
    yield made


def _sharp(made: Mesh, source: Mesh, pitch: float, clock: Clock) -> Mesh:
    """A drawn surface thinned out with the edges of its source, but for places where that would make it cross itself:
    tips so narrow that the grid has lost their sides."""
    blunt = np.empty((0, 3))
    for _ in range(_SHARP_ROUNDS):
        clock.look()
        thin = mesh_of(drawn_body(restore_sharp_edges(made, source, pitch, blunt), _THINNED[0] * pitch))[0]
        crossing = crossing_faces(thin).faces
        if not len(crossing):
            break
        blunt = np.concatenate([blunt, thin.vertices[np.unique(thin.faces[crossing])]])
    return thin


def remesh_locally(closed: Closed, pitch: float, clock: Clock) -> tuple[Mesh, Points]:
    """Remesh the crossings and a few grid steps around them, and unite that with the rest; also give the boxes (b, 2,
    3) that were remeshed."""
    mesh = _needs_closed(closed)
    found = crossing_faces(mesh)
    boxes = _boxes_about(mesh, found.pairs, _MARGIN * pitch)
    low, high = bounds(mesh)
    if not found.whole or not len(boxes):
        raise CannotMend("nothing crosses" if found.whole else "too much of it crosses")
    if np.prod(boxes[:, 1] - boxes[:, 0], axis=1).sum() > _LOCAL_SHARE * np.prod(high - low):
        raise CannotMend("what crosses is too much of it")
    if (shells := face_shells(mesh, edges_of(mesh))[0]) > _MOST_BOXES:
        raise CannotMend(f"{shells:,} shells are too many to sew together")
    # With its faces told apart, so that flat ones elsewhere are not merged.
    rest, _ = body_of(mesh)
    if rest.status() != manifold3d.Error.NoError:
        raise CannotMend("its surface is no manifold")
    cut, anew = [], []
    for start, end in boxes:
        clock.look()
        cut.append(manifold3d.Manifold.cube(list(end - start)).translate(list(start)))
        patch = voxel_remesh_box(mesh, pitch, start - _LAP * pitch, end + _LAP * pitch, clock.look)
        if len(patch.faces):
            anew.append(drawn_body(patch, _THINNED[0] * pitch))
    rest -= manifold3d.Manifold.batch_boolean(cut, manifold3d.OpType.Add)
    clock.look()
    whole = manifold3d.Manifold.batch_boolean([_rest(rest), *anew], manifold3d.OpType.Add)
    return _without_crumbs(mesh_of(whole.simplify(_SEAM * pitch))[0], boxes, pitch), boxes


def _rest(body: Body) -> Body:
    """Combine the shells of a body that no longer cross, each in its turn, cavities subtracted."""
    pieces = [(piece, piece.volume()) for piece in body.decompose()]
    return nested(
        [(piece if filled > 0 else body_of(flipped(mesh_of(piece)[0]))[0], filled) for piece, filled in pieces]
    )


def _without_crumbs(mesh: Mesh, boxes: Points, pitch: float) -> Mesh:
    """Without shells shorter than a step of the grid that sewing has left in the boxes (b, 2, 3)."""
    shells = shells_of(mesh)
    if len(shells) == 1:
        return mesh
    spans = np.array([bounds(shell) for shell in shells])
    inside = np.all((spans[:, None, 0] > boxes[:, 0] - pitch) & (spans[:, None, 1] < boxes[:, 1] + pitch), axis=2)
    crumbs = np.any(inside, axis=1) & (np.ptp(spans, axis=1).max(axis=1) < pitch)
    if not np.any(crumbs):
        return mesh
    return concatenated(*[shell for shell, crumb in zip(shells, crumbs, strict=True) if not crumb])


def _boxes_about(mesh: Mesh, pairs: NDArray[np.int64], margin: float) -> Points:
    """Boxes (b, 2, 3) about what crosses, ``margin`` mm larger, none of which overlaps another. Raises CannotMend."""
    count, group = connected_groups(len(mesh.faces), pairs)
    faces = np.unique(pairs)
    corners = mesh.vertices[mesh.faces[faces]]
    low, high = np.full((count, 3), np.inf), np.full((count, 3), -np.inf)
    np.minimum.at(low, group[faces], corners.min(axis=1))
    np.maximum.at(high, group[faces], corners.max(axis=1))
    used = np.unique(group[faces])
    if len(used) > _MOST_BOXES:
        raise CannotMend(f"it crosses itself in {len(used):,} places, too many to remake one by one")
    boxes = np.stack([low[used] - margin, high[used] + margin], axis=1)
    while True:
        apart = (boxes[:, None, 0] > boxes[None, :, 1]).any(axis=2) | (boxes[None, :, 0] > boxes[:, None, 1]).any(
            axis=2
        )
        ends = np.argwhere(~apart)
        count, group = connected_groups(len(boxes), ends)
        if count == len(boxes):
            return boxes
        merged = np.full((count, 2, 3), np.inf)
        merged[:, 1] = -np.inf
        np.minimum.at(merged[:, 0], group, boxes[:, 0])
        np.maximum.at(merged[:, 1], group, boxes[:, 1])
        boxes = merged


def _written(mesh: Mesh) -> Mesh:
    """A mesh as a file will hold it: coordinates in float32, and nothing that lost its area by that."""
    rounded = weld_within(Mesh(mesh.vertices.astype(np.float32).astype(np.float64), mesh.faces), 0.0)[0]
    rounded = without_collapsed_faces(rounded)
    small = float(np.ptp(bounds(rounded), axis=0).max()) * 2e-7 if len(rounded.faces) else 0.0
    return without_unused_vertices(without_nonmanifold(without_duplicates(drop_faces(rounded, small)[0])))


def settled(mesh: Mesh, tangle: float, crumb: float, clock: Clock, overlaps_left: bool = False) -> Mesh:
    """A mesh as it is written, with the small tangles cut out that it has or that rounding has made, and without what
    crumbles off smaller than ``crumb`` mm where they are."""
    written = _written(mesh)
    if overlaps_left and diagnose(written, 0.0).sound_with(overlaps_left):
        return written
    made = cut_tangles_out(written, tangle, clock.look)
    if made is written:
        return written
    shells = shells_of(made)
    return _written(
        concatenated(*[shell for shell in shells if len(shells) == 1 or np.ptp(bounds(shell), axis=0).max() > crumb])
    )
