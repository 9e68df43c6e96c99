"""Pressing a picture into a surface: found from the front, refined as the picture needs, moved along its normals."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import map_coordinates, maximum_filter

from ulvet.core.geometry.deviation import distance_to
from ulvet.core.geometry.mesh import Floats, Mesh, Points, face_normals, vertex_normals
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.splitting import split_edges
from ulvet.core.geometry.topology import connected_groups, edges_of, paired_faces, without_unused_vertices
from ulvet.core.sources.picture import Picture

__all__ = ["LANDED", "CannotPress", "StampPlacement", "StampedMesh", "press_picture"]

LANDED = 0.97
"""Share of the strokes that has to find surface for nothing to be said (bench default)."""
_LEAST_LANDED = 0.1
"""Share of the strokes below which it is not pressed at all (bench default)."""
_FACING = 0.08
"""Cosine to the view from which a face is pressed at all (bench default)."""
_FULLY_FACING = 0.25
"""Cosine to the view from which a face is pressed by the whole depth (bench default)."""
_ROUNDS = 40
"""Times that edges under a picture are cut."""
_OFF = 0.04
"""How far the surface may lie off the picture between corners, as a share of the depth."""
_MOST_FACES = 3_000_000
"""Triangles under a picture, for memory."""
_FULL = 0.98
"""Share of the strongest stroke from which a stroke is full."""
_LEAST_LEFT = 0.2
"""What of a wall has to be left behind a sunk stamp, as a share of it."""

Ints = NDArray[np.int64]


class CannotPress(Exception):
    """A stamp that lands nowhere or would cut through; the message says which."""


@dataclass(frozen=True)
class StampPlacement:
    """Where and how a picture is pressed: at a point (3,), seen along ``view`` (3,), a unit vector from the figure to
    the eye, ``width`` mm across and ``depth`` mm high, or deep when ``sunk``; ``turn`` in degrees, anticlockwise as
    seen.

    Upright is what points up on the figure, or away from the front where it is seen from above or below.
    """

    point: Points
    view: Points
    width: float
    depth: float
    sunk: bool = False
    turn: float = 0.0

    def axes(self) -> tuple[Points, Points]:
        """The directions across and up the picture."""
        world = np.array([0.0, 0, 1]) if abs(self.view[2]) < 0.99 else np.array([0.0, np.sign(self.view[2]), 0])
        across = np.cross(world, self.view)
        across /= np.linalg.norm(across)
        up = np.cross(self.view, across)
        cos, sin = np.cos(np.radians(self.turn)), np.sin(np.radians(self.turn))
        return across * cos + up * sin, up * cos - across * sin


@dataclass(frozen=True)
class StampedMesh:
    """A mesh with a picture in it. Depths (mm) are measured from the surface that was, where strokes are full;
    ``back_moved`` is the farthest any corner moved that is not turned to the stamp, or not seen first from there;
    ``landed`` is the share of the strokes that found surface."""

    mesh: Mesh
    depth_min: float
    depth_max: float
    back_moved: float
    landed: float


def press_picture(mesh: Mesh, picture: Picture, stamping: StampPlacement) -> StampedMesh:
    """Press a picture into a mesh.

    Only faces turned towards the view, seen first along it and hanging together with where it points are touched; they
    are refined until the surface follows the picture within a twenty-fifth of the depth. Raises CannotPress.
    """
    rays = Rays(mesh)
    front = _front(mesh, rays, stamping, picture)
    # A ring about it takes up the cuts, so that the rest of the mesh is not touched.
    ring = _ring(mesh, front)
    patch = Mesh(mesh.vertices, mesh.faces[ring])
    used = np.unique(patch.faces).astype(np.int64)
    local = np.full(len(mesh.vertices), -1, np.int64)
    local[used] = np.arange(len(used))
    patch = Mesh(mesh.vertices[used], local[patch.faces].astype(np.int32))
    fine, touched = _refined(patch, front[ring], picture, stamping)
    strength, landed = _strengths(rays, fine, touched, picture, stamping)
    if landed < _LEAST_LANDED:
        raise CannotPress(
            f"Only {landed:.0%} of its strokes find surface there: it is larger than the figure or lies beside it; "
            "press it narrower or elsewhere; nothing was changed."
        )
    signed = strength * (-stamping.depth if stamping.sunk else stamping.depth)
    normals = vertex_normals(Mesh(fine.vertices, fine.faces))
    if stamping.sunk:
        _stop_before_cutting(rays, fine.vertices, normals, strength * stamping.depth)
    points = fine.vertices + normals * signed[:, None]
    points[strength == 0] = fine.vertices[strength == 0]
    whole = _put_back(mesh, ring, used, fine, points)
    full = strength > _FULL * strength.max()
    depths = distance_to(patch, points[full])
    still = np.ones(len(mesh.vertices), bool)
    still[np.unique(mesh.faces[front])] = False
    back = np.linalg.norm(whole.vertices[: len(mesh.vertices)] - mesh.vertices, axis=1)[still]
    return StampedMesh(
        without_unused_vertices(whole), float(depths.min()), float(depths.max()), float(back.max(initial=0.0)), landed
    )


def _plane(points: Points, stamping: StampPlacement) -> Points:
    """Points (n, 3) as they lie on the stamp, (n, 2) mm from its middle, across and up."""
    across, up = stamping.axes()
    away = points - stamping.point
    return np.stack([away @ across, away @ up], axis=1)


def _front(mesh: Mesh, rays: Rays, stamping: StampPlacement, picture: Picture) -> NDArray[np.bool_]:
    """The faces a stamp reaches, (m,)."""
    half = np.array([1.0, picture.ratio]) * stamping.width / 2
    flat = _plane(mesh.vertices, stamping)[mesh.faces]
    over = ((flat.max(axis=1) > -half) & (flat.min(axis=1) < half)).all(axis=1)
    facing = face_normals(mesh) @ stamping.view > _FACING
    chosen = np.flatnonzero(over & facing)
    if len(chosen):
        chosen = chosen[_seen_first(rays, mesh, chosen, stamping.view)]
    if not len(chosen):
        raise CannotPress(
            "The stamp finds no surface that is turned towards it there: point at the figure's skin; "
            "nothing was changed."
        )
    part = Mesh(mesh.vertices, mesh.faces[chosen])
    pairs, _ = paired_faces(edges_of(part))
    _, group = connected_groups(len(chosen), pairs)
    nearest = int(np.argmin(_away(part, stamping.point)))
    front = np.zeros(len(mesh.faces), bool)
    front[chosen[group == group[nearest]]] = True
    return front


def _away(mesh: Mesh, point: Points) -> Floats:
    """Distance (m,) of each face from a point, from its middle less the ball about it, and from its plane beyond."""
    corners = mesh.vertices[mesh.faces]
    middle = corners.mean(axis=1)
    reach = np.linalg.norm(corners - middle[:, None], axis=2).max(axis=1)
    off = np.linalg.norm(middle - point, axis=1)
    plane = np.abs(np.einsum("ij,ij->i", point - middle, face_normals(mesh)))
    return np.where(off <= reach, plane, off - reach + plane) + 1e-9 * off


def _seen_first(rays: Rays, mesh: Mesh, faces: Ints, view: Points) -> NDArray[np.bool_]:
    """Whether anything of each face is seen along the view: its middle, or a place near one of its corners."""
    corners = mesh.vertices[mesh.faces[faces]]
    middle = corners.mean(axis=1)
    spots = np.concatenate([middle[:, None], corners * 0.9 + middle[:, None] * 0.1], axis=1).reshape(-1, 3)
    return np.asarray(_open_to(rays, spots, view).reshape(-1, 4).any(axis=1))


def _open_to(rays: Rays, points: Points, view: Points) -> NDArray[np.bool_]:
    start = points + view * 4 * rays.grain
    distance, _ = rays.first(start, np.tile(view, (len(start), 1)))
    return np.asarray(np.isinf(distance))


def _ring(mesh: Mesh, front: NDArray[np.bool_]) -> NDArray[np.bool_]:
    corner = np.zeros(len(mesh.vertices), bool)
    corner[mesh.faces[front]] = True
    return np.asarray(corner[mesh.faces].any(axis=1))


class _Need:
    """How finely a picture has to be followed: the greatest bend of its strengths in any square of it."""

    def __init__(self, picture: Picture, width: float) -> None:
        strength = picture.strength
        padded = np.pad(strength, 1)
        bends = [np.abs(padded[2:, 1:-1] - 2 * strength + padded[:-2, 1:-1])]
        bends += [np.abs(padded[1:-1, 2:] - 2 * strength + padded[1:-1, :-2])]
        level = maximum_filter(np.pad(np.maximum(*bends), 1), 3)
        self.pixel = width / strength.shape[1]
        self.half = np.array([width, width * picture.ratio]) / 2
        self.levels = [level]
        while min(level.shape) > 1:
            level = np.pad(level, [(0, side % 2) for side in level.shape])
            level = level.reshape(level.shape[0] // 2, 2, level.shape[1] // 2, 2).max(axis=(1, 3))
            self.levels.append(level)

    def bend(self, low: Points, high: Points) -> Floats:
        """Greatest bend, a px², in boxes (n, 2) of the stamp's plane."""
        height = self.levels[0].shape[0]
        a = np.stack([(low[:, 0] + self.half[0]) / self.pixel, (self.half[1] - high[:, 1]) / self.pixel], axis=1) + 1
        b = np.stack([(high[:, 0] + self.half[0]) / self.pixel, (self.half[1] - low[:, 1]) / self.pixel], axis=1) + 1
        size = np.array([self.levels[0].shape[1], height]) - 1
        beside = (b < 0).any(axis=1) | (a > size).any(axis=1)
        a, b = np.clip(a, 0, size), np.clip(b, 0, size)
        level = np.clip(np.ceil(np.log2(np.maximum((b - a).max(axis=1), 1))), 0, len(self.levels) - 1).astype(int)
        found = np.zeros(len(low))
        for k in np.unique(level):
            here = level == k
            cells = self.levels[k]
            most = np.array([cells.shape[1], cells.shape[0]]) - 1
            first, last = (np.minimum((end[here] / 2**k).astype(int), most) for end in (a, b))
            corners = [cells[y, x] for x in (first[:, 0], last[:, 0]) for y in (first[:, 1], last[:, 1])]
            found[here] = np.max(corners, axis=0)
        return np.where(beside, 0.0, found)


def _refined(
    patch: Mesh, front: NDArray[np.bool_], picture: Picture, stamping: StampPlacement
) -> tuple[Mesh, NDArray[np.bool_]]:
    """The patch with the edges of its front faces cut until it follows the picture; which of its faces are front."""
    need = _Need(picture, stamping.width)
    for _ in range(_ROUNDS):
        flat = _plane(patch.vertices, stamping)
        corners = flat[patch.faces]
        sides = np.linalg.norm(corners - np.roll(corners, -1, axis=1), axis=2)
        longest = sides.max(axis=1)
        bend = need.bend(corners.min(axis=1), corners.max(axis=1))
        # A straight line over a bend is off by an eighth of it times the square of its length.
        coarse = front & (bend * (longest / need.pixel) ** 2 / 8 > _OFF) & (longest > 0.7 * need.pixel)
        if not coarse.any():
            break
        if len(patch.faces) > _MOST_FACES:
            raise CannotPress("This picture would take more than three million triangles: press it smaller or softer.")
        edges = edges_of(patch)
        split = np.zeros(len(edges.ends), bool)
        long = np.linalg.norm(patch.vertices[edges.ends[:, 0]] - patch.vertices[edges.ends[:, 1]], axis=1)
        of_face = edges.of_half.reshape(-1, 3)
        own = of_face[np.arange(len(of_face)), long[of_face].argmax(axis=1)]
        split[own[coarse]] = True
        while True:  # a face that is cut is cut at its longest side too, which keeps it from growing thin (Rivara 1984)
            cut = split[of_face].any(axis=1) & front
            before = split.sum()
            split[own[cut]] = True
            if split.sum() == before:
                break
        split &= ~edges.open
        if not split.any():
            break
        ends = edges.ends[split]
        # Cut faces come in the order of split_edges: whole, in two, in three, in four.
        count = split[of_face].sum(axis=1)
        front = np.concatenate([front[count == 0], *[np.tile(front[count == k], k + 1) for k in (1, 2, 3)]])
        patch = split_edges(patch, edges, split, patch.vertices[ends].mean(axis=1))
    return patch, front


def _strengths(
    rays: Rays, fine: Mesh, front: NDArray[np.bool_], picture: Picture, stamping: StampPlacement
) -> tuple[Floats, float]:
    """How strongly each corner of the refined patch is pressed, (n,), and the share of the strokes that lands."""
    flat = _plane(fine.vertices, stamping)
    pixel = stamping.width / picture.strength.shape[1]
    rows, columns = picture.strength.shape
    x, y = flat[:, 0] / pixel + columns / 2 - 0.5, rows / 2 - 0.5 - flat[:, 1] / pixel
    strength = map_coordinates(picture.strength, [y, x], order=1, mode="nearest")
    within = (np.abs(flat) <= np.array([columns, rows]) * pixel / 2).all(axis=1)
    turned = vertex_normals(fine) @ stamping.view
    fade = np.clip((turned - _FACING) / (_FULLY_FACING - _FACING), 0, 1)
    touched = np.zeros(len(fine.vertices), bool)
    touched[fine.faces[front]] = True
    # The rim of the front belongs to faces that are not pressed.
    touched[fine.faces[~front]] = False
    asked = np.flatnonzero(touched & within & (strength > 0) & (fade > 0))
    seen = np.zeros(len(fine.vertices), bool)
    seen[asked] = _open_to(rays, fine.vertices[asked], stamping.view)
    pressed = np.where(seen, strength * fade, 0.0)
    if not pressed.any():
        raise CannotPress(
            "None of the strokes lands on the figure there: move or enlarge the stamp; nothing was changed."
        )
    return pressed, _landed(fine, pressed, flat, picture, pixel)


def _landed(fine: Mesh, pressed: Floats, flat: Points, picture: Picture, pixel: float) -> float:
    """Share of what a picture would press that was pressed, over the stamp's plane."""
    u, v = (flat[fine.faces[:, k]] - flat[fine.faces[:, 0]] for k in (1, 2))
    areas = np.abs(u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]) / 2
    done = float(areas @ pressed[fine.faces].mean(axis=1))
    return min(1.0, done / max(float(picture.strength.sum()) * pixel**2, 1e-300))


def _stop_before_cutting(rays: Rays, points: Points, normals: Points, depth: Floats) -> None:
    """Refuse a stamp that would be sunk through the wall behind it."""
    deep = np.flatnonzero(depth > 0)
    start = points[deep] - normals[deep] * 4 * rays.grain
    wall, _ = rays.first(start, -normals[deep])
    left = wall - depth[deep]
    if (left < _LEAST_LEFT * wall).any():
        thin = float(wall[np.argmin(left)])
        raise CannotPress(
            f"The wall there is {thin:.2f} mm, too thin for a stamp sunk {depth.max():.2f} mm: press it less deep, or "
            "raise it; nothing was changed."
        )


def _put_back(mesh: Mesh, ring: NDArray[np.bool_], used: Ints, fine: Mesh, points: Points) -> Mesh:
    """The mesh with its patch exchanged; vertices keep their places, new ones come behind."""
    old = len(used)
    vertices = np.concatenate([mesh.vertices, points[old:]])
    vertices[used] = points[:old]
    number = np.concatenate([used, np.arange(len(points) - old) + len(mesh.vertices)])
    return Mesh(vertices, np.concatenate([mesh.faces[~ring], number[fine.faces].astype(np.int32)]))
