"""The studio's release sets: documents with revisions."""

from typing import ClassVar

from ulvet.core.release.release_set import ReleaseSet
from ulvet.store.documents import ReleaseSetDocument, ReleaseSetRevision
from ulvet.work.documents import DocumentNow, Documents

__all__ = ["ReleaseSetNow", "ReleaseSets"]

ReleaseSetNow = DocumentNow[ReleaseSet]


class ReleaseSets(Documents[ReleaseSet]):
    """The release sets of a studio."""

    kind = ReleaseSet
    document = ReleaseSetDocument
    revision = ReleaseSetRevision
    column: ClassVar[str] = "release"
    word: ClassVar[str] = "release set"

    def of_figure(self, figure: int) -> tuple[ReleaseSetNow, ...]:
        """Sets with an edition of a figure, the oldest first."""
        return tuple(one for one in self.all() if any(item.figure == figure for item in one.value.items))
