"""Paints of which less is there than a figure's colours take."""

from collections.abc import Iterator, Mapping, Sequence

from ulvet.core.bench.paints import Paint
from ulvet.core.findings.finding import Finding, Severity
from ulvet.core.finish.amounts import RoleSum, sums_of_paint
from ulvet.core.stations import Station
from ulvet.core.stock.good import key_of_paint

__all__ = ["check_paints"]


def check_paints(roles: Sequence[RoleSum], paints: Sequence[Paint], there: Mapping[str, float]) -> Iterator[Finding]:
    """What runs short, of paints that somebody has counted."""
    names = {paint.id: paint.name for paint in paints}
    for paint, ml in sorted(sums_of_paint(roles, paints).items()):
        left = there.get(key_of_paint(paint))
        if left is not None and ml > left:
            yield Finding(
                code="short-of-paint", station=Station.FINISH, severity=Severity.CAUTION, part="",
                title=f"{ml:.1f} ml of {names[paint]} wanted, {left:.1f} there", measured=left, limit=ml, unit="ml",
                where=None,
                why="It would run out half-way: have it there first, or take another. The amount is an estimate.",
            )  # fmt: skip
