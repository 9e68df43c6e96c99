"""What proofs and coupons of a setting teach together."""

from collections.abc import Iterable, Sequence

from ulvet.core.bench.setup import Setup
from ulvet.core.proof.coupon_told import CouponTold, FitCoupon, MeasureCoupon, WallsCoupon, fits_told, lengths_told
from ulvet.core.proof.learning import learnt_of
from ulvet.core.proof.learnt import Learnt
from ulvet.core.proof.proof import Proof

__all__ = ["learnt_with_coupons"]


def learnt_with_coupons(
    setup: Setup, proofs: Sequence[tuple[int, Proof]], coupons: Iterable[CouponTold]
) -> tuple[Learnt, ...]:
    """What proofs, with their numbers, and coupons teach of a setting.

    Raises UnreadableCoupon.
    """
    mine = [told for told in coupons if told.setting == setup.setting.id]
    walls = [told for told in mine if isinstance(told, WallsCoupon)]
    return learnt_of(
        setup,
        proofs,
        [length for told in mine if isinstance(told, MeasureCoupon) for length in lengths_told(told, setup)],
        [fits_told(told, setup) for told in mine if isinstance(told, FitCoupon)],
        [
            *(("free_standing", told.wall) for told in walls if told.wall is not None),
            *(("pin", told.pin) for told in walls if told.pin is not None),
        ],
    )
