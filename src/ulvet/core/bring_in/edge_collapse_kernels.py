"""The compiled pass of edge collapses that ``edge_collapse`` repeats."""

import numpy as np
from numpy.typing import NDArray

from ulvet.core.geometry.near_triangle import nearest_weights
from ulvet.core.kernels import kernel, typed

__all__ = ["collapse_pass", "corner_lists", "linked_lists"]

_MOST_FACES = 96
"""Round an edge; one with more is left alone."""
_MOST_SAMPLES = 1 << 16
"""Held round an edge; one with more is left alone."""
_FLAT = 0.2
"""Cosine of the most that a face may turn in one collapse (some 78°)."""
_SLIVER = 1e-3
"""Height over longest side under which a new face counts as a sliver."""
_f8, _i4, _i8 = typed.float64[:, ::1], typed.int32[:, ::1], typed.int64[::1]
_f8r, _i4r = typed.Array(typed.float64, 2, "C", readonly=True), typed.Array(typed.int32, 2, "C", readonly=True)
_b1 = typed.boolean[::1]


def linked_lists(of: NDArray[np.int64], owners: int) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """For each owner the first thing that is of it, and for each thing the next of the same owner; -1 ends a list."""
    order = np.argsort(of, kind="stable")
    ends = np.append(of[order][1:] != of[order][:-1], True) if len(of) else np.empty(0, bool)
    after = np.empty(len(of), np.int64)
    after[order] = np.where(ends, -1, np.append(order[1:], -1))
    first = np.full(owners, -1, np.int64)
    first[of[order[::-1]]] = order[::-1]
    return first, after


def corner_lists(faces: NDArray[np.int32], vertices: int) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    return linked_lists(faces.ravel().astype(np.int64), vertices)


@kernel(typed.float64(*[typed.float64] * 12))
def _square_to_triangle(px, py, pz, ax, ay, az, bx, by, bz, cx, cy, cz):  # type: ignore[no-untyped-def]
    """Squared distance of a point from a triangle."""
    ux, uy, uz, wx, wy, wz = bx - ax, by - ay, bz - az, cx - ax, cy - ay, cz - az
    qx, qy, qz = px - ax, py - ay, pz - az
    s, t = nearest_weights(ux, uy, uz, wx, wy, wz, qx, qy, qz)
    gx, gy, gz = qx - s * ux - t * wx, qy - s * uy - t * wy, qz - s * uz - t * wz
    return gx * gx + gy * gy + gz * gz


@kernel(typed.float64(typed.float64[::1], typed.float64, typed.float64, typed.float64))
def _error(q, x, y, z):  # type: ignore[no-untyped-def]
    """The quadric ``q`` (10,), rows of its upper half, at a point."""
    return (
        q[0] * x * x + 2 * q[1] * x * y + 2 * q[2] * x * z + 2 * q[3] * x
        + q[4] * y * y + 2 * q[5] * y * z + 2 * q[6] * y + q[7] * z * z + 2 * q[8] * z + q[9]
    )  # fmt: skip


@kernel(typed.float64(_f8, _f8, _b1, typed.int64, typed.int64, typed.float64[::1], typed.float64[::1]))
def _place(vertices, planes, stays, a, b, q, at):  # type: ignore[no-untyped-def]
    """Where the ends of an edge are joined best (into ``at``) and the sum of their quadrics (into ``q``); the error."""
    for k in range(10):
        q[k] = planes[a, k] + planes[b, k]
    if stays[a] or stays[b]:
        kept = a if stays[a] else b
        at[0], at[1], at[2] = vertices[kept, 0], vertices[kept, 1], vertices[kept, 2]
        return _error(q, at[0], at[1], at[2])
    best = np.inf
    mx, my, mz = (
        (vertices[a, 0] + vertices[b, 0]) / 2,
        (vertices[a, 1] + vertices[b, 1]) / 2,
        (vertices[a, 2] + vertices[b, 2]) / 2,
    )
    for x, y, z in (
        (vertices[a, 0], vertices[a, 1], vertices[a, 2]),
        (vertices[b, 0], vertices[b, 1], vertices[b, 2]),
        (mx, my, mz),
    ):
        error = _error(q, x, y, z)
        if error < best:
            best = error
            at[0], at[1], at[2] = x, y, z
    # The least of the quadric, where that is one point near the edge (Cramer's rule about the middle).
    g0 = q[0] * mx + q[1] * my + q[2] * mz + q[3]
    g1 = q[1] * mx + q[4] * my + q[5] * mz + q[6]
    g2 = q[2] * mx + q[5] * my + q[7] * mz + q[8]
    c00, c01, c02 = q[4] * q[7] - q[5] * q[5], q[2] * q[5] - q[1] * q[7], q[1] * q[5] - q[2] * q[4]
    whole = q[0] * c00 + q[1] * c01 + q[2] * c02
    trace = q[0] + q[4] + q[7]
    if abs(whole) > 1e-6 * trace * trace * trace:
        c11, c12, c22 = q[0] * q[7] - q[2] * q[2], q[1] * q[2] - q[0] * q[5], q[0] * q[4] - q[1] * q[1]
        x = -(c00 * g0 + c01 * g1 + c02 * g2) / whole
        y = -(c01 * g0 + c11 * g1 + c12 * g2) / whole
        z = -(c02 * g0 + c12 * g1 + c22 * g2) / whole
        dx, dy, dz = (
            (vertices[a, 0] - vertices[b, 0]),
            (vertices[a, 1] - vertices[b, 1]),
            (vertices[a, 2] - vertices[b, 2]),
        )
        if x * x + y * y + z * z <= dx * dx + dy * dy + dz * dz:
            error = _error(q, mx + x, my + y, mz + z)
            if error < best:
                best = error
                at[0], at[1], at[2] = mx + x, my + y, mz + z
    return best


@kernel(typed.int64(_i4, _b1, _i8, _i8, typed.int64, _i8))
def _star(faces, alive, first, after, vertex, into):  # type: ignore[no-untyped-def]
    """The faces round a vertex, into ``into``; their number, or -1 where they are too many."""
    count = 0
    corner = first[vertex]
    while corner >= 0:
        face = corner // 3
        if alive[face]:
            if count == len(into):
                return -1
            into[count] = face
            count += 1
        corner = after[corner]
    return count


@kernel(typed.boolean(_f8, _i4, typed.int64, typed.float64[::1]))
def _is_fair(vertices, faces, face, new):  # type: ignore[no-untyped-def]
    """Whether a face with new corners (9,) neither turns over nor becomes a sliver that it was not before."""
    a, b, c = faces[face, 0], faces[face, 1], faces[face, 2]
    ux, uy, uz = vertices[b, 0] - vertices[a, 0], vertices[b, 1] - vertices[a, 1], vertices[b, 2] - vertices[a, 2]
    wx, wy, wz = vertices[c, 0] - vertices[a, 0], vertices[c, 1] - vertices[a, 1], vertices[c, 2] - vertices[a, 2]
    nx, ny, nz = uy * wz - uz * wy, uz * wx - ux * wz, ux * wy - uy * wx
    old = np.sqrt(nx * nx + ny * ny + nz * nz)
    longest_old = max(
        ux * ux + uy * uy + uz * uz, wx * wx + wy * wy + wz * wz, (ux - wx) ** 2 + (uy - wy) ** 2 + (uz - wz) ** 2
    )
    ux, uy, uz = new[3] - new[0], new[4] - new[1], new[5] - new[2]
    wx, wy, wz = new[6] - new[0], new[7] - new[1], new[8] - new[2]
    mx, my, mz = uy * wz - uz * wy, uz * wx - ux * wz, ux * wy - uy * wx
    area = np.sqrt(mx * mx + my * my + mz * mz)
    longest = max(
        ux * ux + uy * uy + uz * uz, wx * wx + wy * wy + wz * wz, (ux - wx) ** 2 + (uy - wy) ** 2 + (uz - wz) ** 2
    )
    was_sliver = old <= _SLIVER * longest_old
    if area <= _SLIVER * longest and not (was_sliver and area > 0):
        return False
    return was_sliver or nx * mx + ny * my + nz * mz >= _FLAT * old * area


@kernel(typed.int64(_i8, typed.int64, _i8, typed.int64, typed.int64, typed.int64, _i4, _i8, _i8, _i8))
def _gathered(of_a, in_a, of_b, in_b, a, b, faces, first, after, held):  # type: ignore[no-untyped-def]
    """Every sample held by the faces round an edge, into ``held``; their number, or -1 where they are too many."""
    total = 0
    for i in range(in_a + in_b):
        one = of_a[i] if i < in_a else of_b[i - in_a]
        if i >= in_a and (faces[one, 0] == a or faces[one, 1] == a or faces[one, 2] == a):
            continue  # of both ends, gathered already
        sample = first[one]
        while sample >= 0:
            if total == len(held):
                return -1
            held[total] = sample
            total += 1
            sample = after[sample]
    return total


@kernel(typed.boolean(_f8, _i8, _i8, typed.int64, _i8, typed.int64, _f8, typed.float64, _i8))
def _all_held(points, by, held, total, around, count, new, square, goes):  # type: ignore[no-untyped-def]
    """Whether every sample lies near enough to one of the new faces, and to which (into ``goes``)."""
    last = 0
    for i in range(total):
        sample = held[i]
        x, y, z = points[sample, 0], points[sample, 1], points[sample, 2]
        found = False
        # The face that held it, then the one that held the last, then all.
        for turn in range(count + 2):
            k = turn - 2
            if turn == 0:
                k = -1
                for j in range(count):
                    if around[j] == by[sample]:
                        k = j
                if k < 0:
                    continue
            elif turn == 1:
                k = last
            n = new[k]
            if _square_to_triangle(x, y, z, n[0], n[1], n[2], n[3], n[4], n[5], n[6], n[7], n[8]) <= square:
                found, last = True, k
                goes[i] = k
                break
        if not found:
            return False
    return True


@kernel(
    typed.boolean(
        typed.float64[::1],
        _f8,
        typed.int64,
        _i4,
        _i8,
        typed.int64,
        typed.int64,
        _i8,
        typed.int64,
        _f8r,
        _i4r,
        typed.float64,
    )
)
def _all_near(at, new, count, faces, around, a, b, held, total, before_vertices, before_faces, square):  # type: ignore[no-untyped-def]
    """Whether the new vertex and the middle of every new face and edge lie near enough to the first surface."""
    last = 0
    for i in range(count):
        n = new[i]
        for which in range(5):
            if which == 4:
                if i > 0:
                    break
                x, y, z = at[0], at[1], at[2]
            elif which == 3:
                x, y, z = (n[0] + n[3] + n[6]) / 3, (n[1] + n[4] + n[7]) / 3, (n[2] + n[5] + n[8]) / 3
            else:
                p, r = faces[around[i], which], faces[around[i], (which + 1) % 3]
                if p not in (a, b) and r not in (a, b):
                    continue  # an edge that stays as it is
                s, t = 3 * which, 3 * ((which + 1) % 3)
                x, y, z = (n[s] + n[t]) / 2, (n[s + 1] + n[t + 1]) / 2, (n[s + 2] + n[t + 2]) / 2
            found = False
            for turn in range(-1, total):
                k = last if turn < 0 else turn
                if k >= total or held[k] >= len(before_faces):
                    continue  # of an edge or a vertex, which is no face
                f = held[k]
                u, v, w = before_faces[f, 0], before_faces[f, 1], before_faces[f, 2]
                away = _square_to_triangle(
                    x, y, z,
                    before_vertices[u, 0], before_vertices[u, 1], before_vertices[u, 2],
                    before_vertices[v, 0], before_vertices[v, 1], before_vertices[v, 2],
                    before_vertices[w, 0], before_vertices[w, 1], before_vertices[w, 2],
                )  # fmt: skip
                if away <= square:
                    found, last = True, k
                    break
            if not found:
                return False
    return True


@kernel(
    typed.void(
        _f8, _i4, _b1, _b1, _f8, _i8, _i8, _f8, _i8, _i8, _i8, _f8r, _i4r, _i8,
        typed.int64, typed.float64, typed.float64, typed.float64,
    )
)  # fmt: skip
def collapse_pass(  # type: ignore[no-untyped-def]
    vertices, faces, alive, stays, planes, corner_first, corner_after, points, by, first, after,
    before_vertices, before_faces, changed, number, known, tolerance, square,
):  # fmt: skip
    """Collapse every edge whose error is within ``tolerance`` and that may be. One whose error was within ``known``
    was looked at in the pass before, and is again only where something about it ``changed`` since."""
    q, at = np.empty(10), np.empty(3)
    of_a, of_b = np.empty(_MOST_FACES, np.int64), np.empty(_MOST_FACES, np.int64)
    around = np.empty(2 * _MOST_FACES, np.int64)
    new = np.empty((2 * _MOST_FACES, 9))
    seen = np.zeros(len(vertices), np.int64)
    stamp = 0
    held = np.empty(_MOST_SAMPLES, np.int64)
    goes = np.empty(_MOST_SAMPLES, np.int64)
    for face in range(len(faces)):
        for k in range(3):
            if not alive[face]:
                break
            a, b = np.int64(faces[face, k]), np.int64(faces[face, (k + 1) % 3])
            if a > b or (stays[a] and stays[b]):
                continue
            error = _place(vertices, planes, stays, a, b, q, at)
            if error > tolerance or (error <= known and max(changed[a], changed[b]) < number - 1):
                continue
            if stays[b]:
                a, b = b, a
            in_a = _star(faces, alive, corner_first, corner_after, a, of_a)
            in_b = _star(faces, alive, corner_first, corner_after, b, of_b)
            if in_a < 0 or in_b < 0:
                continue
            # The two ends have two neighbours in common, or the surface would be pinched.
            stamp += 2
            shared = 0
            for i in range(in_a):
                for j in range(3):
                    seen[faces[of_a[i], j]] = stamp
            for i in range(in_b):
                for j in range(3):
                    v = faces[of_b[i], j]
                    if v not in (a, b) and seen[v] == stamp:
                        seen[v] = stamp + 1
                        shared += 1
            if shared != 2:
                continue
            # Faces that stay, with their corners as they would be; those of both ends go.
            count, good, both = 0, True, 0
            for i in range(in_a + in_b):
                one = of_a[i] if i < in_a else of_b[i - in_a]
                f0, f1, f2 = faces[one, 0], faces[one, 1], faces[one, 2]
                if (a in (f0, f1, f2)) and (b in (f0, f1, f2)):
                    both += i < in_a
                    continue
                around[count] = one
                for j in range(3):
                    v = faces[one, j]
                    for axis in range(3):
                        new[count, 3 * j + axis] = at[axis] if v in (a, b) else vertices[v, axis]
                good = good and _is_fair(vertices, faces, one, new[count])
                count += 1
                if not good:
                    break
            if not good or both != 2:
                continue
            total = _gathered(of_a, in_a, of_b, in_b, a, b, faces, first, after, held)
            if total < 0:
                continue
            if not _all_held(points, by, held, total, around, count, new, square, goes):
                continue
            if not _all_near(at, new, count, faces, around, a, b, held, total, before_vertices, before_faces, square):
                continue
            # Done: b goes.
            for axis in range(3):
                vertices[a, axis] = at[axis]
            for j in range(10):
                planes[a, j] = q[j]
            for i in range(in_a + in_b):
                one = of_a[i] if i < in_a else of_b[i - in_a]
                first[one] = -1
                alive[one] = False
            corner_first[a] = -1
            for i in range(count):
                one = around[i]
                alive[one] = True
                for j in range(3):
                    if faces[one, j] == b:
                        faces[one, j] = a
                    if faces[one, j] == a:
                        corner_after[3 * one + j] = corner_first[a]
                        corner_first[a] = 3 * one + j
                    changed[faces[one, j]] = number
            for i in range(total):
                sample, one = held[i], around[goes[i]]
                by[sample] = one
                after[sample] = first[one]
                first[one] = sample
