"""Editions that follow from one that is there: the smallest that prints, and a draft."""

from ulvet.core.bench.bench import Bench
from ulvet.core.bench.edition import Edition
from ulvet.core.lengths import PrintMM
from ulvet.core.size.scales import SizeSurvey

__all__ = ["draft_of", "smallest_of"]

_DRAFT = 0.6
"""Of its height that a draft has (bench default: a fifth of the material, and most of the shape to be seen)."""


def smallest_of(edition: Edition, survey: SizeSurvey | None) -> Edition | None:
    """The edition at the smallest size at which no wall stops it; None where no size is known to do."""
    if survey is None or survey.smallest is None:
        return None
    return edition.model_copy(update={"height": survey.smallest, "factor": None})


def draft_of(edition: Edition, height: PrintMM, bench: Bench) -> Edition:
    """A draft of an edition that is ``height`` tall: smaller, and in the coarsest setting of its printer and material;
    of its printer where the material has no coarser one.

    Raises UnknownOnBench.
    """
    setup = bench.setup(edition.setting)
    same = [one for one in bench.in_use() if one.printer.id == setup.printer.id and one.layer > setup.layer]
    alike = [one for one in same if one.material.id == setup.material.id] or same
    coarsest = max(alike, key=lambda one: one.layer, default=setup)
    size = {"height": PrintMM(round(height * _DRAFT, 1)), "factor": None}
    return edition.model_copy(update={**size, "setting": coarsest.setting.id})
