"""Faces that cross: found by a tree of boxes, settled by exact predicates."""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.mesh import Floats, Mesh
from ulvet.core.geometry.predicates import side_of_line, side_of_plane
from ulvet.core.kernels import THREADS, kernel, typed

__all__ = ["Crossings", "crossing_faces"]

Ints = NDArray[np.int64]
_LEAF = 4
"""Faces in a leaf of the tree."""
_CLEAR = 1e-12
"""Share of the sizes by which a float has to be off zero for its sign to be believed; errors are below 1e-15."""
_MOST_PAIRS = 1_000_000
"""Crossing pairs after which the search is given up, for memory."""
_MOST_TRIED = 600_000_000
"""Pairs of boxes looked at before the search is given up: some tens of seconds."""

_i, _points, _boxes, _ids = typed.int64, typed.float64[:, ::1], typed.float64[:, ::1], typed.int64[::1]


@dataclass(frozen=True)
class Crossings:
    """Pairs of faces (k, 2) that cross, the lower first, sorted; ``whole`` unless the search was given up."""

    pairs: Ints
    whole: bool

    @property
    def faces(self) -> Ints:
        """The faces that cross another, each once."""
        return np.unique(self.pairs)


def crossing_faces(mesh: Mesh) -> Crossings:
    """Find pairs of faces that cross: they share more than a point beyond a common edge, or overlap in one plane.

    Corners at one place count as one corner, faces with the same three corners as one face, and faces whose corners lie
    in a line are ignored. The search stops at a million pairs, or when too many boxes overlap.
    """
    if len(mesh.faces) < 2:
        return Crossings(np.empty((0, 2), np.int64), True)
    order, sides, boxes, last = _tree(mesh)
    # Corner by corner in the order of the tree, so that what is compared lies close together.
    v = np.ascontiguousarray(mesh.vertices[mesh.faces[order]].reshape(-1, 3))
    leaves = -(-len(order) // _LEAF)
    parts = np.linspace(0, leaves, 2 * THREADS + 1).astype(np.int64)

    def search(begin: int, end: int) -> tuple[Ints, bool]:
        found: tuple[Ints, bool] = _pairs_from(v, sides, boxes, last, begin, end, _MOST_PAIRS // 4, _MOST_TRIED // 4)
        return found

    with ThreadPoolExecutor(THREADS) as workers:
        found = list(workers.map(search, parts[:-1], parts[1:]))
    pairs = np.sort(order[np.concatenate([some for some, _ in found])], axis=1)
    return Crossings(pairs[np.lexsort((pairs[:, 1], pairs[:, 0]))], all(whole for _, whole in found))


def _tree(mesh: Mesh) -> tuple[Ints, Floats, Floats, Ints]:
    """Build a full binary tree of boxes over the faces.

    Gives the faces in spatial order, their boxes (m, 6) in that order, the boxes (2p, 6) of the tree with four faces a
    leaf and the root at 1, and the last leaf under each node.
    """
    a, b, c = (mesh.vertices[mesh.faces[:, k]] for k in range(3))
    low, high = np.minimum(np.minimum(a, b), c), np.maximum(np.maximum(a, b), c)
    middle = (low + high) / 2
    start, end = middle.min(axis=0), middle.max(axis=0)
    cell = ((middle - start) * (2**20 / max(float((end - start).max()), 1e-300))).astype(np.uint64)
    key = np.zeros(len(cell), np.uint64)
    for axis in range(3):
        key |= _spread(cell[:, axis]) << np.uint64(axis)
    order = np.argsort(key, kind="stable")
    leaves = -(-len(order) // _LEAF)
    wide = 1 << max(int(leaves - 1).bit_length(), 0)
    boxes = np.empty((2 * wide, 6))
    boxes[:, :3], boxes[:, 3:] = np.inf, -np.inf
    starts = np.arange(0, len(order), _LEAF)
    sides = np.concatenate([low[order], high[order]], axis=1)
    boxes[wide : wide + leaves, :3] = np.minimum.reduceat(sides[:, :3], starts, axis=0)
    boxes[wide : wide + leaves, 3:] = np.maximum.reduceat(sides[:, 3:], starts, axis=0)
    last = np.zeros(2 * wide, np.int64)
    last[wide:] = np.arange(wide)
    level = wide
    while level > 1:
        level //= 2
        left, right = boxes[2 * level : 4 * level : 2], boxes[2 * level + 1 : 4 * level : 2]
        boxes[level : 2 * level, :3] = np.minimum(left[:, :3], right[:, :3])
        boxes[level : 2 * level, 3:] = np.maximum(left[:, 3:], right[:, 3:])
        last[level : 2 * level] = last[2 * level + 1 : 4 * level : 2]
    return order, sides, boxes, last


def _spread(bits: NDArray[np.uint64]) -> NDArray[np.uint64]:
    """Put two free bits after each of 21 bits (Morton 1966)."""
    for shift, mask in (
        (32, 0x1F00000000FFFF), (16, 0x1F0000FF0000FF), (8, 0x100F00F00F00F00F),
        (4, 0x10C30C30C30C30C3), (2, 0x1249249249249249),
    ):  # fmt: skip
        bits = (bits | (bits << np.uint64(shift))) & np.uint64(mask)
    return bits


@kernel(typed.boolean(_points, _i, _i))
def _same(v, a, b):  # type: ignore[no-untyped-def]  # compiled: the signature above is its type
    return a == b or (v[a, 0] == v[b, 0] and v[a, 1] == v[b, 1] and v[a, 2] == v[b, 2])


@kernel(typed.boolean(_points, _i, _i, _i, _i, _i, _i))
def _overlap_flat(v, a, b, c, p, q, r):  # type: ignore[no-untyped-def]
    # Two triangles of one plane are apart just when a side of one has the other wholly beyond it.
    x0, x1, x2 = v[b, 0] - v[a, 0], v[b, 1] - v[a, 1], v[b, 2] - v[a, 2]
    y0, y1, y2 = v[c, 0] - v[a, 0], v[c, 1] - v[a, 1], v[c, 2] - v[a, 2]
    n0, n1, n2 = abs(x1 * y2 - x2 * y1), abs(x2 * y0 - x0 * y2), abs(x0 * y1 - x1 * y0)
    if n0 >= n1 and n0 >= n2:
        x, y = 1, 2
    elif n1 >= n2:
        x, y = 2, 0
    else:
        x, y = 0, 1
    first, second = side_of_line(v, a, b, c, x, y), side_of_line(v, p, q, r, x, y)
    if first == 0 or second == 0:
        return False
    for _turn in range(2):
        for side in range(3):
            if side == 0:
                s, e = a, b
            elif side == 1:
                s, e = b, c
            else:
                s, e = c, a
            if (
                side_of_line(v, s, e, p, x, y) * first <= 0
                and side_of_line(v, s, e, q, x, y) * first <= 0
                and side_of_line(v, s, e, r, x, y) * first <= 0
            ):
                return False
        a, b, c, p, q, r, first = p, q, r, a, b, c, second
    return True


@kernel(typed.UniTuple(_i, 4)(_i, _i, _i, _i, _i, _i))
def _alone_first(a, b, c, sa, sb, sc):  # type: ignore[no-untyped-def]
    # The corner that has a side of the plane to itself, the next two, and its side; 0 where the triangle only touches.
    up, down = (sa > 0) + (sb > 0) + (sc > 0), (sa < 0) + (sb < 0) + (sc < 0)
    wanted = 0
    if up == 1 and (down > 0 or up + down == 1):
        wanted = 1
    elif down == 1 and (up > 0 or up + down == 1):
        wanted = -1
    if wanted == 0:
        return a, b, c, 0
    if sa == wanted:
        return a, b, c, wanted
    if sb == wanted:
        return b, c, a, wanted
    return c, a, b, wanted


@kernel(typed.UniTuple(_i, 3)(_i, _i, _i, _i))
def _turned(a, b, c, first):  # type: ignore[no-untyped-def]
    if first == 0:
        return a, b, c
    return (b, c, a) if first == 1 else (c, a, b)


@kernel(typed.boolean(_points, _i, _i, _i, _i, _i, _i, typed.boolean))
def _clearly_apart(v, a, b, c, p, q, r, common):  # type: ignore[no-untyped-def]
    # Whether a plane square to the way from one middle to the other parts them, by far more than floats can err;
    # through the corner a, p that they have in common, if they have one.
    least, most, size = np.inf, -np.inf, 0.0
    for corner in range(6):
        if corner == 0:
            w = a
        elif corner == 1:
            w = b
        elif corner == 2:
            w = c
        elif corner == 3:
            w = p
        elif corner == 4:
            w = q
        else:
            w = r
        if common and corner in (0, 3):
            continue
        along = away = 0.0
        for k in range(3):
            step = (v[p, k] - v[a, k]) + (v[q, k] - v[b, k]) + (v[r, k] - v[c, k])
            far = v[w, k] - v[a, k]
            along += far * step
            away += abs(far) * abs(step)
        size = max(size, away)
        if corner < 3:
            most = max(most, along)
        else:
            least = min(least, along)
    if common:
        return most < -_CLEAR * size and least > _CLEAR * size
    return least - most > _CLEAR * size


@kernel(typed.boolean(_points, _i, _i, _i, _i))
def _clearly_unfolded(v, a, p, b, c):  # type: ignore[no-untyped-def]
    # Whether a and p lie on different sides of the side b, c that their triangles have in common.
    uw = ue = we = ee = size = 0.0
    for k in range(3):
        u, w, e = v[a, k] - v[b, k], v[p, k] - v[b, k], v[c, k] - v[b, k]
        uw += u * w
        ue += u * e
        we += w * e
        ee += e * e
        size += abs(u) * abs(w)
    return uw * ee - ue * we < -_CLEAR * (size * ee + abs(ue * we))


@kernel(typed.boolean(_points, _i, _i, _i, _i, _i, _i, _i))
def _meet(v, a, b, c, p, q, r, shared):  # type: ignore[no-untyped-def]
    # By the sides on which corners lie and the order in which both meet the line of their planes (Guigue and
    # Devillers 2003). Where they share a corner, it is a and p.
    sp = 0 if shared else side_of_plane(v, a, b, c, p)
    sq, sr = side_of_plane(v, a, b, c, q), side_of_plane(v, a, b, c, r)
    if sp == 0 and sq == 0 and sr == 0:
        return _overlap_flat(v, a, b, c, p, q, r)
    p, q, r, second = _alone_first(p, q, r, sp, sq, sr)
    if second == 0:
        return False
    sa = 0 if shared else side_of_plane(v, p, q, r, a)
    sb, sc = side_of_plane(v, p, q, r, b), side_of_plane(v, p, q, r, c)
    a, b, c, first = _alone_first(a, b, c, sa, sb, sc)
    if first == 0:
        return False
    if first < 0:
        q, r = r, q
    if second < 0:
        b, c = c, b
    return side_of_plane(v, a, b, p, q) < 0 and side_of_plane(v, a, c, r, p) < 0


@kernel(typed.boolean(_points, _i, _i, _i, _i, _i, _i))
def _cross(v, a, b, c, p, q, r):  # type: ignore[no-untyped-def]
    shared_a = _same(v, a, p) or _same(v, a, q) or _same(v, a, r)
    shared_b = _same(v, b, p) or _same(v, b, q) or _same(v, b, r)
    shared_c = _same(v, c, p) or _same(v, c, q) or _same(v, c, r)
    shared = shared_a + shared_b + shared_c
    if shared == 3:
        return False
    if shared:
        # What they have one of stands first: the common corner, or the corner off the common side.
        one = shared == 1
        a, b, c = _turned(a, b, c, 0 if shared_a == one else 1 if shared_b == one else 2)
        shared_p = _same(v, p, a) or _same(v, p, b) or _same(v, p, c)
        shared_q = _same(v, q, a) or _same(v, q, b) or _same(v, q, c)
        p, q, r = _turned(p, q, r, 0 if shared_p == one else 1 if shared_q == one else 2)
    if shared == 2:
        if _clearly_unfolded(v, a, p, b, c) or side_of_plane(v, a, b, c, p) != 0:
            return False
        return _overlap_flat(v, a, b, c, p, q, r)
    return not _clearly_apart(v, a, b, c, p, q, r, shared == 1) and _meet(v, a, b, c, p, q, r, shared)


@kernel(typed.Tuple((typed.int64[:, ::1], typed.boolean))(_points, _boxes, _boxes, _ids, _i, _i, _i, _i))
def _pairs_from(v, sides, boxes, last, begin, end, most, most_tried):  # type: ignore[no-untyped-def]
    wide, m = len(last) // 2, len(sides)
    found = np.empty((1024, 2), np.int64)
    count = tried = 0
    stack = np.empty(128, np.int64)
    for leaf in range(begin, end):
        own = wide + leaf
        depth = 1
        stack[0] = 1
        while depth > 0:
            depth -= 1
            node = stack[depth]
            apart = False
            for k in range(3):
                if boxes[node, k] > boxes[own, 3 + k] or boxes[node, 3 + k] < boxes[own, k]:
                    apart = True
            if apart or last[node] < leaf:
                continue
            if node < wide:
                stack[depth] = 2 * node
                stack[depth + 1] = 2 * node + 1
                depth += 2
                continue
            tried += 1
            if tried > most_tried:
                return found[:count], False
            for i in range(4 * leaf, min(4 * leaf + 4, m)):
                for j in range(max(4 * (node - wide), i + 1), min(4 * (node - wide) + 4, m)):
                    apart = False
                    for k in range(3):
                        if sides[i, k] > sides[j, 3 + k] or sides[j, k] > sides[i, 3 + k]:
                            apart = True
                    if apart or not _cross(v, 3 * i, 3 * i + 1, 3 * i + 2, 3 * j, 3 * j + 1, 3 * j + 2):
                        continue
                    if count == most:
                        return found[:count], False
                    if count == len(found):
                        larger = np.empty((2 * count, 2), np.int64)
                        larger[:count] = found
                        found = larger
                    found[count, 0], found[count, 1] = i, j
                    count += 1
    return found[:count], True
