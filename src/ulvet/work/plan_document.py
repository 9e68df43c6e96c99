"""The studio's plan: one document with revisions."""

from typing import ClassVar

from ulvet.core.plates.wanted import WantedPlan
from ulvet.store.documents import PlanDocument, PlanRevision
from ulvet.work.documents import DocumentNow, Documents

__all__ = ["PlanNow", "Plans"]

PlanNow = DocumentNow[WantedPlan]


class Plans(Documents[WantedPlan]):
    """What a studio plans: nothing wanted before anything was said."""

    kind = WantedPlan
    document = PlanDocument
    revision = PlanRevision
    column: ClassVar[str] = "plan"
    word: ClassVar[str] = "plan"

    def now(self) -> PlanNow:
        """The plan as it stands, begun if there is none."""
        if not self.all():
            self.begin([WantedPlan()])
        return self.all()[0]
