"""The point of a triangle that is nearest to another point, compiled."""

from ulvet.core.kernels import kernel, typed

__all__ = ["nearest_weights"]


@kernel(typed.UniTuple(typed.float64, 2)(*[typed.float64] * 9))
def nearest_weights(ux, uy, uz, wx, wy, wz, qx, qy, qz):  # type: ignore[no-untyped-def]
    """The shares (s, t) of two sides of a triangle, from one corner, at which it is nearest to a point ``q``; all
    from that corner (Ericson 2004, 5.1.5)."""
    uu, uw, ww = ux * ux + uy * uy + uz * uz, ux * wx + uy * wy + uz * wz, wx * wx + wy * wy + wz * wz
    d1, d2 = ux * qx + uy * qy + uz * qz, wx * qx + wy * qy + wz * qz
    d3, d4, d5, d6 = d1 - uu, d2 - uw, d1 - uw, d2 - ww
    va, vb, vc = d3 * d6 - d5 * d4, d5 * d2 - d1 * d6, d1 * d4 - d3 * d2
    if d1 <= 0 and d2 <= 0:
        s, t = 0.0, 0.0
    elif d3 >= 0 and d4 <= d3:
        s, t = 1.0, 0.0
    elif d6 >= 0 and d5 <= d6:
        s, t = 0.0, 1.0
    elif vc <= 0 and d1 >= 0 and d3 <= 0:
        s, t = d1 / max(d1 - d3, 1e-300), 0.0
    elif vb <= 0 and d2 >= 0 and d6 <= 0:
        s, t = 0.0, d2 / max(d2 - d6, 1e-300)
    elif va <= 0 and d4 - d3 >= 0 and d5 - d6 >= 0:
        t = (d4 - d3) / max((d4 - d3) + (d5 - d6), 1e-300)
        s = 1 - t
    else:
        whole = max(va + vb + vc, 1e-300)
        s, t = vb / whole, vc / whole
    return s, t
