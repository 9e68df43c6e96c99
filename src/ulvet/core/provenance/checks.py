"""Whose a figure is, and what may be done with it."""

from collections.abc import Sequence
from typing import ClassVar

from ulvet.core.findings.check import FigureCheck, FigureUnderCheck
from ulvet.core.findings.finding import Finding, Unseen
from ulvet.core.provenance.check import check_provenance
from ulvet.core.recipe.step import Part
from ulvet.core.stations import Station

__all__ = ["ProvenanceCheck"]


class ProvenanceCheck(FigureCheck):
    """Asked of what is to be released, and of no file that is looked at."""

    station: ClassVar[Station] = Station.BRING_IN
    progress_text: ClassVar[str] = "bring in: whose it is"
    cached: ClassVar[bool] = False

    def judge(self, parts: Sequence[Part], measured: None, figure: FigureUnderCheck) -> list[Finding | Unseen]:
        return list(check_provenance(figure.recipe.steps)) if figure.of_studio else []
