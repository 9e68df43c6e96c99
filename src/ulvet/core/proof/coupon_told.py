"""What was read from a printed coupon."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from ulvet.core.bench.item import ID
from ulvet.core.bench.setup import Setup
from ulvet.core.proof.coupons import coupon_of, gaps_of
from ulvet.core.proof.learning import FitsTold
from ulvet.core.proof.proof import Length
from ulvet.core.recipe.anchors import Anchor

__all__ = ["CouponTold", "FitCoupon", "MeasureCoupon", "UnreadableCoupon", "WallsCoupon", "fits_told", "lengths_told"]

Gap = Annotated[float, Field(gt=0, le=5)]
Wall = Annotated[float, Field(gt=0, le=20)]


class UnreadableCoupon(ValueError):
    """What was entered of a coupon cannot be; its text is for the user."""


class _Told(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")

    setting: str = Field(pattern=ID)
    proof: int | None = None
    """Number of the proof it was printed in, where there is one."""


class FitCoupon(_Told):
    """The least gap, mm a side, at which a peg is pressed in by hand, slides, and turns freely."""

    coupon: Literal["fit"] = "fit"
    press: Gap | None = None
    slide: Gap | None = None
    free: Gap | None = None


class MeasureCoupon(_Told):
    """Lengths by calipers, mm, by their letters."""

    coupon: Literal["measure"] = "measure"
    lengths: dict[Annotated[str, Field(max_length=4)], Annotated[float, Field(gt=0, le=1_000)]] = Field(max_length=40)


class WallsCoupon(_Told):
    """The thinnest wall and pin that came out whole, mm."""

    coupon: Literal["walls"] = "walls"
    wall: Wall | None = None
    pin: Wall | None = None


CouponTold = Annotated[FitCoupon | MeasureCoupon | WallsCoupon, Field(discriminator="coupon")]


def fits_told(told: FitCoupon, setup: Setup) -> FitsTold:
    """What a ladder told, with the step of its gaps.

    Raises UnreadableCoupon for a gap that is on no ladder.
    """
    gaps = gaps_of(setup)
    for value in (told.press, told.slide, told.free):
        if value is not None and not any(abs(value - gap) < 1e-6 for gap in gaps):
            raise UnreadableCoupon(
                f"There is no gap of {value:g} mm on the ladder of {setup.setting.name}: it has {gaps[0]:.2f} to "
                f"{gaps[-1]:.2f} mm by {gaps[1] - gaps[0]:.2f}. Nothing was learnt."
            )
    return FitsTold(press=told.press, slide=told.slide, free=told.free, step=gaps[1] - gaps[0])


def lengths_told(told: MeasureCoupon, setup: Setup) -> tuple[Length, ...]:
    """Lengths of the measure block, each with what was drawn.

    Raises UnreadableCoupon for a letter that is not on it.
    """
    drawn = {one.name: one for one in coupon_of("measure", setup).features}
    if unknown := sorted(told.lengths.keys() - drawn.keys()):
        raise UnreadableCoupon(
            f"There is no length {unknown[0]} on the measure block: it has {', '.join(drawn)}. Nothing was learnt."
        )
    at = Anchor(point=(0, 0, 0))
    return tuple(
        Length(part=0, name=name, begin=at, end=at, drawn=drawn[name].size, measured=value, over=drawn[name].over,
               direction=drawn[name].direction)
        for name, value in sorted(told.lengths.items())
    )  # fmt: skip
