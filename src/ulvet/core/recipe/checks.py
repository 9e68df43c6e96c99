"""What no longer lands on the figure."""

from collections.abc import Sequence
from typing import ClassVar

from ulvet.core.findings import Finding, Unseen
from ulvet.core.recipe.check import check_recipe
from ulvet.core.recipe.checking import FigureCheck, Seen
from ulvet.core.recipe.step import Part
from ulvet.core.stations import Station

__all__ = ["RecipeCheck"]


class RecipeCheck(FigureCheck):
    """Steps whose points or parts are lost, or that are not known."""

    station: ClassVar[Station] = Station.BRING_IN
    says: ClassVar[str] = "bring in: what the record names"
    kept: ClassVar[bool] = False

    def judge(self, parts: Sequence[Part], measured: None, seen: Seen) -> list[Finding | Unseen]:
        return list(check_recipe(seen.recipe, seen.receipts, seen.parts, seen.factor))
