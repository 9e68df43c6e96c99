"""Coupons on a printer that speaks the printer protocol: sent, followed, and read when they are done."""

from typing import Any

import numpy as np

from ulvet.core.bench.setup import Setup
from ulvet.core.layers.clock import seconds_of_areas
from ulvet.core.layers.raster import raster_layers
from ulvet.core.proof.coupon_told import CouponTold, FitCoupon, MeasureCoupon, WallsCoupon
from ulvet.core.proof.coupons import Coupon, CouponKind, Feature, coupon_of
from ulvet.work.printer_link import PrintNow, answer_of, look_at, send_print
from ulvet.work.refusals import Refused

__all__ = ["coupon_read", "send_coupon"]

_COARSE_MM = 0.1
"""Pixel at which the layers of a coupon are drawn to say what it takes (bench default)."""
_BROKEN_MM = 3.0
"""How far across from what broke a wall or a pin is that it is (bench default: less than their pitch)."""
_GOES_IN = {"press": ("pressed", "slides", "turns"), "slide": ("slides", "turns"), "free": ("turns",)}
"""By what is learnt, how a peg may go in for it."""


def send_coupon(setup: Setup, kind: CouponKind, printer: str) -> PrintNow:
    """Send a coupon of a setting to the printer at an address.

    Raises Refused.
    """
    mesh = coupon_of(kind, setup).mesh
    seconds = float(seconds_of_areas(raster_layers(mesh, setup.layer, _COARSE_MM).areas, setup)[-1])
    asked = {"name": f"Coupon {kind}", "layer": setup.layer, "pixel": setup.pixel, "seconds": seconds}
    return send_print(printer, asked, mesh, None)


def coupon_read(setup: Setup, kind: CouponKind, address: str) -> CouponTold:
    """What is read from a coupon that a printer has printed, by the address of its print.

    Raises Refused for one that is not done, or of which nothing came out.
    """
    now, coupon = look_at(address), coupon_of(kind, setup)
    if now.state != "done":
        raise Refused("The coupon is not printed yet: read it when it is done.")
    read = {"fit": _fits, "measure": _lengths, "walls": _walls}[kind](coupon, address, now)
    if not any(read.values()):
        raise Refused("Nothing on the coupon came out so that it can be read: enter by hand what there is.")
    told: dict[CouponKind, type[CouponTold]] = {"fit": FitCoupon, "measure": MeasureCoupon, "walls": WallsCoupon}
    return told[kind].model_validate({"setting": setup.setting.id, **read})


def _fits(coupon: Coupon, address: str, now: PrintNow) -> dict[str, Any]:
    """The least gap at which most pegs go into their holes so; there are some of several sizes and shapes."""
    pegs = {one.name: one.size for one in coupon.features if one.kind.endswith("peg")}
    holes = [one for one in coupon.features if one.kind.endswith("hole")]
    goes: dict[float, list[str]] = {}
    for hole in holes:
        # A hole is as much wider than its peg as its gap says.
        peg = min(pegs.values(), key=lambda size: abs(hole.size - 2 * hole.gap - size))
        answer = answer_of(f"{address}/fit?peg={peg:.4f}&hole={hole.size:.4f}").json()
        goes.setdefault(round(hole.gap, 4), []).append(str(answer.get("fit")))

    def least(allowed: tuple[str, ...]) -> float | None:
        return next((gap for gap in sorted(goes) if np.mean([fit in allowed for fit in goes[gap]]) > 1 / 2), None)

    return {what: least(allowed) for what, allowed in _GOES_IN.items()}


def _lengths(coupon: Coupon, address: str, now: PrintNow) -> dict[str, Any]:
    lengths = {}
    for one in coupon.features:
        begin, end = _ends(one)
        asked = "&".join(f"{name}={','.join(f'{v:.4f}' for v in at)}" for name, at in (("begin", begin), ("end", end)))
        lengths[one.name] = float(answer_of(f"{address}/length?{asked}&over={one.over}").json()["mm"])
    return {"lengths": lengths}


def _walls(coupon: Coupon, address: str, now: PrintNow) -> dict[str, Any]:
    """The thinnest wall and pin that stand, and that all thicker ones stand with."""
    top = float(coupon.mesh.vertices[:, 2].max())
    thinnest: dict[str, float | None] = {"wall": None, "pin": None}
    for kind in thinnest:
        for one in sorted((one for one in coupon.features if one.kind == kind), key=lambda one: -one.size):
            x, y = one.at
            answer = answer_of(f"{address}/there?at={x:.4f},{y:.4f},{top - 1:.4f}").json()
            broke = any(np.hypot(event.at[0] - x, event.at[1] - y) < _BROKEN_MM for event in now.events)
            if broke or not answer.get("there"):
                break
            thinnest[kind] = one.size
    return thinnest


def _ends(one: Feature) -> tuple[np.ndarray, np.ndarray]:
    middle, half = np.array([*one.at, 1.0]), np.array(one.direction) * one.size / 2
    return middle - half, middle + half
