"""A mesh made sound by the mildest method that does, with the price of it."""

import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import manifold3d
import numpy as np
from numpy.typing import NDArray

from ulvet.core.deviation import distance_to
from ulvet.core.mend.crossing import crossing_faces
from ulvet.core.mend.diagnosis import Diagnosis, diagnose
from ulvet.core.mend.faces import drop_faces
from ulvet.core.mend.holes import close_holes
from ulvet.core.mend.parting import parted, without_doubles, without_scraps
from ulvet.core.mend.remake import TooFine, remake, remake_within
from ulvet.core.mend.untangling import TooWide, untangled, worn_back
from ulvet.core.mend.winding import orient_faces
from ulvet.core.mesh import Mesh, Points, area, bounds, face_areas, joined, volume
from ulvet.core.recipe.step import says
from ulvet.core.solids import CannotJoin, drawn_body, mesh_of, shells_of, solids_of
from ulvet.core.tolerances import BENCH_TOLERANCES
from ulvet.core.topology import edges_of, is_watertight, joined_groups, without_loose, without_repeats
from ulvet.core.welding import weld_within

__all__ = ["CannotMend", "Mended", "Method", "mend"]

Method = Literal["auto", "exact", "local", "volume"]
_STEPS = 300
"""Grid steps along the longest side where no pitch is given."""
_LOCAL_SHARE = 0.3
"""Of the box about the figure: where more than that would be remade locally, it is remade as a whole."""
_TANGLE = 6.0
"""Grid steps over which faces that cross may reach that are cut out and closed over."""
_SEAMS = 60.0
"""The same along the seams of what was remade locally, where nothing but slivers crosses."""
_CRUMB = 2.0
"""Grid steps: what comes apart smaller than that where a tangle was cut out is dropped."""
_THINNED = 0.1
"""Grid steps by which a remade surface may move when it is thinned out."""
_MOST_BOXES = 2_000
_MARGIN = 4.0  # grid steps about what crosses
_SEAM = 0.01  # grid steps within which the seam's slivers are joined
_LAP = 0.5  # grid steps by which the remade part reaches into the rest
_SHELLS_UNITED = 20_000


class CannotMend(Exception):
    """A mesh that no method makes sound; the message says why and what to do."""


@dataclass(frozen=True)
class Mended:
    """A mended mesh and its receipt: areas mm², movements mm, volumes mm³.

    ``methods`` are those that were tried, each with what came of it; the last one made the mesh. Movement is of the
    surface that remains, from where it was.
    """

    mesh: Mesh
    before: Diagnosis
    after: Diagnosis
    methods: tuple[tuple[str, str], ...]
    holes_closed: int
    area_added: float
    area_removed: float
    max_move: float
    mean_move: float
    volume_before: float
    volume_after: float
    pitch: float | None
    seconds: float

    @property
    def method(self) -> str:
        """The method that made the mesh."""
        return self.methods[-1][0]


@dataclass(frozen=True)
class _Closed:
    """A mesh whose rims are closed and whose faces agree, shell by shell; what was invented for it."""

    mesh: Mesh
    holes: int
    invented: float
    left: int


def mend(mesh: Mesh, method: Method = "auto", pitch: float | None = None) -> Mended:
    """Make a mesh sound: closed, outward, no edge of more than two faces, nothing that crosses; judged as float32,
    in which files are written.

    *exact* joins corners at one place, drops what has no area, takes apart what hangs together by an edge or a point,
    turns faces to agree, closes holes and unites shells; what was right keeps its coordinates. *local* remakes by
    volume, at ``pitch`` mm, only what crosses itself, and may merge flat faces elsewhere; *volume* remakes all of it.
    *auto* takes the first of them that ends well. Raises CannotMend.
    """
    began = time.perf_counter()
    before = diagnose(mesh, BENCH_TOLERANCES.zero_area_height)
    closed = _closed(before.mesh)
    pitch = pitch or max(float(np.ptp(bounds(mesh), axis=0).max()) / _STEPS, 1e-6)
    ways: dict[str, Callable[[], Mesh]] = {
        "exact": lambda: _united(closed, _TANGLE * pitch),
        "local": lambda: _remade_locally(closed, pitch),
        "volume": lambda: _remade(closed, pitch),
    }
    tried: list[tuple[str, str]] = []
    for name, make in ways.items() if method == "auto" else [(method, ways[method])]:
        try:
            made = (
                mesh
                if before.sound and name == "exact" and _kept(mesh)
                else _settled(make(), (_SEAMS if name == "local" else _TANGLE) * pitch, _CRUMB * pitch)
            )
        except (CannotMend, CannotJoin, TooFine, TooWide) as refusal:
            tried.append((name, str(refusal)))
            continue
        after = diagnose(made, 0.0)
        if after.sound and len(made.faces):
            tried.append((name, "sound"))
            return _receipt(mesh, before, closed, made, after, tried, pitch, time.perf_counter() - began)
        wrong = ", ".join(f"{count} {code}" for code, count in after.counts.items() if count and code != "sealed-void")
        tried.append(
            (name, f"left {wrong}" if after.crossings.whole else "left more that crosses than can be looked at")
        )
    said = "; ".join(f"{name}: {what}" for name, what in tried)
    raise CannotMend(f"This mesh could not be made sound ({said}); nothing was changed. Try a finer or coarser pitch.")


def _closed(mesh: Mesh) -> _Closed:
    """Corners joined, what has no area dropped, everything taken apart that hangs by an edge or a point, turned to
    agree, and its holes closed."""
    mesh = weld_within(mesh, 0.0)[0]
    mesh = without_repeats(drop_faces(mesh, BENCH_TOLERANCES.zero_area_height)[0])
    mesh = without_scraps(orient_faces(parted(without_doubles(mesh)))[0])
    whole, counts = close_holes(mesh)
    invented = float(face_areas(whole)[len(mesh.faces) :].sum())
    whole = without_loose(orient_faces(worn_back(whole) if counts["left"] else whole)[0])
    return _Closed(whole, counts["closed"], invented, counts["left"])


def _needs_closed(closed: _Closed) -> Mesh:
    if not len(closed.mesh.faces):
        raise CannotMend("no face of it has an area")
    edges = edges_of(closed.mesh)
    if edges.open.any():
        raise CannotMend(f"{says(max(closed.left, 1), 'open rim')} could not be closed")
    if not is_watertight(edges):
        raise CannotMend("its surface has one side only")
    return closed.mesh


def _united(closed: _Closed, tangle: float) -> Mesh:
    """Shells that cross or lie in each other as one, once no shell crosses itself; all others as they are."""
    mesh = _needs_closed(closed)
    found = diagnose(mesh, 0.0)
    if not len(found.shells.overlapping) and not len(found.shells.inner):
        return mesh
    if _crosses_itself(found):
        mesh = untangled(mesh, tangle)
        found = diagnose(mesh, 0.0)
    if _crosses_itself(found):
        raise CannotMend("a shell crosses itself and others")
    if found.shells.count > _SHELLS_UNITED:
        raise CannotMend(f"{found.shells.count:,} shells are too many to unite")
    return mesh_of(solids_of(mesh)[0].body)[0]


def _crosses_itself(found: Diagnosis) -> bool:
    own = found.shells.of[found.crossings.pairs]
    return bool((own[:, 0] == own[:, 1]).any())


def _remade(closed: _Closed, pitch: float) -> Mesh:
    """All of it remade by volume, with fewer triangles where it stays sound with them."""
    made = remake(_needs_closed(closed), pitch)
    if not len(made.faces):
        raise CannotMend("it encloses nothing that a grid so coarse would show")
    try:
        fewer = _settled(mesh_of(drawn_body(made, _THINNED * pitch))[0], _TANGLE * pitch, _CRUMB * pitch)
    except TooWide:
        return made
    return fewer if diagnose(fewer, 0.0).sound else made


def _remade_locally(closed: _Closed, pitch: float) -> Mesh:
    """What crosses, and a few grid steps about it, remade by volume and united with the rest."""
    mesh = _needs_closed(closed)
    found = crossing_faces(mesh)
    boxes = _boxes_about(mesh, found.pairs, _MARGIN * pitch)
    low, high = bounds(mesh)
    if not found.whole or not len(boxes):
        raise CannotMend("nothing crosses" if found.whole else "too much of it crosses")
    if np.prod(boxes[:, 1] - boxes[:, 0], axis=1).sum() > _LOCAL_SHARE * np.prod(high - low):
        raise CannotMend("what crosses is too much of it")
    rest = manifold3d.Manifold(manifold3d.Mesh64(np.array(mesh.vertices), mesh.faces.astype(np.uint64)))
    if rest.status() != manifold3d.Error.NoError:
        raise CannotMend("its surface is no manifold")
    anew = []
    for start, end in boxes:
        rest -= manifold3d.Manifold.cube(list(end - start)).translate(list(start))
        patch = remake_within(mesh, pitch, start - _LAP * pitch, end + _LAP * pitch)
        if len(patch.faces):
            anew.append(drawn_body(patch, _THINNED * pitch))
    pieces = [piece for piece in rest.decompose() if piece.volume() > 0]
    whole = manifold3d.Manifold.batch_boolean([*pieces, *anew], manifold3d.OpType.Add)
    return mesh_of(whole.simplify(_SEAM * pitch))[0]


def _boxes_about(mesh: Mesh, pairs: NDArray[np.int64], margin: float) -> Points:
    """Boxes (b, 2, 3) about what crosses, ``margin`` mm larger, none of which overlaps another. Raises CannotMend."""
    count, group = joined_groups(len(mesh.faces), pairs)
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
        count, group = joined_groups(len(boxes), ends)
        if count == len(boxes):
            return boxes
        merged = np.full((count, 2, 3), np.inf)
        merged[:, 1] = -np.inf
        np.minimum.at(merged[:, 0], group, boxes[:, 0])
        np.maximum.at(merged[:, 1], group, boxes[:, 1])
        boxes = merged


def _kept(mesh: Mesh) -> bool:
    """Whether a mesh is as it would be written."""
    return bool((mesh.vertices == mesh.vertices.astype(np.float32)).all())


def _written(mesh: Mesh) -> Mesh:
    """A mesh as a file will hold it: coordinates in float32, and nothing that lost its area by that."""
    rounded = weld_within(Mesh(mesh.vertices.astype(np.float32).astype(np.float64), mesh.faces), 0.0)[0]
    rounded = without_repeats(rounded)
    small = float(np.ptp(bounds(rounded), axis=0).max()) * 2e-7 if len(rounded.faces) else 0.0
    return without_loose(parted(without_doubles(drop_faces(rounded, small)[0])))


def _settled(mesh: Mesh, tangle: float, crumb: float) -> Mesh:
    """A mesh as it is written, with the small tangles cut out that it has or that rounding has made, and without what
    crumbles off smaller than ``crumb`` mm where they are."""
    written = _written(mesh)
    settled = untangled(written, tangle)
    if settled is written:
        return written
    shells = shells_of(settled)
    return _written(
        joined(*[shell for shell in shells if len(shells) == 1 or np.ptp(bounds(shell), axis=0).max() > crumb])
    )


def _receipt(
    mesh: Mesh, before: Diagnosis, closed: _Closed, made: Mesh, after: Diagnosis, tried: list[tuple[str, str]],
    pitch: float, seconds: float,
) -> Mended:  # fmt: skip
    moved = distance_to(closed.mesh, made.vertices) if len(closed.mesh.faces) else np.zeros(1)
    exact = tried[-1][0] == "exact"
    lost = area(before.mesh) + closed.invented - area(made)
    return Mended(
        mesh=made,
        before=before,
        after=after,
        methods=tuple(tried),
        holes_closed=closed.holes,
        area_added=closed.invented,
        area_removed=max(lost, 0.0),
        max_move=float(moved.max(initial=0.0)),
        mean_move=float(moved.mean()),
        volume_before=volume(before.mesh),
        volume_after=volume(made),
        pitch=None if exact else pitch,
        seconds=seconds,
    )
