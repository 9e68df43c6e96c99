"""What Stand looks at."""

from collections.abc import Mapping
from typing import Any, ClassVar

from ulvet.core.findings import Finding, Unseen
from ulvet.core.layers.checks import LayersCheck
from ulvet.core.recipe.checking import Check, PartCheck, Seen
from ulvet.core.recipe.step import Context, Part
from ulvet.core.stand.check import check_stand
from ulvet.core.stations import Station

__all__ = ["StandCheck"]


class StandCheck(PartCheck):
    """How a part is held; of one whose layers could not be seen nothing is said. It measures whether they could."""

    station: ClassVar[Station] = Station.STAND
    says: ClassVar[str] = "stand: what holds it"
    kept: ClassVar[bool] = False
    after: ClassVar[tuple[type[Check], ...]] = (LayersCheck,)

    def measure(self, part: Part, context: Context, others: Mapping[type[Check], Any]) -> bool:
        return not isinstance(others[LayersCheck], str)

    def judge(self, part: Part, measured: bool, seen: Seen) -> list[Finding | Unseen]:
        return list(check_stand(part, seen.factor, seen.setup)) if measured else []
