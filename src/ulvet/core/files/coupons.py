"""What was read from coupons, in a file."""

from pathlib import Path

from pydantic import TypeAdapter, ValidationError

from ulvet.core.bench.bench import Bench
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.proof.coupon_told import CouponTold
from ulvet.core.proof.learnt import Learnt
from ulvet.core.proof.learnt_coupons import learnt_with_coupons

__all__ = ["learnt_from_file"]

_MOST_BYTES = 2_000_000
"""Of a file of coupons: a thousand have less."""
_COUPON: TypeAdapter[CouponTold] = TypeAdapter(CouponTold)
_COUPONS: TypeAdapter[list[CouponTold]] = TypeAdapter(list[CouponTold])


def learnt_from_file(path: Path, bench: Bench) -> tuple[Learnt, ...]:
    """What the coupons in a JSON file teach, setting by setting: one coupon, or a list of them.

    Raises UnreadableFile, UnreadableCoupon, UnknownOnBench, all with a text for the user.
    """
    try:
        data = path.read_bytes()
        if len(data) > _MOST_BYTES:
            raise UnreadableFile(f"{path.name} is too large for what was read from coupons; nothing was learnt.")
        coupons = _COUPONS.validate_json(data) if data.lstrip().startswith(b"[") else [_COUPON.validate_json(data)]
    except OSError as error:
        raise UnreadableFile(f"{path} could not be read ({error.strerror}): name a file that is there.") from error
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"] if part not in ("fit", "measure", "walls"))
        raise UnreadableFile(
            f"{path.name} is not what was read from coupons: {where or 'it'}: {first['msg'].lower()}; "
            "nothing was learnt."
        ) from error
    return tuple(
        one for setting in sorted({coupon.setting for coupon in coupons})
        for one in learnt_with_coupons(bench.setup(setting), (), [c for c in coupons if c.setting == setting])
    )  # fmt: skip
