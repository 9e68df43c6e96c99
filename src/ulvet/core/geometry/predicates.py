"""On which side of a plane or a line a point lies, never wrong: in floats where these suffice, else exactly.

Exact signs by sums of floats that do not overlap (Shewchuk 1997, "Adaptive Precision Floating-Point Arithmetic").
"""

import numpy as np

from ulvet.core.kernels import kernel, typed

__all__ = ["side_of_line", "side_of_plane"]

_f, _i = typed.float64, typed.int64
_fs, _points = typed.float64[::1], typed.float64[:, ::1]
_SPLIT = 134217729.0  # 2^27 + 1
_SURE_3D = 7.8e-16  # (7 + 56 eps) eps
_SURE_2D = 3.4e-16  # (3 + 16 eps) eps


@kernel(typed.UniTuple(_f, 2)(_f, _f))
def _two_sum(a, b):  # type: ignore[no-untyped-def]  # compiled: the signature above is its type
    x = a + b
    back = x - a
    return x, (a - (x - back)) + (b - back)


@kernel(typed.UniTuple(_f, 2)(_f, _f))
def _two_product(a, b):  # type: ignore[no-untyped-def]
    x = a * b
    c = _SPLIT * a
    a_high = c - (c - a)
    a_low = a - a_high
    c = _SPLIT * b
    b_high = c - (c - b)
    b_low = b - b_high
    return x, a_low * b_low - (((x - a_high * b_high) - a_low * b_high) - a_high * b_low)


@kernel(_i(_fs, _i, _fs, _i))
def _add(total, n, other, m):  # type: ignore[no-untyped-def]
    # Both by size, the least first; the sum takes the place of ``total``.
    for j in range(m):
        q = other[j]
        kept = 0
        for i in range(n):
            q, rest = _two_sum(q, total[i])
            if rest != 0.0:
                total[kept] = rest
                kept += 1
        if q != 0.0:
            total[kept] = q
            kept += 1
        n = kept
    return n


@kernel(_i(_fs, _i, _f, _fs))
def _scale(e, n, by, out):  # type: ignore[no-untyped-def]
    kept = 0
    q = 0.0
    for i in range(n):
        high, low = _two_product(e[i], by)
        q, rest = _two_sum(q, low)
        if rest != 0.0:
            out[kept] = rest
            kept += 1
        q, rest = _two_sum(high, q)
        if rest != 0.0:
            out[kept] = rest
            kept += 1
    if q != 0.0:
        out[kept] = q
        kept += 1
    return kept


@kernel(_i(_fs, _i, _fs, _i, _fs, _fs))
def _multiply(e, n, f, m, out, scaled):  # type: ignore[no-untyped-def]
    kept = 0
    for j in range(m):
        kept = _add(out, kept, scaled, _scale(e, n, f[j], scaled))
    return kept


@kernel(_i(_f, _f, _fs))
def _difference(a, b, out):  # type: ignore[no-untyped-def]
    high, low = _two_sum(a, -b)
    kept = 0
    if low != 0.0:
        out[0] = low
        kept = 1
    if high != 0.0:
        out[kept] = high
        kept += 1
    return kept


@kernel(_i(_fs, _i))
def _sign(e, n):  # type: ignore[no-untyped-def]
    return 0 if n == 0 else (1 if e[n - 1] > 0.0 else -1)


@kernel(_i(_points, _i, _i, _i, _i))
def _exactly_3d(v, a, b, c, d):  # type: ignore[no-untyped-def]
    rows = np.empty((9, 2))
    sizes = np.empty(9, np.int64)
    for k in range(3):
        sizes[k] = _difference(v[a, k], v[d, k], rows[k])
        sizes[3 + k] = _difference(v[b, k], v[d, k], rows[3 + k])
        sizes[6 + k] = _difference(v[c, k], v[d, k], rows[6 + k])
    total, minor, product, scaled = np.empty(220), np.empty(40), np.empty(140), np.empty(140)
    found = 0
    for k in range(3):
        i, j = 3 + (k + 1) % 3, 6 + (k + 2) % 3
        n = _multiply(rows[i], sizes[i], rows[j], sizes[j], minor, scaled)
        i, j = 3 + (k + 2) % 3, 6 + (k + 1) % 3
        m = _multiply(rows[i], sizes[i], rows[j], sizes[j], product, scaled)
        for t in range(m):
            product[t] = -product[t]
        n = _add(minor, n, product, m)
        n = _multiply(minor, n, rows[k], sizes[k], product, scaled)
        found = _add(total, found, product, n)
    return _sign(total, found)


@kernel(_i(_points, _i, _i, _i, _i))
def side_of_plane(v, a, b, c, d):  # type: ignore[no-untyped-def]
    """1 where vertex ``d`` lies below the plane through a, b, c (they run anticlockwise seen from above), -1 above, 0
    on it. ``v`` is (n, 3)."""
    adx, ady, adz = v[a, 0] - v[d, 0], v[a, 1] - v[d, 1], v[a, 2] - v[d, 2]
    bdx, bdy, bdz = v[b, 0] - v[d, 0], v[b, 1] - v[d, 1], v[b, 2] - v[d, 2]
    cdx, cdy, cdz = v[c, 0] - v[d, 0], v[c, 1] - v[d, 1], v[c, 2] - v[d, 2]
    p, q = bdx * cdy, cdx * bdy
    r, s = cdx * ady, adx * cdy
    t, u = adx * bdy, bdx * ady
    det = adz * (p - q) + bdz * (r - s) + cdz * (t - u)
    size = (abs(p) + abs(q)) * abs(adz) + (abs(r) + abs(s)) * abs(bdz) + (abs(t) + abs(u)) * abs(cdz)
    if det > _SURE_3D * size:
        return 1
    if -det > _SURE_3D * size:
        return -1
    return _exactly_3d(v, a, b, c, d)


@kernel(_i(_points, _i, _i, _i, _i, _i))
def side_of_line(v, a, b, c, x, y):  # type: ignore[no-untyped-def]
    """1 where vertex ``c`` lies left of the line from a to b as the axes x and y show it, -1 right of it, 0 on it."""
    left = (v[a, x] - v[c, x]) * (v[b, y] - v[c, y])
    right = (v[a, y] - v[c, y]) * (v[b, x] - v[c, x])
    det = left - right
    if abs(det) > _SURE_2D * (abs(left) + abs(right)):
        return 1 if det > 0 else -1
    e, f, g, h = np.empty(2), np.empty(2), np.empty(2), np.empty(2)
    total, other, scaled = np.empty(20), np.empty(20), np.empty(20)
    ne, nf = _difference(v[a, x], v[c, x], e), _difference(v[b, y], v[c, y], f)
    ng, nh = _difference(v[a, y], v[c, y], g), _difference(v[b, x], v[c, x], h)
    n = _multiply(e, ne, f, nf, total, scaled)
    m = _multiply(g, ng, h, nh, other, scaled)
    for k in range(m):
        other[k] = -other[k]
    return _sign(total, _add(total, n, other, m))
