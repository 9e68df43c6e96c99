"""What proofs and coupons teach over HTTP: told, taken over, and coupons with what was read from them."""

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from ulvet.api.asked import AtStudio
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.proof.coupon_told import CouponTold, UnreadableCoupon
from ulvet.core.proof.coupons import CouponKind, coupon_of
from ulvet.core.proof.learnt import Learnt
from ulvet.work import coupon_link, learning
from ulvet.work.printer_link import PrintNow, look_at
from ulvet.work.refusals import Refused

__all__ = ["router"]

router = APIRouter(tags=["proof"])


class RateView(BaseModel):
    """How often what a check said came true."""

    code: str
    told: int
    came_true: int
    unsaid: int


class LearntView(BaseModel):
    """What was learnt of a setting, what was read from its coupons, and how right the checks were everywhere."""

    setting: str
    setting_name: str
    learnt: list[Learnt]
    coupons: list[CouponTold]
    rates: list[RateView]


class TakeOver(BaseModel):
    """A value that was learnt, by its path on the bench."""

    path: str = Field(min_length=1, max_length=80)


class FeatureView(BaseModel):
    """Something on a coupon: where it is, mm from its left front corner, and how large."""

    name: str
    kind: str
    x: float
    y: float
    mm: float
    gap: float
    over: str


class SendCoupon(BaseModel):
    """The address of a printer on this machine."""

    printer: str = Field(min_length=8, max_length=200)


class SentCoupon(BaseModel):
    """The address of a coupon's print."""

    address: str = Field(min_length=8, max_length=400)


class CouponPrint(BaseModel):
    """A coupon's print as its printer tells it, and once it is done what was read from it."""

    address: str
    state: str
    error: str
    layer: int
    layers: int
    read: CouponTold | None


@router.get("/settings/{setting}/learnt")
def learnt(setting: str, studio: AtStudio) -> LearntView:
    """What proofs and coupons teach of a setting."""
    told = learning.learnt_in(studio, setting)
    return LearntView(
        setting=setting,
        setting_name=learning.setup_of(studio, setting).setting.name,
        learnt=list(told),
        coupons=[one for one in learning.coupons_of(studio) if one.setting == setting],
        rates=[RateView(**vars(rate)) for rate in learning.rates_of(studio)],
    )


@router.post("/settings/{setting}/learnt")
def take_over(setting: str, asked: TakeOver, studio: AtStudio) -> LearntView:
    """Put a value that was learnt on the bench."""
    learning.take_over(studio, setting, asked.path)
    return learnt(setting, studio)


@router.put("/settings/{setting}/coupons")
def set_coupons(setting: str, told: list[CouponTold], studio: AtStudio) -> LearntView:
    """Keep what was read from the coupons of a setting, in place of what was kept of it."""
    if any(one.setting != setting for one in told):
        raise Refused("A coupon teaches the setting it was printed in: choose that. Nothing was kept.")
    others = [one for one in learning.coupons_of(studio) if one.setting != setting]
    try:
        learning.set_coupons(studio, [*others, *told])
    except UnreadableCoupon as error:
        raise Refused(str(error)) from error
    return learnt(setting, studio)


@router.post("/settings/{setting}/coupons/{kind}/print")
def send_coupon(setting: str, kind: CouponKind, asked: SendCoupon, studio: AtStudio) -> CouponPrint:
    """Send a coupon to a printer that speaks the printer protocol."""
    now = coupon_link.send_coupon(learning.setup_of(studio, setting), kind, asked.printer)
    return _print(f"{asked.printer.rstrip('/')}/prints/{now.number}", now)


@router.put("/settings/{setting}/coupons/{kind}/print")
def follow_coupon(setting: str, kind: CouponKind, asked: SentCoupon, studio: AtStudio) -> CouponPrint:
    """How a coupon's print stands; once it is done, with what was read from it, which is kept by nobody yet."""
    now = look_at(asked.address)
    read = (
        coupon_link.coupon_read(learning.setup_of(studio, setting), kind, asked.address)
        if now.state == "done"
        else None
    )
    return _print(asked.address, now, read)


@router.get("/settings/{setting}/coupons/{kind}.stl", response_class=Response)
def coupon_file(setting: str, kind: CouponKind, studio: AtStudio) -> Response:
    """A coupon for a setting, to print."""
    name = f'attachment; filename="{kind}-coupon.stl"'
    data = stl_bytes(coupon_of(kind, learning.setup_of(studio, setting)).mesh)
    return Response(data, media_type="model/stl", headers={"Content-Disposition": name})


@router.get("/settings/{setting}/coupons/{kind}")
def coupon(setting: str, kind: CouponKind, studio: AtStudio) -> list[FeatureView]:
    """What is read from a coupon."""
    return [
        FeatureView(name=f.name, kind=f.kind, x=f.at[0], y=f.at[1], mm=f.size, gap=f.gap, over=f.over)
        for f in coupon_of(kind, learning.setup_of(studio, setting)).features
    ]


def _print(address: str, now: PrintNow, read: CouponTold | None = None) -> CouponPrint:
    return CouponPrint(**now.model_dump(include={"state", "error", "layer", "layers"}), address=address, read=read)
