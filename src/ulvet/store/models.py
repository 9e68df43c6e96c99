"""The tables."""

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, Float, ForeignKey, Integer, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship, synonym

from ulvet.core.blob_hash import BlobHash
from ulvet.core.finish.mix import Mix
from ulvet.core.stock.ledger import Entry
from ulvet.store.columns import Base, ModelColumn, Moment, StampColumn, StampTerms, now

__all__ = [
    "Bit",
    "BuildRow",
    "Figure",
    "IssueRow",
    "LoggedHours",
    "MixRow",
    "ReleaseRow",
    "Revision",
    "Source",
    "StockEntry",
    "StudioValue",
    "Version",
    "VersionEdition",
]


class Figure(Base):
    """One figure on the shelf. ``head`` points at the revision in force; undo moves it back."""

    __tablename__ = "figures"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    created: Mapped[datetime] = mapped_column(Moment, default=now)
    changes: Mapped[int] = mapped_column(Integer, default=0)
    """How often its head was moved, forward or back, so that of two answers the later one is known."""
    worked: Mapped[datetime] = mapped_column(Moment, default=now)
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
    brought: Mapped[datetime] = mapped_column(Moment, default=now)

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
    created: Mapped[datetime] = mapped_column(Moment, default=now)

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
    created: Mapped[datetime] = mapped_column(Moment, default=now)

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
    created: Mapped[datetime] = mapped_column(Moment, default=now)


class MixRow(Base):
    """A mix that was made."""

    __tablename__ = "mixes"

    id: Mapped[int] = mapped_column(primary_key=True)
    mix: Mapped[Mix | dict[str, Any]] = mapped_column(ModelColumn(Mix))
    struck: Mapped[datetime | None] = mapped_column(Moment)
    """Since when it counts no more; it can be put back."""
    created: Mapped[datetime] = mapped_column(Moment, default=now)


class StockEntry(Base):
    """A line of the ledger that was entered; lines of prints and of painted copies follow from those."""

    __tablename__ = "stock_entries"

    id: Mapped[int] = mapped_column(primary_key=True)
    entry: Mapped[Entry | dict[str, Any]] = mapped_column(ModelColumn(Entry))
    struck: Mapped[datetime | None] = mapped_column(Moment)
    """Since when it counts no more; it can be put back."""
    created: Mapped[datetime] = mapped_column(Moment, default=now)


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
    created: Mapped[datetime] = mapped_column(Moment, default=now)


class BuildRow(Base):
    """The record of a finished build, under its key."""

    __tablename__ = "builds"

    key: Mapped[str] = mapped_column(String(64), primary_key=True)
    record: Mapped[dict[str, Any]] = mapped_column(JSON)
    finished: Mapped[datetime] = mapped_column(Moment, default=now)


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
    created: Mapped[datetime] = mapped_column(Moment, default=now)
