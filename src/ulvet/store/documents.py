"""Tables of documents with revisions: the bench, proofs, release sets, the plan, painted copies."""

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, Integer, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship, synonym

from ulvet.core.finish.painted import PaintedCopy
from ulvet.core.plates.wanted import WantedPlan
from ulvet.core.proof.proof import Proof
from ulvet.core.release.release_set import ReleaseSet
from ulvet.store.columns import Base, ModelColumn, Moment, now

__all__ = [
    "BenchDocument",
    "BenchRevision",
    "PaintedDocument",
    "PaintedRevision",
    "PlanDocument",
    "PlanRevision",
    "ProofDocument",
    "ProofRevision",
    "ReleaseSetDocument",
    "ReleaseSetRevision",
]


class BenchRevision(Base):
    """One state of the bench; never changed once written."""

    __tablename__ = "bench_revisions"
    __table_args__ = (UniqueConstraint("bench_id", "number"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    bench_id: Mapped[int] = mapped_column(ForeignKey("benches.id"))
    number: Mapped[int] = mapped_column(Integer)
    parent_id: Mapped[int | None] = mapped_column(ForeignKey("bench_revisions.id"))
    bench: Mapped[dict[str, Any]] = mapped_column(JSON)
    says: Mapped[str] = mapped_column(String(400))
    created: Mapped[datetime] = mapped_column(Moment, default=now)

    owner_id = synonym("bench_id")
    parent: Mapped["BenchRevision | None"] = relationship(remote_side=[id], foreign_keys=[parent_id])


class BenchDocument(Base):
    """The studio's bench. ``head`` points at the revision in force; undo moves it back."""

    __tablename__ = "benches"

    id: Mapped[int] = mapped_column(primary_key=True)
    head_id: Mapped[int | None] = mapped_column(
        ForeignKey("bench_revisions.id", use_alter=True, name="fk_benches_head")
    )
    changes: Mapped[int] = mapped_column(Integer, default=0)
    worked: Mapped[datetime] = mapped_column(Moment, default=now)

    head: Mapped["BenchRevision | None"] = relationship(foreign_keys=[head_id], post_update=True)


class ProofRevision(Base):
    """One state of a proof; never changed once written."""

    __tablename__ = "proof_revisions"
    __table_args__ = (UniqueConstraint("proof_id", "number"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    proof_id: Mapped[int] = mapped_column(ForeignKey("proofs.id"))
    number: Mapped[int] = mapped_column(Integer)
    parent_id: Mapped[int | None] = mapped_column(ForeignKey("proof_revisions.id"))
    proof: Mapped[Proof | dict[str, Any]] = mapped_column(ModelColumn(Proof))
    says: Mapped[str] = mapped_column(String(400))
    created: Mapped[datetime] = mapped_column(Moment, default=now)

    owner_id = synonym("proof_id")
    parent: Mapped["ProofRevision | None"] = relationship(remote_side=[id], foreign_keys=[parent_id])


class ProofDocument(Base):
    """A proof, by its number. ``head`` points at the revision in force; undo moves it back."""

    __tablename__ = "proofs"

    id: Mapped[int] = mapped_column(primary_key=True)
    head_id: Mapped[int | None] = mapped_column(ForeignKey("proof_revisions.id", use_alter=True, name="fk_proofs_head"))
    changes: Mapped[int] = mapped_column(Integer, default=0)
    worked: Mapped[datetime] = mapped_column(Moment, default=now)
    dropped: Mapped[datetime | None] = mapped_column(Moment)
    """Since when it counts no more, of one that was begun by mistake."""

    head: Mapped["ProofRevision | None"] = relationship(foreign_keys=[head_id], post_update=True)


class ReleaseSetRevision(Base):
    """One state of a release set; never changed once written."""

    __tablename__ = "release_set_revisions"
    __table_args__ = (UniqueConstraint("set_id", "number"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    set_id: Mapped[int] = mapped_column(ForeignKey("release_sets.id"))
    number: Mapped[int] = mapped_column(Integer)
    parent_id: Mapped[int | None] = mapped_column(ForeignKey("release_set_revisions.id"))
    release: Mapped[ReleaseSet | dict[str, Any]] = mapped_column(ModelColumn(ReleaseSet))
    says: Mapped[str] = mapped_column(String(400))
    created: Mapped[datetime] = mapped_column(Moment, default=now)

    owner_id = synonym("set_id")
    parent: Mapped["ReleaseSetRevision | None"] = relationship(remote_side=[id], foreign_keys=[parent_id])


class ReleaseSetDocument(Base):
    """A release set, by its number. ``head`` points at the revision in force; undo moves it back."""

    __tablename__ = "release_sets"

    id: Mapped[int] = mapped_column(primary_key=True)
    head_id: Mapped[int | None] = mapped_column(
        ForeignKey("release_set_revisions.id", use_alter=True, name="fk_release_sets_head")
    )
    changes: Mapped[int] = mapped_column(Integer, default=0)
    worked: Mapped[datetime] = mapped_column(Moment, default=now)
    dropped: Mapped[datetime | None] = mapped_column(Moment)
    """Since when it is out of sight; it can be taken up again."""

    head: Mapped["ReleaseSetRevision | None"] = relationship(foreign_keys=[head_id], post_update=True)


class PlanRevision(Base):
    """One state of what is planned; never changed once written."""

    __tablename__ = "plan_revisions"
    __table_args__ = (UniqueConstraint("plan_id", "number"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    plan_id: Mapped[int] = mapped_column(ForeignKey("plans.id"))
    number: Mapped[int] = mapped_column(Integer)
    parent_id: Mapped[int | None] = mapped_column(ForeignKey("plan_revisions.id"))
    plan: Mapped[WantedPlan | dict[str, Any]] = mapped_column(ModelColumn(WantedPlan))
    says: Mapped[str] = mapped_column(String(400))
    created: Mapped[datetime] = mapped_column(Moment, default=now)

    owner_id = synonym("plan_id")
    parent: Mapped["PlanRevision | None"] = relationship(remote_side=[id], foreign_keys=[parent_id])


class PlanDocument(Base):
    """What the studio plans. ``head`` points at the revision in force; undo moves it back."""

    __tablename__ = "plans"

    id: Mapped[int] = mapped_column(primary_key=True)
    head_id: Mapped[int | None] = mapped_column(ForeignKey("plan_revisions.id", use_alter=True, name="fk_plans_head"))
    changes: Mapped[int] = mapped_column(Integer, default=0)
    worked: Mapped[datetime] = mapped_column(Moment, default=now)
    dropped: Mapped[datetime | None] = mapped_column(Moment)

    head: Mapped["PlanRevision | None"] = relationship(foreign_keys=[head_id], post_update=True)


class PaintedRevision(Base):
    """One state of a painted copy; never changed once written."""

    __tablename__ = "painted_copy_revisions"
    __table_args__ = (UniqueConstraint("copy_id", "number"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    copy_id: Mapped[int] = mapped_column(ForeignKey("painted_copies.id"))
    number: Mapped[int] = mapped_column(Integer)
    parent_id: Mapped[int | None] = mapped_column(ForeignKey("painted_copy_revisions.id"))
    painted: Mapped[PaintedCopy | dict[str, Any]] = mapped_column(ModelColumn(PaintedCopy))
    says: Mapped[str] = mapped_column(String(400))
    created: Mapped[datetime] = mapped_column(Moment, default=now)

    owner_id = synonym("copy_id")
    parent: Mapped["PaintedRevision | None"] = relationship(remote_side=[id], foreign_keys=[parent_id])


class PaintedDocument(Base):
    """A painted copy, by its number. ``head`` points at the revision in force; undo moves it back."""

    __tablename__ = "painted_copies"

    id: Mapped[int] = mapped_column(primary_key=True)
    head_id: Mapped[int | None] = mapped_column(
        ForeignKey("painted_copy_revisions.id", use_alter=True, name="fk_painted_copies_head")
    )
    changes: Mapped[int] = mapped_column(Integer, default=0)
    worked: Mapped[datetime] = mapped_column(Moment, default=now)
    dropped: Mapped[datetime | None] = mapped_column(Moment)
    """Since when it counts no more."""

    head: Mapped["PaintedRevision | None"] = relationship(foreign_keys=[head_id], post_update=True)
