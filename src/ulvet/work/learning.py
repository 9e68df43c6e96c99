"""What the studio's proofs and coupons teach, and taking it over."""

from datetime import UTC, datetime

from pydantic import TypeAdapter

from ulvet.core.bench.bench_edits import with_learnt
from ulvet.core.bench.setup import Setup, UnknownOnBench
from ulvet.core.proof.coupon_told import CouponTold
from ulvet.core.proof.foretold import HitRate, hit_rates
from ulvet.core.proof.learnt import Learnt
from ulvet.core.proof.learnt_coupons import learnt_with_coupons
from ulvet.store.models import StudioValue
from ulvet.work.refusals import NotThere, Refused
from ulvet.work.studio import Studio

__all__ = ["coupons_of", "learnt_in", "rates_of", "set_coupons", "setup_of", "take_over"]

_NAME = "coupons"
_COUPONS: TypeAdapter[list[CouponTold]] = TypeAdapter(list[CouponTold])


def coupons_of(studio: Studio) -> list[CouponTold]:
    """What was read from coupons."""
    with studio.sessions() as session:
        held = session.get(StudioValue, _NAME)
    return [] if held is None else _COUPONS.validate_python(held.value)


def set_coupons(studio: Studio, told: list[CouponTold]) -> None:
    """Keep what was read from coupons, in place of what was kept.

    Raises UnreadableCoupon, and Refused for a setting that is not on the bench.
    """
    for setting in {one.setting for one in told}:
        learnt_with_coupons(setup_of(studio, setting), (), told)
    with studio.sessions.begin() as session:
        session.merge(StudioValue(name=_NAME, value=_COUPONS.dump_python(told, mode="json")))


def learnt_in(studio: Studio, setting: str) -> tuple[Learnt, ...]:
    """What proofs and coupons teach of a setting.

    Raises Refused where it is not on the bench.
    """
    proofs = [(one.number, one.value) for one in studio.proofs.all()]
    return learnt_with_coupons(setup_of(studio, setting), proofs, coupons_of(studio))


def rates_of(studio: Studio) -> tuple[HitRate, ...]:
    """How often each check was right."""
    return hit_rates(one.value for one in studio.proofs.all())


def take_over(studio: Studio, setting: str, path: str) -> None:
    """Put what was learnt of a value on the bench, with the proofs it comes from.

    Raises NotThere, Conflict, and Refused for what the bench may not hold.
    """
    learnt = next((one for one in learnt_in(studio, setting) if path and one.path == path), None)
    if learnt is None:
        raise NotThere("That was not learnt, or not from enough proofs: look at it again.")
    today = datetime.now(UTC).date()
    value = round(learnt.value, 4)
    where = f"proofs {', '.join(map(str, learnt.proofs))}" if learnt.proofs else "coupons"
    studio.bench.change(
        studio.bench.now().revision,
        f"{learnt.title} learnt from {where}",
        lambda bench: with_learnt(bench, "settings", setting, path, value, learnt.proofs, today),
    )


def setup_of(studio: Studio, setting: str) -> Setup:
    """A setting of the bench with its printer and material.

    Raises Refused where it is not there.
    """
    try:
        return studio.bench.value.setup(setting)
    except UnknownOnBench as error:
        raise Refused("That setting is not on the bench any more: choose another.") from error
