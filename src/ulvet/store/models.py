"""The tables."""

from datetime import UTC, datetime
from typing import Any, ClassVar

from pydantic import BaseModel, ValidationError
from sqlalchemy import (
    JSON,
    DateTime,
    Dialect,
    Float,
    ForeignKey,
    Integer,
    String,
    TypeDecorator,
    UniqueConstraint,
)
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship, synonym

from ulvet.core.blob_hash import BlobHash
from ulvet.core.finish.mix import Mix
from ulvet.core.finish.painted import PaintedCopy
from ulvet.core.plates.wanted import WantedPlan
from ulvet.core.proof.proof import Proof
from ulvet.core.release.release_set import ReleaseSet
from ulvet.core.stock.ledger import Entry

__all__ = [
    "Base",
    "BenchDocument",
    "BenchRevision",
    "Bit",
    "BuildRow",
    "Figure",
    "IssueRow",
    "LoggedHours",
    "MixRow",
    "PaintedDocument",
    "PaintedRevision",
    "PlanDocument",
    "PlanRevision",
    "ProofDocument",
    "ProofRevision",
    "ReleaseRow",
    "ReleaseSetDocument",
    "ReleaseSetRevision",
    "Revision",
    "Source",
    "StampTerms",
    "StockEntry",
    "StudioValue",
    "Version",
    "VersionEdition",
]


def _now() -> datetime:
    return datetime.now(UTC)


class Moment(TypeDecorator[datetime]):
    """A moment in UTC, which SQLite would hand back without saying so."""

    impl = DateTime
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        return value.astimezone(UTC).replace(tzinfo=None) if value else None

    def process_result_value(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        return value.replace(tzinfo=UTC) if value else None


class BlobName(TypeDecorator[BlobHash]):
    """The hash of a blob that its row needs."""

    impl = String(64)
    cache_ok = True

    def process_result_value(self, value: str | None, dialect: Dialect) -> BlobHash | None:
        return BlobHash(value) if value else None


class StampTerms(BaseModel):
    """What the shelf knows of the picture of a stamp."""

    sha256: BlobHash
    file_name: str
    ratio: float
    """Its height over its width."""
    narrowest: float
    """Its narrowest strokes, as a share of its width."""


class StampColumn(TypeDecorator[StampTerms]):
    """A ``StampTerms`` as JSON."""

    impl = JSON(none_as_null=True)
    cache_ok = True

    def process_bind_param(self, value: StampTerms | None, dialect: Dialect) -> dict[str, Any] | None:
        return value.model_dump(mode="json") if value else None

    def process_result_value(self, value: dict[str, Any] | None, dialect: Dialect) -> StampTerms | None:
        return StampTerms.model_validate(value) if value else None


class ModelColumn(TypeDecorator[BaseModel | dict[str, Any]]):
    """A value of a model as JSON; what another version wrote and this one cannot read stays as it is."""

    impl = JSON
    cache_ok = True

    def __init__(self, model: type[BaseModel]) -> None:
        super().__init__()
        self.model = model

    def process_bind_param(self, value: BaseModel | dict[str, Any] | None, dialect: Dialect) -> dict[str, Any] | None:
        return value.model_dump(mode="json") if isinstance(value, BaseModel) else value

    def process_result_value(self, value: dict[str, Any] | None, dialect: Dialect) -> BaseModel | dict[str, Any] | None:
        try:
            return self.model.model_validate(value)
        except ValidationError:
            return value


class Base(DeclarativeBase):
    """Of all tables."""

    type_annotation_map: ClassVar[dict[Any, Any]] = {BlobHash: BlobName}


class Figure(Base):
    """One figure on the shelf. ``head`` points at the revision in force; undo moves it back."""

    __tablename__ = "figures"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    created: Mapped[datetime] = mapped_column(Moment, default=_now)
    changes: Mapped[int] = mapped_column(Integer, default=0)
    """How often its head was moved, forward or back, so that of two answers the later one is known."""
    worked: Mapped[datetime] = mapped_column(Moment, default=_now)
    """When its head was last moved."""
    collection: Mapped[str] = mapped_column(String(80), default="")
    """The ledge of the shelf it stands on; empty where nobody put it on one."""
    deleted: Mapped[datetime | None] = mapped_column(Moment)
    """Since when it is off the shelf; it can be put back for a while."""
    head_id: Mapped[int | None] = mapped_column(ForeignKey("revisions.id", use_alter=True, name="fk_figures_head"))

    head: Mapped["Revision | None"] = relationship(foreign_keys=[head_id], post_update=True)
    sources: Mapped[list["Source"]] = relationship(back_populates="figure")
    revisions: Mapped[list["Revision"]] = relationship(
        back_populates="figure", foreign_keys="Revision.figure_id", order_by="Revision.number"
    )


class Source(Base):
    """A file that was brought in: the file itself and the mesh read from it, both as blobs."""

    __tablename__ = "sources"

    id: Mapped[int] = mapped_column(primary_key=True)
    figure_id: Mapped[int] = mapped_column(ForeignKey("figures.id"))
    file_name: Mapped[str] = mapped_column(String(255))
    file_hash: Mapped[BlobHash]
    file_bytes: Mapped[int] = mapped_column(Integer)
    mesh_hash: Mapped[BlobHash]
    upload: Mapped[str | None] = mapped_column(String(40), unique=True)
    """The upload it came by, so that one taken up again after a crash is not brought in twice."""
    look: Mapped[BlobHash | None]
    """Blob of a display mesh to look at until the first build is done."""
    brought: Mapped[datetime] = mapped_column(Moment, default=_now)

    figure: Mapped[Figure] = relationship(back_populates="sources")


class Revision(Base):
    """One state of a figure's recipe and editions; never changed once written. ``parent`` is what it was made from."""

    __tablename__ = "revisions"
    __table_args__ = (UniqueConstraint("figure_id", "number"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    figure_id: Mapped[int] = mapped_column(ForeignKey("figures.id"))
    number: Mapped[int] = mapped_column(Integer)
    parent_id: Mapped[int | None] = mapped_column(ForeignKey("revisions.id"))
    recipe: Mapped[dict[str, Any]] = mapped_column(JSON)
    editions: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    says: Mapped[str] = mapped_column(String(400))
    created: Mapped[datetime] = mapped_column(Moment, default=_now)

    owner_id = synonym("figure_id")
    figure: Mapped[Figure] = relationship(back_populates="revisions", foreign_keys=[figure_id])
    parent: Mapped["Revision | None"] = relationship(remote_side=[id], foreign_keys=[parent_id])


class Version(Base):
    """A revision frozen under a number, with every edition it had."""

    __tablename__ = "versions"
    __table_args__ = (UniqueConstraint("figure_id", "number"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    figure_id: Mapped[int] = mapped_column(ForeignKey("figures.id"))
    number: Mapped[int] = mapped_column(Integer)
    revision_id: Mapped[int] = mapped_column(ForeignKey("revisions.id"))
    says: Mapped[str] = mapped_column(String(400))
    created: Mapped[datetime] = mapped_column(Moment, default=_now)

    editions: Mapped[list["VersionEdition"]] = relationship(order_by="VersionEdition.id")


class VersionEdition(Base):
    """An edition as a version froze it, with the build it had then; without one it was not built."""

    __tablename__ = "version_editions"
    __table_args__ = (UniqueConstraint("version_id", "edition"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    version_id: Mapped[int] = mapped_column(ForeignKey("versions.id"))
    edition: Mapped[str] = mapped_column(String(20))
    name: Mapped[str] = mapped_column(String(60))
    build_key: Mapped[str | None] = mapped_column(ForeignKey("builds.key"))


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
    created: Mapped[datetime] = mapped_column(Moment, default=_now)

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
    worked: Mapped[datetime] = mapped_column(Moment, default=_now)

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
    created: Mapped[datetime] = mapped_column(Moment, default=_now)

    owner_id = synonym("proof_id")
    parent: Mapped["ProofRevision | None"] = relationship(remote_side=[id], foreign_keys=[parent_id])


class ProofDocument(Base):
    """A proof, by its number. ``head`` points at the revision in force; undo moves it back."""

    __tablename__ = "proofs"

    id: Mapped[int] = mapped_column(primary_key=True)
    head_id: Mapped[int | None] = mapped_column(ForeignKey("proof_revisions.id", use_alter=True, name="fk_proofs_head"))
    changes: Mapped[int] = mapped_column(Integer, default=0)
    worked: Mapped[datetime] = mapped_column(Moment, default=_now)
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
    created: Mapped[datetime] = mapped_column(Moment, default=_now)

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
    worked: Mapped[datetime] = mapped_column(Moment, default=_now)
    dropped: Mapped[datetime | None] = mapped_column(Moment)
    """Since when it is out of sight; it can be taken up again."""

    head: Mapped["ReleaseSetRevision | None"] = relationship(foreign_keys=[head_id], post_update=True)


class IssueRow(Base):
    """An issue of a release set: its packs as blobs, with their manifests; never changed once written."""

    __tablename__ = "issues"
    __table_args__ = (UniqueConstraint("set_id", "number"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    set_id: Mapped[int] = mapped_column(ForeignKey("release_sets.id"))
    number: Mapped[int] = mapped_column(Integer)
    date: Mapped[str] = mapped_column(String(10))
    """The day that was said."""
    packs: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    created: Mapped[datetime] = mapped_column(Moment, default=_now)


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
    created: Mapped[datetime] = mapped_column(Moment, default=_now)

    owner_id = synonym("plan_id")
    parent: Mapped["PlanRevision | None"] = relationship(remote_side=[id], foreign_keys=[parent_id])


class PlanDocument(Base):
    """What the studio plans. ``head`` points at the revision in force; undo moves it back."""

    __tablename__ = "plans"

    id: Mapped[int] = mapped_column(primary_key=True)
    head_id: Mapped[int | None] = mapped_column(ForeignKey("plan_revisions.id", use_alter=True, name="fk_plans_head"))
    changes: Mapped[int] = mapped_column(Integer, default=0)
    worked: Mapped[datetime] = mapped_column(Moment, default=_now)
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
    created: Mapped[datetime] = mapped_column(Moment, default=_now)

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
    worked: Mapped[datetime] = mapped_column(Moment, default=_now)
    dropped: Mapped[datetime | None] = mapped_column(Moment)
    """Since when it counts no more."""

    head: Mapped["PaintedRevision | None"] = relationship(foreign_keys=[head_id], post_update=True)


class MixRow(Base):
    """A mix that was made."""

    __tablename__ = "mixes"

    id: Mapped[int] = mapped_column(primary_key=True)
    mix: Mapped[Mix | dict[str, Any]] = mapped_column(ModelColumn(Mix))
    struck: Mapped[datetime | None] = mapped_column(Moment)
    """Since when it counts no more; it can be put back."""
    created: Mapped[datetime] = mapped_column(Moment, default=_now)


class StockEntry(Base):
    """A line of the ledger that was entered; lines of prints and of painted copies follow from those."""

    __tablename__ = "stock_entries"

    id: Mapped[int] = mapped_column(primary_key=True)
    entry: Mapped[Entry | dict[str, Any]] = mapped_column(ModelColumn(Entry))
    struck: Mapped[datetime | None] = mapped_column(Moment)
    """Since when it counts no more; it can be put back."""
    created: Mapped[datetime] = mapped_column(Moment, default=_now)


class LoggedHours(Base):
    """Time that somebody worked on a figure."""

    __tablename__ = "logged_hours"

    id: Mapped[int] = mapped_column(primary_key=True)
    figure_id: Mapped[int] = mapped_column(ForeignKey("figures.id"))
    kind: Mapped[str] = mapped_column(String(20))
    began: Mapped[datetime] = mapped_column(Moment)
    minutes: Mapped[float | None] = mapped_column(Float)
    """None while it runs."""
    says: Mapped[str] = mapped_column(String(200))
    struck: Mapped[datetime | None] = mapped_column(Moment)


class Bit(Base):
    """A part or a stamp on the shelf of bits, and whose it is.

    A part has its mesh as a blob and its size as sculpted in mm, a stamp what is said of its picture.
    """

    __tablename__ = "bits"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    tags: Mapped[list[str]] = mapped_column(JSON)
    mesh_hash: Mapped[BlobHash | None]
    picture: Mapped[BlobHash]
    """Blob of a PNG that shows it."""
    stamp: Mapped[StampTerms | None] = mapped_column(StampColumn)
    size: Mapped[list[float] | None] = mapped_column(JSON(none_as_null=True))
    credit: Mapped[dict[str, Any] | None] = mapped_column(JSON)
    """The sentence that credits it, None where nobody has said whose it is."""
    figure: Mapped[str] = mapped_column(String(120))
    """Name of the figure it was part of."""
    dropped: Mapped[datetime | None] = mapped_column(Moment)
    """Since when it is off the shelf; it can be put back for a while."""
    created: Mapped[datetime] = mapped_column(Moment, default=_now)


class BuildRow(Base):
    """The record of a finished build, under its key."""

    __tablename__ = "builds"

    key: Mapped[str] = mapped_column(String(64), primary_key=True)
    record: Mapped[dict[str, Any]] = mapped_column(JSON)
    finished: Mapped[datetime] = mapped_column(Moment, default=_now)


class StudioValue(Base):
    """A value of the studio by its name."""

    __tablename__ = "settings"

    name: Mapped[str] = mapped_column(String(40), primary_key=True)
    value: Mapped[Any] = mapped_column(JSON)


class ReleaseRow(Base):
    """A release that was made: its ZIP as a blob, and the build it came from."""

    __tablename__ = "releases"

    id: Mapped[int] = mapped_column(primary_key=True)
    figure_id: Mapped[int] = mapped_column(ForeignKey("figures.id"))
    revision_id: Mapped[int] = mapped_column(ForeignKey("revisions.id"))
    edition: Mapped[str] = mapped_column(String(20))
    edition_name: Mapped[str] = mapped_column(String(60))
    file_name: Mapped[str] = mapped_column(String(255))
    zip_hash: Mapped[BlobHash]
    zip_bytes: Mapped[int] = mapped_column(Integer)
    files: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    created: Mapped[datetime] = mapped_column(Moment, default=_now)
